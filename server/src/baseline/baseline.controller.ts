import { Body, ConflictException, Controller, Get, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { baselineStanding, modelRange, suspectsFor, USUAL_DAY, type BaselineStanding } from '@prandel/core';
import { IsIn, IsString, Length } from 'class-validator';
import { Database } from '../database/database.ts';
import { record } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { ProjectionsService } from '../projections/projections.service.ts';
import { Judging } from '../work/judging.ts';
import { seenPeaks } from './seenPeaks.ts';

export class SuspectLook {
  @ApiProperty() @IsString() @Length(1, 40) suspect: string;
  @ApiProperty({ enum: ['fine', 'found'] }) @IsIn(['fine', 'found']) result: 'fine' | 'found';
}

export class ModelRangeSeen {
  @ApiProperty() lowW: number;
  @ApiProperty() highW: number;
  @ApiProperty({ description: 'Cars it was seen on.' }) cars: number;
}

/** A baseline's standing, and how many other cars are still being worked out: ask again. */
export class BaselineAnswer {
  @ApiProperty({ type: Number, nullable: true }) peakW: number | null;
  @ApiProperty({ type: ModelRangeSeen, nullable: true }) range: ModelRangeSeen | null;
  @ApiProperty({ enum: ['low', 'inside', 'high', 'unknown'] }) stands: BaselineStanding['stands'];
  @ApiProperty() waiting: number;
}

/** A job's baseline beside what its model has shown, and the search for what makes it read low. */
@ApiTags('baseline')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/jobs/:id')
export class BaselineController {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly judging: Judging,
    private readonly projections: ProjectionsService,
  ) {}

  @Get('baseline')
  @ApiOkResponse({ type: BaselineAnswer })
  standing(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<BaselineAnswer> {
    return this.#standing(caller.shopId, id);
  }

  async #standing(shopId: string, id: string): Promise<BaselineAnswer> {
    const stored = await this.database.inShop(shopId, (tx) => this.store.read(tx, id, false));
    const read = async () => (await this.database.inShop(shopId, (tx) => this.store.read(tx, id, true))).job;
    const peak = await this.judging.baselinePeak(shopId, read);
    const { peaksW, missing } = await seenPeaks(this.database, shopId, stored);
    this.projections.ask(missing);
    return { ...baselineStanding(peak, modelRange(peaksW)), waiting: missing.length };
  }

  /** Writes down what somebody found when looking at one suspect. */
  @Post('suspects')
  @HttpCode(204)
  look(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: SuspectLook,
  ): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const { job } = await this.store.read(tx, id, false);
      const suspect = suspectsFor(job.vehicle).find((s) => s.key === body.suspect);
      if (!suspect) throw new ConflictException('This car has no such suspect.');
      const looked = { suspect: suspect.key, result: body.result, who: caller.name, at: new Date().toISOString() };
      await this.store.changeDay(tx, id, (day) => ({
        ...USUAL_DAY,
        ...day,
        search: [...(day.search ?? []).filter((l) => l.suspect !== suspect.key), looked],
      }));
      const what =
        body.result === 'fine'
          ? `Looked at ${suspect.label} because the baseline reads low: fine.`
          : `Found what makes the baseline read low: ${suspect.label}. Once it is cured the baseline is another one.`;
      await record(tx, caller.shopId, id, { person: caller.name, kind: 'edit', what });
    });
  }
}
