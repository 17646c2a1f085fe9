import { Injectable } from '@nestjs/common';
import { baselineStanding, modelRange } from '@prandel/core';
import { Database } from '../database/database.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/caller.ts';
import { ProjectionsService } from '../projections/projections.service.ts';
import { Judging } from '../work/judging.ts';
import type { BaselineAnswer } from './baseline.dto.ts';
import { seenPeaks } from './seenPeaks.ts';

/** A job's baseline beside what its model has shown. */
@Injectable()
export class BaselineService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly judging: Judging,
    private readonly projections: ProjectionsService,
  ) {}

  async standing({ shopId }: Caller, id: string): Promise<BaselineAnswer> {
    const stored = await this.database.inShop(shopId, (tx) => this.store.read(tx, id, false));
    const peak = await this.judging.baselinePeak(shopId, stored);
    const { peaksW, missing } = await seenPeaks(this.database, shopId, stored);
    this.projections.ask(missing);
    return { ...baselineStanding(peak, modelRange(peaksW)), waiting: missing.length };
  }
}
