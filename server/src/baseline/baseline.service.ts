import { ConflictException, Injectable } from '@nestjs/common';
import { baselineStanding, modelRange, suspectsFor, USUAL_DAY } from '@prandel/core';
import { Database } from '../database/database.ts';
import { record } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/caller.ts';
import { ProjectionsService } from '../projections/projections.service.ts';
import { Judging } from '../work/judging.ts';
import type { BaselineAnswer, SuspectLook } from './baseline.dto.ts';
import { seenPeaks } from './seenPeaks.ts';

/** A job's baseline beside what its model has shown, and the search for what makes it read low. */
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

  /** Writes down what somebody found when looking at one suspect. @throws ConflictException when the car has no such suspect */
  look(caller: Caller, id: string, body: SuspectLook): Promise<void> {
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
