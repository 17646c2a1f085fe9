import { randomUUID } from 'node:crypto';
import { asc, eq } from 'drizzle-orm';
import type { Channel, Pull } from '@prandel/core';
import type { Database, Transaction } from '../database/database.ts';
import type { RecordingPaper } from '../database/papers.ts';
import { recordingChunks, recordings } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import type { JobStore } from '../jobs/jobStore.ts';

/** A pull being recorded: rows go to the database before anybody sees them. */
export class Recording {
  readonly id = randomUUID();
  readonly paper: RecordingPaper;
  #chunks = 0;
  #rows = 0;
  #pending: number[][] = [];

  constructor(paper: RecordingPaper) {
    this.paper = paper;
  }

  /** Rows that nobody has begun to write. */
  get waiting(): number {
    return this.#pending.length;
  }

  push(row: number[]): void {
    this.#pending.push(row);
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

  async begin(database: Database, shopId: string, bayId: string, jobId: string | null): Promise<void> {
    await database.inShop(shopId, (tx) =>
      // A commit whose answer was lost is tried again: it must not be stored twice.
      tx.insert(recordings).values({ id: this.id, shopId, bayId, jobId, paper: this.paper }).onConflictDoNothing(),
    );
  }

  /** Writes rows and returns once they are committed. */
  async write(database: Database, shopId: string, rows: readonly (readonly number[])[]): Promise<void> {
    if (rows.length === 0) return;
    const flat = Float64Array.from(rows.flat());
    const n = this.#chunks;
    await database.inShop(shopId, (tx) =>
      tx
        .insert(recordingChunks)
        .values({
          shopId,
          recordingId: this.id,
          n,
          samples: Buffer.from(flat.buffer, flat.byteOffset, flat.byteLength),
        })
        .onConflictDoNothing(),
    );
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

/** A recording whose pull bears one more mark. */
export function marked(paper: RecordingPaper, mark: string): RecordingPaper {
  return { ...paper, pull: { ...paper.pull, marks: [...(paper.pull.marks ?? []), mark] } };
}

/**
 * Makes a pull of a recording, in one transaction with its evidence. `cut` says what ended it too early. A recording that became
 * one already is left alone: the answer to a commit may be lost, and the work is then tried again.
 */
export async function closeRecording(
  tx: Transaction,
  store: JobStore,
  shopId: string,
  jobId: string,
  { id, paper, cut }: { id: string; paper: RecordingPaper; cut: string | null },
): Promise<void> {
  const [open] = await tx.select({ id: recordings.id }).from(recordings).where(eq(recordings.id, id));
  if (!open) return;
  const channels = await recordedChannels(tx, id, paper.channels);
  const pull = cut ? interrupted(paper.pull, cut) : paper.pull;
  await store.addPulls(tx, shopId, jobId, [{ ...pull, channels }], null);
  await store.touch(tx, jobId);
  const samples = channels[0]?.values.length ?? 0;
  const note = pull.marks?.length ? ` ${pull.marks.join(' ')}` : '';
  await record(tx, shopId, jobId, {
    person: 'the bay',
    kind: 'pull',
    what: `Recorded pull ${pull.id} as ${pull.status}, ${samples} samples.${note}`,
    detail: { pull: pull.id, intakeStartC: pull.intakeStartC, airC: pull.airC, pressureHpa: pull.pressureHpa },
    at: new Date(Date.parse(pull.startedAt!)),
  });
  await tx.delete(recordings).where(eq(recordings.id, id));
}
