import { and, count, desc, eq, isNotNull, sql } from 'drizzle-orm';
import { lastingFault } from '../database/faults.ts';
import type { Database, Transaction } from '../database/database.ts';
import { jobs, recordingChunks, recordings } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import { closeRecording, type StoredRecording } from './recorder.ts';

/** A recording that could not become a pull: kept with its samples until a person decides. */
export interface Quarantined {
  readonly id: string;
  readonly startedAt: string;
  readonly quarantinedAt: string;
  readonly reason: string;
  readonly setup: string;
  readonly job: { readonly id: string; readonly title: string } | null;
  readonly samples: number;
}

/** Keeps a recording out of the way of those that follow it. */
export async function quarantine(tx: Transaction, shopId: string, id: string, reason: string): Promise<void> {
  const [row] = await tx
    .update(recordings)
    .set({ quarantinedAt: new Date(), quarantineReason: reason })
    .where(eq(recordings.id, id))
    .returning({ jobId: recordings.jobId });
  if (row?.jobId)
    await record(tx, shopId, row.jobId, {
      person: 'the bay',
      kind: 'alarm',
      what: `A recording could not become a pull (${reason}). It is kept with its samples on the page of its bay.`,
      detail: { recording: id },
    });
}

/** How many recordings of a bay wait for a person. */
export async function countQuarantined(tx: Transaction, bayId: string): Promise<number> {
  const [row] = await tx
    .select({ n: count() })
    .from(recordings)
    .where(and(eq(recordings.bayId, bayId), isNotNull(recordings.quarantinedAt)));
  return row?.n ?? 0;
}

/** The quarantined recordings of a bay, newest first. */
export async function quarantined(tx: Transaction, bayId: string): Promise<Quarantined[]> {
  const rows = await tx
    .select({
      id: recordings.id,
      draft: recordings.draft,
      at: recordings.quarantinedAt,
      reason: recordings.quarantineReason,
      jobId: recordings.jobId,
      title: jobs.title,
      bytes: sql<number>`coalesce((SELECT sum(length(samples)) FROM ${recordingChunks} WHERE recording_id = ${recordings.id}), 0)::float8`,
    })
    .from(recordings)
    .leftJoin(jobs, eq(jobs.id, recordings.jobId))
    .where(and(eq(recordings.bayId, bayId), isNotNull(recordings.quarantinedAt)))
    .orderBy(desc(recordings.quarantinedAt))
    .limit(50);
  return rows.map(({ id, draft, at, reason, jobId, title, bytes }) => ({
    id,
    startedAt: draft.pull.startedAt ?? new Date(draft.startMs).toISOString(),
    quarantinedAt: at!.toISOString(),
    reason: reason ?? '',
    setup: draft.pull.setupId,
    job: jobId && title !== null ? { id: jobId, title } : null,
    samples: Math.floor(bytes / 8 / Math.max(1, draft.channels.length)),
  }));
}

/**
 * Makes a pull of a recording that an earlier process left open; one that cannot become a pull is quarantined, so that it never
 * keeps a bay from starting. @throws when the database does not answer
 */
export async function closeOrQuarantine(
  database: Database,
  store: JobStore,
  shopId: string,
  { id, jobId, draft }: StoredRecording,
  cut: string,
): Promise<void> {
  if (jobId === null) return;
  try {
    await database.inShop(shopId, (tx) => closeRecording(tx, store, shopId, jobId, { id, draft, cut }));
  } catch (error) {
    if (!lastingFault(error)) throw error;
    const why = error instanceof Error && error.cause instanceof Error ? error.cause : (error as Error);
    await database.inShop(shopId, (tx) => quarantine(tx, shopId, id, why.message.split('\n')[0]!));
  }
}
