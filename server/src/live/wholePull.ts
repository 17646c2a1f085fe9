import { detectedKind, type Channel, type NumberState } from '@prandel/core';
import { and, eq } from 'drizzle-orm';
import type { Database } from '../database/database.ts';
import { files } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { storeFile } from '../files/fileStore.ts';
import type { Upload } from '../files/uploads.ts';
import { storedSamples } from '../imports/importSteps.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import { allotPullKeys } from '../jobs/pullKeys.ts';
import { samplesDigest } from '../jobs/samplesDigest.ts';
import type { LiveJob } from './liveJob.ts';
import type { LiveRun } from './liveRun.ts';
import type { PullKeeper } from './pullKeeper.ts';
import type { Recovery } from './recovery.ts';
import { pullDraft, type conditionsOf } from './pullDraft.ts';

/** A pull that came in a file, with what the file says of it. */
export interface WholePull {
  readonly file: { readonly name: string; readonly upload: Pick<Upload, 'path' | 'size' | 'sha256'> };
  readonly channels: readonly Channel[];
  readonly startMs: number;
  readonly conditions: ReturnType<typeof conditionsOf>;
  readonly numberState: NumberState;
  readonly gear: string | null;
  readonly averagingRpm: number | null;
}

/** What became of it. */
export type WholeTaken =
  | { readonly pull: string }
  /** The same samples are a pull of the job already. */
  | { readonly known: string }
  | { readonly refused: 'no-job' | 'no-round' | 'pulling' };

/** What a whole pull touches on its way in. */
interface Around {
  readonly database: Database;
  readonly store: JobStore;
  readonly shopId: string;
  readonly on: LiveJob;
  readonly run: LiveRun;
  readonly recovery: Recovery;
  readonly pulls: PullKeeper;
  readonly atMs: number;
}

/** Takes a whole pull in, and begins its review. @param busy the bay is recording a pull of its own */
export async function takeWhole(around: Around, whole: WholePull, busy: boolean): Promise<WholeTaken> {
  if (busy) return { refused: 'pulling' };
  await around.on.reload();
  const answer = await storeWhole(around, whole);
  if ('pull' in answer) {
    around.recovery.begin(around.atMs);
    await around.on.reload();
    around.pulls.tookWhole(answer.pull);
  }
  return answer;
}

/** Stores a whole pull as the next one of the open round, in one transaction with its file and the run that follows. */
async function storeWhole(
  { database, store, shopId, on, run: runs, atMs }: Around,
  whole: WholePull,
): Promise<WholeTaken> {
  const { job } = on;
  const run = runs.now;
  const jobId = on.row?.id;
  if (!job || !run || jobId === undefined) return { refused: 'no-job' };
  if (run.phase !== 'round') return { refused: 'no-round' };
  const { channels, startMs, conditions, numberState, averagingRpm, file } = whole;
  const next = { ...run, lastPullRound: `${run.setup}#${run.round}`, lastPullEndedAt: new Date(atMs).toISOString() };
  const answer = await database.inShop(shopId, async (tx): Promise<WholeTaken> => {
    await store.lock(tx, jobId);
    const digest = samplesDigest(channels);
    const known = digest && (await storedSamples(tx, jobId)).get(digest);
    if (known) return { known };
    const [key] = await allotPullKeys(tx, jobId, run.setup, 1);
    // The pull was made before its file came: the gate of this moment says nothing of it.
    const draft = pullDraft(job, { run: { ...run, override: null }, startMs, conditions, gate: null, heldS: {} });
    const kind = detectedKind({ channels });
    const pull = {
      ...draft,
      ...(kind === 'sweep' ? {} : { kind }),
      id: key!,
      numberState,
      averagingRpm,
      gear: whole.gear ?? draft.gear,
      channels,
    };
    // Several pulls may come in one file.
    const [kept] = await tx
      .select({ id: files.id })
      .from(files)
      .where(and(eq(files.jobId, jobId), eq(files.sha256, file.upload.sha256), eq(files.kind, 'pull-file')));
    const own = { shopId, jobId, kind: 'pull-file', name: file.name } as const;
    const { id: fileId } = kept ?? (await storeFile(tx, own, file.upload));
    const digests = await store.addPulls(tx, shopId, jobId, [pull], { fileOf: () => fileId });
    await store.touch(tx, jobId);
    await runs.keep(tx, { ...next, lastPullId: pull.id });
    await record(tx, shopId, jobId, {
      person: 'the bay',
      kind: 'pull',
      what: `Took pull ${pull.id} as ${pull.status} from the file ${file.name}.`,
      detail: { pull: pull.id, file: file.name, sha256: file.upload.sha256, digests },
    });
    return { pull: pull.id };
  });
  if ('pull' in answer) runs.show({ ...next, lastPullId: answer.pull });
  return answer;
}
