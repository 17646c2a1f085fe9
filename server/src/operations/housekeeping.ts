import { Injectable, Logger, type OnModuleDestroy } from '@nestjs/common';
import { and, eq, inArray, isNotNull, isNull, lt, or, sql } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { databaseAway, loggable } from '../database/faults.ts';
import {
  channels,
  files,
  fittings,
  handReadings,
  intakeNotes,
  jobDays,
  jobs,
  loggers,
  oneTimeLinks,
  planSteps,
  pulls,
  roadCars,
  roadPasses,
  seals,
  sessions,
  setups,
  weatherReadings,
} from '../database/schema.ts';
import { daysAgo, UNDO_DAYS } from '../database/undo.ts';

const EVERY_MS = 3_600_000;
/** Files that were looked at and never imported are kept this long. */
const STAGED_DAYS = 1;
const IDLE_DAYS = 7;
const AT_ONCE = 20;

/**
 * Clears away what nobody can want any more: files staged a day ago, jobs deleted thirty days ago, sessions and tries that are over.
 * Of a deleted job the row and its evidence log stay, since evidence is only ever added to.
 */
@Injectable()
export class Housekeeping implements OnModuleDestroy {
  readonly #log = new Logger('Housekeeping');
  #timer: NodeJS.Timeout | null = null;
  #working: Promise<void> = Promise.resolve();

  constructor(private readonly database: Database) {}

  start(): void {
    const round = () => {
      this.#working = this.tidy().catch((error: unknown) => {
        if (!databaseAway(error)) this.#log.error(loggable(error));
      });
    };
    round();
    this.#timer = setInterval(round, EVERY_MS);
  }

  /** One round; of several processes only one does it. */
  async tidy(): Promise<void> {
    if (!(await this.database.leads.take('prandel housekeeping'))) return;
    await this.database.clearTries(EVERY_MS);
    for (const shopId of await this.database.everyShop()) {
      await this.database.inShop(shopId, async (tx) => {
        await tx.delete(files).where(and(eq(files.kind, 'staged'), lt(files.addedAt, daysAgo(STAGED_DAYS))));
        await tx
          .delete(sessions)
          .where(or(lt(sessions.expiresAt, new Date()), lt(sessions.lastSeenAt, daysAgo(IDLE_DAYS))));
        await tx
          .delete(oneTimeLinks)
          .where(and(isNull(oneTimeLinks.usedAt), lt(oneTimeLinks.expiresAt, daysAgo(UNDO_DAYS))));
      });
      while ((await this.#clearDeleted(shopId)) === AT_ONCE);
    }
  }

  /** Clears the contents of some jobs whose time is over. @returns how many */
  #clearDeleted(shopId: string): Promise<number> {
    return this.database.inShop(shopId, async (tx) => {
      const over = await tx
        .select({ id: jobs.id })
        .from(jobs)
        .where(
          and(
            isNotNull(jobs.deletedAt),
            lt(jobs.deletedAt, daysAgo(UNDO_DAYS)),
            sql`EXISTS (SELECT 1 FROM ${setups} WHERE ${setups.jobId} = ${jobs.id})`,
          ),
        )
        .limit(AT_ONCE)
        .for('update');
      const ids = over.map(({ id }) => id);
      if (ids.length === 0) return 0;
      const own = tx.select({ id: pulls.id }).from(pulls).where(inArray(pulls.jobId, ids));
      await tx.delete(channels).where(inArray(channels.pullId, own));
      await tx.delete(pulls).where(inArray(pulls.jobId, ids));
      // Their links end with them.
      await tx.delete(seals).where(inArray(seals.jobId, ids));
      for (const table of [loggers, files, roadPasses, roadCars, handReadings])
        await tx.delete(table).where(inArray(table.jobId, ids));
      await tx.delete(setups).where(inArray(setups.jobId, ids));
      await tx.delete(jobDays).where(inArray(jobDays.jobId, ids));
      for (const table of [weatherReadings, fittings, intakeNotes, planSteps])
        await tx.delete(table).where(inArray(table.jobId, ids));
      await tx.update(jobs).set({ extras: null }).where(inArray(jobs.id, ids));
      return ids.length;
    });
  }

  async onModuleDestroy(): Promise<void> {
    if (this.#timer) clearInterval(this.#timer);
    await this.#working;
  }
}
