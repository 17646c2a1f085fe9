import { Injectable } from '@nestjs/common';
import { UNKNOWN_BAY, type BayLearned, type InstrumentStatus } from '@prandel/core';
import { USUAL_REGISTERS } from '@prandel/formats';
import type { Request } from 'express';
import { Database } from '../database/database.ts';
import type { Made } from '../http/answers.ts';
import type { BayListed } from '../http/coreAnswers.ts';
import { LiveBays } from '../live/liveBays.ts';
import { BayRelay } from '../live/relay.ts';
import type { Caller } from '../people/caller.ts';
import { BayHistory } from './bayHistory.ts';
import type { BayEdit, NewBay } from './bays.dto.ts';

const NO_INSTRUMENTS = { rollers: null, weather: null, bus: null, aux: null, registers: USUAL_REGISTERS };

/** The bays of a shop as the desk sees them: their settings, devices and what they have learned. */
@Injectable()
export class BaysService {
  constructor(
    private readonly live: LiveBays,
    private readonly relay: BayRelay,
    private readonly database: Database,
    private readonly history: BayHistory,
  ) {}

  /** Every bay with its device panel and the job that is in it; of a bay that another process leads, what that process says. */
  async list(caller: Caller, request: Request): Promise<BayListed[]> {
    const own = this.live.all(caller.shopId).map((bay) => ({
      id: bay.row.id,
      label: bay.row.label,
      version: bay.row.version,
      rollers: bay.row.rollers,
      instruments: bay.row.instruments,
      status: bay.instruments satisfies InstrumentStatus[],
      job: bay.jobRowId,
      fault: this.live.faultOf(bay),
      ledElsewhere: !bay.started && this.live.faultOf(bay) === null,
    }));
    const elsewhere = own.filter((bay) => bay.ledElsewhere).map((bay) => bay.id);
    if (elsewhere.length === 0) return own;
    const listed = await this.relay.listed<BayListed>(request, elsewhere);
    return own.map((bay) => listed.get(bay.id) ?? bay);
  }

  add(caller: Caller, { label, rollers, instruments }: NewBay): Promise<Made> {
    return this.live.add(caller.shopId, {
      label,
      rollers: { ...UNKNOWN_BAY, ...named(rollers), label },
      instruments: { ...NO_INSTRUMENTS, ...named(instruments) },
    });
  }

  /** Changes the fields that are named. */
  edit(caller: Caller, id: string, { version, label, rollers, instruments }: BayEdit): Promise<void> {
    return this.live.edit(caller.shopId, id, version, {
      label,
      rollers: rollers && named(rollers),
      instruments: instruments && named(instruments),
    });
  }

  /** What the bay has learned of itself in its present calibration. @param exceptJob a job that is not to teach it */
  learned(caller: Caller, id: string, exceptJob?: string): Promise<BayLearned> {
    const { rollers } = this.live.of(caller.shopId, id).row;
    const which = { bayId: id, epoch: rollers.calibrationEpoch, exceptJob: exceptJob ?? null };
    return this.database.inShop(caller.shopId, (tx) => this.history.learned(tx, caller.shopId, which));
  }
}

const named = <T extends object>(body: T) =>
  Object.fromEntries(Object.entries(body).filter(([, value]) => value !== undefined)) as Partial<T>;
