import { ConflictException } from '@nestjs/common';
import { linked, type EvidenceRow } from '@prandel/formats';
import { asc, desc, eq } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { evidence, jobs } from '../database/schema.ts';

export const EVIDENCE_KINDS = [
  'edit',
  'note',
  'pull',
  'set-aside',
  'override',
  'fitting',
  'round',
  'reading',
  'alarm',
  'search',
  'seal',
] as const;
export type EvidenceKind = (typeof EVIDENCE_KINDS)[number];

/** Whatever else belongs to an event; JSON. */
export type EventDetail = Readonly<Record<string, unknown>>;

export interface EvidenceEvent {
  readonly person: string;
  readonly kind: EvidenceKind;
  readonly what: string;
  readonly detail?: EventDetail;
  /** When it happened; now, unless it happened on the bay's clock. */
  readonly at?: Date;
}

/** The answer to whoever would change a sealed job. */
export function sealedJob(): ConflictException {
  return new ConflictException('This job is sealed: nothing in it can be changed. Reopen it with a reason first.');
}

/**
 * Adds an event to a job's log, chained to the row before. The job's row is locked, so that no two events share a place.
 * @throws ConflictException for a sealed job, whose log is closed until it is reopened
 */
export async function record(tx: Transaction, shopId: string, jobId: string, event: EvidenceEvent): Promise<void> {
  const [job] = await tx.select({ sealedAt: jobs.sealedAt }).from(jobs).where(eq(jobs.id, jobId)).for('no key update');
  if (job?.sealedAt && event.kind !== 'seal') throw sealedJob();
  const [last] = await tx.select().from(evidence).where(eq(evidence.jobId, jobId)).orderBy(desc(evidence.n)).limit(1);
  const row = linked(last ?? null, {
    at: (event.at ?? new Date()).toISOString(),
    person: event.person,
    kind: event.kind,
    what: event.what,
    detail: event.detail ? JSON.stringify(event.detail) : '',
  });
  await tx.insert(evidence).values({ ...row, shopId, jobId });
}

export async function evidenceOf(tx: Transaction, jobId: string): Promise<EvidenceRow[]> {
  const rows = await tx.select().from(evidence).where(eq(evidence.jobId, jobId)).orderBy(asc(evidence.n));
  return rows.map(({ n, at, person, kind, what, detail, hash }) => ({ n, at, person, kind, what, detail, hash }));
}

/** Puts the sound log of an imported package before whatever happens to the job from now on. */
export async function restoreEvidence(
  tx: Transaction,
  shopId: string,
  jobId: string,
  rows: readonly EvidenceRow[],
): Promise<void> {
  if (rows.length > 0)
    await tx.insert(evidence).values(rows.map((row) => ({ ...row, shopId, jobId, personId: null, tokenId: null })));
}
