import { linked, type EvidenceRow } from '@prandel/formats';
import { asc, desc, eq, sql } from 'drizzle-orm';
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
] as const;
export type EvidenceKind = (typeof EVIDENCE_KINDS)[number];

export interface EvidenceEvent {
  readonly person: string;
  readonly kind: EvidenceKind;
  readonly what: string;
  readonly detail?: Readonly<Record<string, unknown>>;
  /** When it happened; now, unless it happened on the bay's clock. */
  readonly at?: Date;
}

/** Adds an event to a job's log, chained to the row before. The job's row is locked, so that no two events share a place. */
export async function record(tx: Transaction, shopId: string, jobId: string, event: EvidenceEvent): Promise<void> {
  await tx.execute(sql`SELECT id FROM ${jobs} WHERE id = ${jobId} FOR NO KEY UPDATE`);
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
