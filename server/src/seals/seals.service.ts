import { ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { brokenRow, fingerprint, linked } from '@prandel/formats';
import { and, asc, desc, eq, inArray, isNull } from 'drizzle-orm';
import { v7 } from 'uuid';
import { Database, type Transaction } from '../database/database.ts';
import { bayRuns, evidence, jobs, recordings, seals, shareLinks } from '../database/schema.ts';
import { evidenceOf, record } from '../evidence/evidence.ts';
import { storeFile } from '../files/fileStore.ts';
import { FittedParts } from '../jobs/fittedParts.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/caller.ts';
import { Judging } from '../work/judging.ts';
import { ShopKeys } from './shopKeys.ts';
import type { SealAnswer, ShareLinkAnswer } from './seals.dto.ts';

type SealRow = typeof seals.$inferSelect;

/** Seals jobs and opens them again. What is sealed is stored whole: package, report, figures, as they were. */
@Injectable()
export class SealsService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly judging: Judging,
    private readonly parts: FittedParts,
    private readonly keys: ShopKeys,
  ) {}

  /**
   * @param checkAt address of the page that checks seals, for the printed sheet
   * @throws ConflictException while a pull is recorded, with a broken log, without a key, or when the job changed meanwhile
   * @throws UnprocessableEntityException when there is no verdict to seal
   */
  async seal(caller: Caller, jobId: string, checkAt: string): Promise<void> {
    const { shopId } = caller;
    const key = await this.keys.forSealing(shopId);
    const recorded = await this.parts.of(caller, jobId);
    const sealedAt = new Date();
    const before = await this.database.inShop(shopId, async (tx) => {
      await refuseBusy(tx, jobId);
      const stored = await this.store.read(tx, jobId, true);
      if (stored.sealedAt) throw new ConflictException('This job is sealed already.');
      const extras = await this.store.extras(tx, jobId);
      const [last] = await sealsOf(tx, jobId);
      return { stored, extras, last: last ?? null, rows: await evidenceOf(tx, jobId) };
    });
    const { stored, extras, last, rows } = before;
    const broken = brokenRow(rows);
    if (broken) throw new ConflictException(`The job cannot be sealed: its log does not hold. ${broken.why}`);
    const n = (last?.n ?? 0) + 1;
    const event = linked(rows.at(-1) ?? null, {
      ...{ at: sealedAt.toISOString(), person: caller.name, kind: 'seal' },
      what: n === 1 ? 'Sealed the job.' : `Sealed the job again, in place of sealing ${last!.n}.`,
      detail: JSON.stringify({ n, publicKey: key.publicKey, supersedes: last?.sha256 ?? null }),
    });
    const made = await this.judging.sealJob(
      caller,
      { rowId: stored.rowId, job: { ...stored.job, pulls: stored.job.pulls.map((p) => ({ ...p, channels: [] })) } },
      {
        ...{ extras, recorded, key, checkAt },
        log: [...rows, event],
        reader: { shop: caller.shop, name: caller.name, units: caller.units },
        supersedes: last?.sha256 ?? null,
        sealedAt: sealedAt.toISOString(),
      },
      stored.job,
    );
    await this.database.inShop(shopId, async (tx) => {
      await this.store.lock(tx, jobId);
      await refuseBusy(tx, jobId);
      const closed = await tx
        .update(jobs)
        .set({ sealedAt, updatedAt: sealedAt })
        .where(and(eq(jobs.id, jobId), eq(jobs.version, stored.version), isNull(jobs.sealedAt)))
        .returning({ id: jobs.id });
      const [tail] = await tx
        .select({ n: evidence.n })
        .from(evidence)
        .where(eq(evidence.jobId, jobId))
        .orderBy(desc(evidence.n))
        .limit(1);
      if (closed.length === 0 || (tail?.n ?? 0) !== rows.length)
        throw new ConflictException('Somebody changed this job while it was being sealed. Look, then seal it again.');
      await tx.insert(evidence).values({ ...event, shopId, jobId });
      const own = { shopId, jobId } as const;
      const name = fileNameOf(stored.job.id);
      const packed = await storeFile(tx, { ...own, kind: 'sealed-package', name: `${name}.zip` }, made.package);
      const report = await storeFile(tx, { ...own, kind: 'sealed-report', name: `report-${name}.html` }, made.report);
      await tx.insert(seals).values({
        ...{ id: v7(), shopId, jobId, n, sealedAt, by: caller.name, publicKey: key.publicKey },
        ...{ seal: made.seal, sha256: made.sha256, page: made.page },
        ...{ packageFileId: packed.id, reportFileId: report.id },
      });
    });
  }

  /** Opens a sealed job again. Its seal stays what it was; the next one names it. @throws ConflictException for an open job */
  async reopen(caller: Caller, jobId: string, reason: string): Promise<void> {
    await this.database.inShop(caller.shopId, async (tx) => {
      await this.store.lock(tx, jobId);
      const [last] = await sealsOf(tx, jobId);
      const opened = await tx
        .update(jobs)
        .set({ sealedAt: null, updatedAt: new Date() })
        .where(and(eq(jobs.id, jobId), eq(jobs.sealedAt, last?.sealedAt ?? new Date(0))))
        .returning({ id: jobs.id });
      if (!last || opened.length === 0) throw new ConflictException('This job is not sealed.');
      const at = new Date();
      await tx
        .update(seals)
        .set({ reopenedAt: at, reopenedBy: caller.name, reopenReason: reason.trim() })
        .where(eq(seals.id, last.id));
      await record(tx, caller.shopId, jobId, {
        ...{ person: caller.name, kind: 'seal', at },
        what: `Reopened the job: ${reason.trim()}`,
        detail: { n: last.n, seal: last.sha256 },
      });
    });
  }

  /** Sealings of a job, newest first, with the links to each. @throws NotFoundException when the shop has no such job */
  list(caller: Caller, jobId: string): Promise<SealAnswer[]> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [known] = await tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, jobId));
      if (!known) throw new NotFoundException('This shop has no such job.');
      const rows = await sealsOf(tx, jobId);
      if (rows.length === 0) return [];
      const links = await tx
        .select()
        .from(shareLinks)
        .where(
          inArray(
            shareLinks.sealId,
            rows.map((row) => row.id),
          ),
        )
        .orderBy(asc(shareLinks.madeAt));
      return rows.map((row) => ({
        ...{ id: row.id, n: row.n, by: row.by, sha256: row.sha256, fingerprint: fingerprint(row.publicKey) },
        ...{ reopenedBy: row.reopenedBy, reopenReason: row.reopenReason },
        sealedAt: row.sealedAt.toISOString(),
        reopenedAt: row.reopenedAt?.toISOString() ?? null,
        links: links.filter((link) => link.sealId === row.id).map(linkAnswer),
      }));
    });
  }
}

/** Sealings of a job, newest first. */
export function sealsOf(tx: Transaction, jobId: string): Promise<SealRow[]> {
  return tx.select().from(seals).where(eq(seals.jobId, jobId)).orderBy(desc(seals.n));
}

/** The seal that a job is under now; null: it is open. */
export async function sealInForce(tx: Transaction, jobId: string): Promise<SealRow | null> {
  const [row] = await tx
    .select({ seal: seals })
    .from(seals)
    .innerJoin(jobs, and(eq(jobs.id, seals.jobId), eq(jobs.sealedAt, seals.sealedAt)))
    .where(and(eq(seals.jobId, jobId), isNull(seals.reopenedAt)))
    .orderBy(desc(seals.n))
    .limit(1);
  return row?.seal ?? null;
}

/** A job's number as a file may be called. */
export function fileNameOf(number: string): string {
  return number.replace(/[^A-Za-z0-9._-]+/g, '-').slice(0, 60) || 'job';
}

async function refuseBusy(tx: Transaction, jobId: string): Promise<void> {
  const [recording] = await tx.select({ id: recordings.id }).from(recordings).where(eq(recordings.jobId, jobId));
  if (recording) throw new ConflictException('A pull of this job is being recorded. Seal it when the pull is in.');
  const [on] = await tx.select({ bay: bayRuns.bayId }).from(bayRuns).where(eq(bayRuns.jobId, jobId));
  if (on) throw new ConflictException('This job is on a bay. Take its car off the rollers first.');
}

function linkAnswer(row: typeof shareLinks.$inferSelect): ShareLinkAnswer {
  const { id, label, madeBy, views } = row;
  return {
    ...{ id, label, madeBy, views },
    madeAt: row.madeAt.toISOString(),
    expiresAt: row.expiresAt?.toISOString() ?? null,
    withdrawnAt: row.withdrawnAt?.toISOString() ?? null,
    lastViewedAt: row.lastViewedAt?.toISOString() ?? null,
  };
}
