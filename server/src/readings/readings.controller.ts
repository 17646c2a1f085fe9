import {
  BadRequestException,
  Body,
  Controller,
  HttpCode,
  NotFoundException,
  Param,
  ParseUUIDPipe,
  Post,
} from '@nestjs/common';
import { ApiProperty, ApiTags } from '@nestjs/swagger';
import { pressureFitsElevation } from '@prandel/core';
import { and, eq } from 'drizzle-orm';
import { OrNull, Plausible } from '../http/checks.ts';
import { Database } from '../database/database.ts';
import { pulls } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { LiveBays } from '../live/liveBays.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';

export class AirReading {
  @ApiProperty() @Plausible('airC') airC: number;
  @ApiProperty({ description: 'Station pressure, not reduced to sea level.' })
  @Plausible('pressureHpa')
  pressureHpa: number;
  @ApiProperty({ nullable: true, type: Number, description: 'Fraction 0–1.' })
  @OrNull()
  @Plausible('relativeHumidity')
  relativeHumidity: number | null;
}

export class StartReading {
  @ApiProperty({ nullable: true, type: Number, description: 'Degrees Celsius.' })
  @OrNull()
  @Plausible('intakeC')
  intakeStartC: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Degrees Celsius.' })
  @OrNull()
  @Plausible('coolantC')
  coolantStartC: number | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Degrees Celsius.' })
  @OrNull()
  @Plausible('oilC')
  oilStartC: number | null;
}

/** Gauges read by hand: the bay's air where it has no weather station, and spot readings of a car without a sensor. */
@ApiTags('readings')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/jobs/:id')
export class ReadingsController {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly bays: LiveBays,
  ) {}

  /** The bay's air now; pulls within a quarter of an hour that recorded none take it. */
  @Post('weather')
  @HttpCode(204)
  air(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: AirReading): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const { job } = await this.store.read(tx, id, false);
      const { elevationM } = job.bay;
      if (elevationM !== null && !pressureFitsElevation(body.pressureHpa, elevationM))
        throw new BadRequestException(
          `${body.pressureHpa} hPa does not fit a bay at ${elevationM} m. Type the station pressure, not one reduced to sea level.`,
        );
      const at = new Date(this.bays.with(caller.shopId, id)?.atMs ?? Date.now());
      const reading = { at: at.toISOString(), ...body, relativeHumidity: body.relativeHumidity ?? null };
      await this.store.addWeather(tx, id, reading);
      await this.store.touch(tx, id);
      const what = `Read by hand: ${body.airC.toFixed(1)} °C, ${body.pressureHpa.toFixed(1)} hPa.`;
      await record(tx, caller.shopId, id, { person: caller.name, kind: 'reading', what, at, detail: reading });
    });
  }

  /** Start temperatures of one pull that no sensor told; what a sensor told is never typed over. */
  @Post('pulls/:pull/readings')
  @HttpCode(204)
  start(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('pull') pullKey: string,
    @Body() body: StartReading,
  ): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [row] = await tx
        .select()
        .from(pulls)
        .where(and(eq(pulls.jobId, id), eq(pulls.pullKey, pullKey)))
        .for('update');
      if (!row) throw new NotFoundException('This job has no such pull.');
      const typed = (['intakeStartC', 'coolantStartC', 'oilStartC'] as const).flatMap((key) => {
        const value = body[key];
        return typeof value === 'number' && row[key] === null ? [[key, value] as const] : [];
      });
      if (typed.length === 0)
        throw new BadRequestException('There is nothing to type: a sensor told it, or no value was given.');
      await tx.update(pulls).set(Object.fromEntries(typed)).where(eq(pulls.id, row.id));
      await this.store.touch(tx, id);
      const words = typed.map(([key, value]) => `${NAMES[key]} ${value} °C`).join(', ');
      const what = `Read by hand at the start of pull ${pullKey}: ${words}.`;
      await record(tx, caller.shopId, id, { person: caller.name, kind: 'reading', what });
    });
  }
}

const NAMES = { intakeStartC: 'intake air', coolantStartC: 'coolant', oilStartC: 'oil' } as const;
