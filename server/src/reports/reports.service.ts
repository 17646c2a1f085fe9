import { Injectable, NotFoundException } from '@nestjs/common';
import { ENGINE_VERSION, FRAME_VERSION } from '@prandel/core';
import { and, eq, isNull } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { bayCalibrations, bays, jobs, shops } from '../database/schema.ts';
import { fileBytes } from '../files/fileStore.ts';
import { FittedParts } from '../jobs/fittedParts.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import type { Caller } from '../people/caller.ts';
import { sealInForce } from '../seals/seals.service.ts';
import { Judging } from '../work/judging.ts';

/** Reports that are kept, the latest; some 450 kB each, fonts and all. */
const MOST_KEPT = 24;
/** A report bears its day; every time zone begins its days on a quarter of an hour. */
const QUARTER_MS = 15 * 60_000;

/** The customer's sheet. What was written once is handed out again as long as nothing that it shows has changed; a sealed job's sheet is the one that was sealed. */
@Injectable()
export class ReportsService {
  readonly #kept = new Map<string, string>();

  constructor(
    private readonly database: Database,
    private readonly jobs: JobsService,
    private readonly judging: Judging,
    private readonly parts: FittedParts,
  ) {}

  /** @throws NotFoundException when this shop has no such job; UnprocessableEntityException when it cannot be judged */
  async html(caller: Caller, id: string): Promise<string> {
    const sealed = await this.database.inShop(caller.shopId, async (tx) => {
      const seal = await sealInForce(tx, id);
      return seal && (await fileBytes(tx, seal.reportFileId));
    });
    if (sealed) return sealed.toString('utf8');
    const [recorded, state] = await Promise.all([this.parts.of(caller, id), this.#stateOf(caller, id)]);
    const { shopId, shop, name, units } = caller;
    const quarter = Math.floor(Date.now() / QUARTER_MS);
    // Everything that a report depends on: the job as it is, its bay's name, who reads it in which units, and the day.
    const key = JSON.stringify([
      ...[shopId, id, state, shop, name, units, recorded, quarter],
      ...[ENGINE_VERSION, FRAME_VERSION],
    ]);
    const html =
      this.#kept.get(key) ?? (await this.judging.reportHtml(caller, this.jobs.beingRead(caller, id), recorded));
    this.#kept.delete(key);
    this.#kept.set(key, html);
    for (const old of [...this.#kept.keys()].slice(0, -MOST_KEPT)) this.#kept.delete(old);
    return html;
  }

  /** What a job and its bay are now. @throws NotFoundException when this shop has no such job */
  async #stateOf({ shopId }: Caller, id: string) {
    const [state] = await this.database.inShop(shopId, (tx) =>
      tx
        .select({
          ...{ version: jobs.version, calibration: jobs.calibrationId, bay: bays.label },
          ...{ currency: shops.currency, rate: shops.hourlyRate },
        })
        .from(jobs)
        .innerJoin(shops, eq(shops.shopId, jobs.shopId))
        .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
        .leftJoin(bays, eq(bays.id, bayCalibrations.bayId))
        .where(and(eq(jobs.id, id), isNull(jobs.deletedAt))),
    );
    if (!state) throw new NotFoundException('This shop has no such job.');
    return state;
  }
}
