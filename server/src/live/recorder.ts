import { asc, eq } from 'drizzle-orm';
import { detectedKind, type Channel, type Pull } from '@prandel/core';
import { v7 } from 'uuid';
import type { Database, Transaction } from '../database/database.ts';
import type { RecordingDraft } from '../database/shapes.ts';
import { recordingChunks, recordings } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import { allotPullKeys, freePullKey } from '../jobs/pullKeys.ts';
import type { SampleWriter } from './sampleWriter.ts';

/** A recording as the database has it. */
export type StoredRecording = Pick<typeof recordings.$inferSelect, 'id' | 'jobId' | 'draft'>;

/** What a pull that begins is called and where it belongs, worked out when the database can be asked. */
export type PullDraft = () => RecordingDraft['pull'];

/**
 * A pull being recorded: rows go to the database before anybody sees them. Its key, its place and its status are settled in the
 * transaction that begins it, so that pulls that had to wait for the database never claim one place twice.
 */
export class Recording {
  readonly id = v7();
  readonly channels: readonly string[];
  readonly startMs: number;
  #pull: RecordingDraft['pull'] | null = null;
  readonly #draft: PullDraft;
  readonly #marks: string[] = [];
  #chunks = 0;
  #rows = 0;
  #pending: number[][] = [];

  constructor({ channels, startMs }: Pick<RecordingDraft, 'channels' | 'startMs'>, draft: PullDraft) {
    this.channels = channels;
    this.startMs = startMs;
    this.#draft = draft;
  }

  /** The pull with its key; null until the database has allotted one. */
  get pull(): RecordingDraft['pull'] | null {
    return this.#pull;
  }

  get draft(): RecordingDraft {
    const pull = this.#pull ?? this.#draft();
    const marks = [...(pull.marks ?? []), ...this.#marks];
    return {
      pull: marks.length > 0 ? { ...pull, marks } : pull,
      channels: this.channels,
      startMs: this.startMs,
    };
  }

  /** Rows that nobody has begun to write. */
  get waiting(): number {
    return this.#pending.length;
  }

  push(row: number[]): void {
    this.#pending.push(row);
  }

  /** Adds a mark that every list shows beside the pull. */
  mark(mark: string): void {
    if (!this.#marks.includes(mark)) this.#marks.push(mark);
  }

  /** The rows that wait, for whoever writes them now. */
  take(): number[][] {
    const rows = this.#pending;
    this.#pending = [];
    return rows;
  }

  get samples(): number {
    return this.#rows;
  }

  /** Stores the recording, with a key of its job when it has one. Tried again after a commit whose answer was lost, it changes nothing. */
  async begin(database: Database, shopId: string, bayId: string, jobId: string | null): Promise<void> {
    this.#pull = await database.inShop(shopId, async (tx) => {
      const [begun] = await tx.select({ draft: recordings.draft }).from(recordings).where(eq(recordings.id, this.id));
      if (begun) return begun.draft.pull;
      const planned = this.#draft();
      const [pullKey = null] = jobId === null ? [] : await allotPullKeys(tx, jobId, planned.setupId, 1);
      const pull = pullKey === null ? planned : { ...planned, id: pullKey };
      const draft = { pull, channels: this.channels, startMs: this.startMs };
      await tx.insert(recordings).values({ id: this.id, shopId, bayId, jobId, pullKey, draft });
      return pull;
    });
  }

  /** Writes rows and returns once they are committed. */
  async write(writer: SampleWriter, shopId: string, rows: readonly (readonly number[])[]): Promise<void> {
    if (rows.length === 0) return;
    const flat = Float64Array.from(rows.flat());
    const samples = Buffer.from(flat.buffer, flat.byteOffset, flat.byteLength);
    await writer.write(shopId, { recordingId: this.id, n: this.#chunks, samples });
    // Counted only once they are committed, so that a failed write can be tried again.
    this.#chunks += 1;
    this.#rows += rows.length;
  }
}

/** The channels of a recording as they were written; what was shown on a screen is in them. */
export async function recordedChannels(tx: Transaction, id: string, names: readonly string[]): Promise<Channel[]> {
  const chunks = await tx
    .select({ samples: recordingChunks.samples })
    .from(recordingChunks)
    .where(eq(recordingChunks.recordingId, id))
    .orderBy(asc(recordingChunks.n));
  const bytes = Buffer.concat(chunks.map((c) => c.samples));
  const flat = new Float64Array(new Uint8Array(bytes).buffer);
  const rows = Math.floor(flat.length / names.length);
  return names.map((name, c) => ({
    name,
    values: Float64Array.from({ length: rows }, (_, r) => flat[r * names.length + c]!),
  }));
}

/** A pull that something cut off: kept with its samples, set aside, and marked with what happened. */
export function interrupted(pull: Omit<Pull, 'channels'>, what: string): Omit<Pull, 'channels'> {
  return { ...pull, status: 'set-aside', reason: what, marks: [...(pull.marks ?? []), what] };
}

/**
 * Makes a pull of a recording, in one transaction with its evidence. `cut` says what ended it too early. A recording that became
 * one already is left alone: the answer to a commit may be lost, and the work is then tried again.
 *
 * @returns the key of the pull; null for a recording that became one before
 */
export async function closeRecording(
  tx: Transaction,
  store: JobStore,
  shopId: string,
  jobId: string,
  { id, draft, cut }: { id: string; draft: RecordingDraft; cut: string | null },
): Promise<string | null> {
  const [open] = await tx.select({ id: recordings.id }).from(recordings).where(eq(recordings.id, id));
  if (!open) return null;
  const channels = await recordedChannels(tx, id, draft.channels);
  await tx.delete(recordings).where(eq(recordings.id, id));
  const kept = cut ? interrupted(draft.pull, cut) : draft.pull;
  const kind = detectedKind({ channels });
  const key = await freePullKey(tx, jobId, kept.setupId, kept.id);
  const pull = { ...kept, ...(kind === 'sweep' ? {} : { kind }), id: key };
  const digests = await store.addPulls(tx, shopId, jobId, [{ ...pull, channels }]);
  await store.touch(tx, jobId);
  const samples = channels[0]?.values.length ?? 0;
  const note = pull.marks?.length ? ` ${pull.marks.join(' ')}` : '';
  await record(tx, shopId, jobId, {
    person: 'the bay',
    kind: 'pull',
    what: `Recorded pull ${pull.id} as ${pull.status}, ${samples} samples.${note}`,
    detail: { pull: pull.id, intakeStartC: pull.intakeStartC, airC: pull.airC, pressureHpa: pull.pressureHpa, digests },
    at: new Date(Date.parse(pull.startedAt!)),
  });
  return pull.id;
}
