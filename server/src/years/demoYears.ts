import { setTimeout as pause } from 'node:timers/promises';
import { Injectable, Logger, type OnModuleDestroy } from '@nestjs/common';
import { and, eq, inArray } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { databaseAway, loggable } from '../database/faults.ts';
import { bayAnswers, bayCalibrations, jobs, modelCards, parts, shops, vehicles } from '../database/schema.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { digestsOf } from '../jobs/pullDigests.ts';
import { ProjectionsService } from '../projections/projections.service.ts';
import { insertRecord } from '../records/recordFields.ts';
import { linkPart } from '../shelf/studies.ts';

/** Between two jobs, so that whoever uses the server meanwhile is not kept waiting. */
const PAUSE_MS = 15;

/** Makes the demo shop's two years in the background, job after job; a server that is started again goes on where the last one stopped. */
@Injectable()
export class DemoYears implements OnModuleDestroy {
  readonly #log = new Logger('Demo');
  #stopped = false;
  #working: Promise<void> = Promise.resolve();

  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly projections: ProjectionsService,
  ) {}

  start(shopId: string): void {
    this.#working = this.#make(shopId).catch((error: unknown) => {
      if (!this.#stopped && !databaseAway(error)) this.#log.error(loggable(error));
    });
  }

  /** How far it is; null for a shop that has no such years. */
  progress(shopId: string): Promise<{ made: number; of: number } | null> {
    return this.database.inShop(shopId, async (tx) => {
      const [row] = await tx
        .select({ made: shops.demoMade, of: shops.demoOf })
        .from(shops)
        .where(eq(shops.shopId, shopId));
      return row?.made == null || row.of === null ? null : { made: row.made, of: row.of };
    });
  }

  async #make(shopId: string): Promise<void> {
    // Only a demo loads the simulator.
    const { twoYears, yearJob, YEAR_MODELS, YEAR_PARTS, DEMO_SHOP } = await import('@prandel/simulator');
    const days = twoYears();
    const from = await this.database.inShop(shopId, async (tx) => {
      const [row] = await tx.select({ made: shops.demoMade }).from(shops).where(eq(shops.shopId, shopId));
      if (row?.made != null) return row.made;
      for (const { card } of YEAR_MODELS) {
        const [known] = await tx.select({ id: modelCards.id }).from(modelCards).where(eq(modelCards.label, card.label));
        if (!known) await insertRecord(tx, shopId, { kind: 'model-card', label: card.label, fields: card as never });
      }
      for (const { name, kind, price, hours, promisedPercent } of YEAR_PARTS) {
        const [known] = await tx.select({ id: parts.id }).from(parts).where(eq(parts.name, name));
        const fields = { kind, price, hours, promisedPercent, currency: 'EUR' };
        if (!known)
          await linkPart(tx, shopId, await insertRecord(tx, shopId, { kind: 'part', label: name, fields }), name);
      }
      await tx.update(shops).set({ demoMade: 0, demoOf: days.length }).where(eq(shops.shopId, shopId));
      return 0;
    });
    if (from >= days.length) return;
    let last: string | null = null;
    for (let made = from; made < days.length && !this.#stopped; made += 1) {
      const job = yearJob(days[made]!);
      const jobId = await this.database.inShop(shopId, async (tx) => {
        const id = await this.store.insert(tx, shopId, job, null);
        const what = 'Made by the simulator from a seed, as one of the demo’s two years.';
        await this.store.note(tx, shopId, id, DEMO_SHOP.person, what, 'edit', { digests: digestsOf(job.pulls) });
        // It was worked on when its pulls were made.
        await tx
          .update(jobs)
          .set({ updatedAt: new Date(job.pulls.at(-1)!.startedAt!) })
          .where(eq(jobs.id, id));
        await tx
          .update(shops)
          .set({ demoMade: made + 1 })
          .where(eq(shops.shopId, shopId));
        return id;
      });
      this.projections.ask([{ shopId, jobId }]);
      if (days[made]!.part === null) await this.#referenceCar(shopId, jobId);
      last = jobId;
      await pause(PAUSE_MS);
    }
    if (!this.#stopped && last !== null) await this.#recalibrated(shopId, last);
  }

  /** What the reference car showed before the rollers were calibrated anew was answered then. */
  async #recalibrated(shopId: string, jobId: string): Promise<void> {
    const { DEMO_SHOP, RECALIBRATED } = await import('@prandel/simulator');
    const at = new Date(RECALIBRATED);
    await this.database.inShop(shopId, async (tx) => {
      const [bay] = await tx
        .select({ id: bayCalibrations.bayId })
        .from(jobs)
        .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
        .where(eq(jobs.id, jobId));
      if (!bay?.id) return;
      await tx.insert(bayAnswers).values({
        ...{ shopId, bayId: bay.id, chart: 'reference', answer: 'calibration', who: DEMO_SHOP.person, at, until: at },
        words: 'The loss of the rollers had changed: coasted down again, a new epoch begun.',
      });
    });
  }

  /** The shop's own car is known as what it is from its first round on. */
  async #referenceCar(shopId: string, jobId: string): Promise<void> {
    await this.database.inShop(shopId, (tx) =>
      tx
        .update(vehicles)
        .set({ reference: true })
        .where(
          and(
            inArray(vehicles.id, tx.select({ id: jobs.vehicleId }).from(jobs).where(eq(jobs.id, jobId))),
            eq(vehicles.reference, false),
          ),
        ),
    );
  }

  async onModuleDestroy(): Promise<void> {
    this.#stopped = true;
    await this.#working;
  }
}
