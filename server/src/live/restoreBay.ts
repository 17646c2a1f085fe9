import { and, eq, isNull } from 'drizzle-orm';
import type { Database } from '../database/database.ts';
import type { RecordingDraft } from '../database/shapes.ts';
import { recordings } from '../database/schema.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import type { LiveRun } from './liveRun.ts';
import { closeOrQuarantine } from './quarantine.ts';
import type { StoredRecording } from './recorder.ts';

const CUT = 'The server stopped in the middle of this pull.';

/**
 * Finishes what an earlier process left open in a bay and reads its run. Recordings of a job become pulls, set aside, or are
 * quarantined. @returns those without a job, which wait for the job that comes
 */
export async function closeCutRecordings(
  { database, store }: { database: Database; store: JobStore },
  bay: { readonly id: string; readonly shopId: string },
  run: LiveRun,
): Promise<StoredRecording[]> {
  const open = await database.inShop(bay.shopId, (tx) =>
    tx
      .select()
      .from(recordings)
      .where(and(eq(recordings.bayId, bay.id), isNull(recordings.quarantinedAt))),
  );
  for (const recording of open) await closeOrQuarantine(database, store, bay.shopId, recording, CUT);
  await database.inShop(bay.shopId, (tx) => run.read(tx));
  const own = open.filter(({ jobId }) => jobId !== null);
  await countPauseFrom(
    own.map(({ draft }) => draft),
    { database, shopId: bay.shopId, run },
  );
  return open.filter(({ jobId }) => jobId === null);
}

/** The pause before the next pull is counted from a pull that was cut off too. */
async function countPauseFrom(
  drafts: readonly RecordingDraft[],
  { database, shopId, run }: { database: Database; shopId: string; run: LiveRun },
): Promise<void> {
  const last = drafts.toSorted((a, b) => a.startMs - b.startMs).at(-1);
  if (!run.now || !last) return;
  const { setupId, round } = last.pull;
  const next = {
    ...run.now,
    override: null,
    lastPullRound: `${setupId}#${round}`,
    lastPullEndedAt: new Date(last.startMs).toISOString(),
  };
  await database.inShop(shopId, (tx) => run.keep(tx, next));
  run.show(next);
}
