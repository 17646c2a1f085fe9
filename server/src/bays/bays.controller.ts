import { Body, Controller, Get, HttpCode, Param, ParseUUIDPipe, Post, Put, UseGuards } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { UNKNOWN_BAY, type BayLearned, type InstrumentStatus, type LiveSheet } from '@prandel/core';
import { USUAL_REGISTERS, type RegisterMap } from '@prandel/formats';
import { Database } from '../database/database.ts';
import { bays } from '../database/schema.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { LiveBays } from '../live/liveBays.ts';
import { Asker, SignedInGuard } from '../people/people.controller.ts';
import type { Caller } from '../people/people.service.ts';
import { learnedBy } from './bayHistory.ts';
import { BayEdit, SheetAction } from './bays.dto.ts';
import { RunSheet } from './runSheet.ts';

/** Bays with their instruments, and what is done in them. */
@ApiTags('bays')
@UseGuards(SignedInGuard)
@Controller('api/bays')
export class BaysController {
  constructor(
    private readonly live: LiveBays,
    private readonly database: Database,
    private readonly sheet: RunSheet,
    private readonly store: JobStore,
  ) {}

  /** Every bay with its device panel and the job that is in it. */
  @Get()
  list(@Asker() caller: Caller) {
    return this.live.all(caller.shopId).map((bay) => ({
      id: bay.row.id,
      label: bay.row.label,
      paper: bay.row.paper,
      instruments: bay.row.instruments,
      status: bay.instruments satisfies InstrumentStatus[],
      job: bay.jobRowId,
      ledElsewhere: !bay.started,
    }));
  }

  @Post()
  async add(@Asker() caller: Caller, @Body() body: BayEdit): Promise<{ id: string }> {
    const [row] = await this.database.inShop(caller.shopId, (tx) =>
      tx
        .insert(bays)
        .values({ shopId: caller.shopId, ...stored(body) })
        .returning(),
    );
    await this.live.start(row!);
    return { id: row!.id };
  }

  @Put(':id')
  @HttpCode(204)
  edit(@Asker() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: BayEdit): Promise<void> {
    return this.live.edit(caller.shopId, id, stored(body));
  }

  /** The run sheet as it stands now; the live channel tells what follows. */
  @Get(':id/sheet')
  sheetNow(@Asker() caller: Caller, @Param('id', ParseUUIDPipe) id: string): LiveSheet {
    return this.live.of(caller.shopId, id).sheet();
  }

  /** What the bay has learned of itself: pull-to-pull SD and allowances, and from how many rounds and return checks. */
  @Get(':id/history')
  history(@Asker() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<BayLearned> {
    const { label, paper } = this.live.of(caller.shopId, id).row;
    return this.database.inShop(caller.shopId, (tx) => learnedBy(tx, this.store, label, paper.calibrationEpoch, null));
  }

  @Post(':id/actions')
  @HttpCode(204)
  act(@Asker() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: SheetAction): Promise<void> {
    return this.sheet.act(caller, id, body);
  }
}

function stored({ label, paper, instruments }: BayEdit) {
  const { rollers = null, weather = null, bus = null, aux = null } = instruments;
  return {
    label,
    // A class leaves what a body does not hold undefined; that must not overwrite what is unknown.
    paper: { ...UNKNOWN_BAY, ...Object.fromEntries(Object.entries(paper).filter(([, v]) => v !== undefined)), label },
    instruments: { rollers, weather, bus, aux, registers: (instruments.registers as RegisterMap) ?? USUAL_REGISTERS },
  };
}
