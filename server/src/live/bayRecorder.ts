import { inArray } from 'drizzle-orm';
import type { Database } from '../database/database.ts';
import type { BayRun } from '../database/shapes.ts';
import { recordings } from '../database/schema.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import type { LiveFeed } from './liveFeed.ts';
import { quarantine } from './quarantine.ts';
import { closeRecording, Recording } from './recorder.ts';
import type { SampleWriter } from './sampleWriter.ts';
import type { UnclaimedPulls } from './unclaimedPulls.ts';
import type { SerialQueue } from './serialQueue.ts';
import type { UntilStored } from './untilStored.ts';

/** What a recorder needs of its bay. */
export interface RecorderBay {
  readonly id: string;
  readonly shopId: string;
  readonly database: Database;
  readonly writer: SampleWriter;
  readonly store: JobStore;
  readonly queue: SerialQueue;
  readonly storing: UntilStored;
  readonly feed: LiveFeed;
  readonly unclaimed: UnclaimedPulls;
}

/** How a recording of a job ended. */
export interface RecordingEnd {
  readonly jobId: string;
  /** What ended it too early; null: it is whole. */
  readonly cut: string | null;
  readonly arrivedMs: number;
  /** The run of the bay once the pull is stored under this key; kept in the same transaction. */
  readonly keep: (pullKey: string | null) => BayRun;
  readonly store: (tx: Parameters<Parameters<Database['inShop']>[1]>[0], run: BayRun) => Promise<void>;
  readonly stored: (run: BayRun, pullKey: string | null) => Promise<void>;
}

/**
 * Writes the pulls of one bay, in order: a recording is begun, its rows follow, then it becomes a pull. What the database refuses
 * for good is quarantined with its samples, so that it never holds up the pulls after it.
 */
export class BayRecorder {
  #recording: Recording | null = null;
  #flushing = false;
  /** Samples of pulls that have ended and are not stored yet. */
  #closing = 0;
  readonly #quarantined = new Set<Recording>();

  constructor(private readonly bay: RecorderBay) {}

  /** The recording of a job's pull that is open. */
  get recording(): Recording | null {
    return this.#recording;
  }

  /** What is recorded right now, for a job or without one. */
  get open(): Recording | null {
    return this.#recording ?? this.bay.unclaimed.open;
  }

  get flushing(): boolean {
    return this.#flushing;
  }

  /** Samples that nobody has stored yet. */
  get waiting(): number {
    return (this.#recording?.waiting ?? 0) + this.#closing;
  }

  begin(recording: Recording, jobId: string | null): void {
    const { database, shopId, id, storing, feed, queue } = this.bay;
    if (jobId !== null) this.#recording = recording;
    queue.later(async () => {
      await storing.run(
        () => recording.begin(database, shopId, id, jobId),
        async (why) => {
          await recording.begin(database, shopId, id, null);
          await database.inShop(shopId, (tx) => quarantine(tx, shopId, recording.id, why));
          this.#quarantined.add(recording);
        },
      );
      if (jobId !== null) feed.beginPull(recording.pull!.id, recording.channels);
    });
  }

  /** Writes the rows that wait; a screen sees them once they are committed. @returns whether there were any */
  flush(arrivedMs: number): boolean {
    const recording = this.open;
    if (!recording || this.#flushing || recording.waiting === 0) return false;
    const rows = recording.take();
    this.#flushing = true;
    this.bay.queue.later(
      () => this.#write(recording, rows, arrivedMs),
      () => {
        this.#flushing = false;
      },
    );
    return true;
  }

  async #write(recording: Recording, rows: number[][], arrivedMs: number): Promise<void> {
    const { writer, shopId, storing, feed } = this.bay;
    const from = recording.samples;
    await storing.run(() => recording.write(writer, shopId, rows));
    // A pull without a job is on no screen.
    if (recording.pull?.setupId) feed.samples(recording.pull.id, from, recording.channels, rows, arrivedMs);
  }

  /** Closes the recording of the job's pull: it becomes a pull, or is quarantined. */
  end(how: RecordingEnd): void {
    const recording = this.#recording;
    if (!recording) return;
    const { database, store, shopId, storing, queue } = this.bay;
    const rest = recording.take();
    this.#recording = null;
    this.#closing += rest.length;
    queue.later(async () => {
      await this.#write(recording, rest, how.arrivedMs);
      const refused = this.#quarantined.delete(recording);
      let key: string | null = null;
      const { id, draft } = recording;
      const closed = await storing.run(
        () =>
          database.inShop(shopId, async (tx) => {
            // Tried again after a commit whose answer was lost, it is closed already and says nothing.
            if (!refused)
              key = (await closeRecording(tx, store, shopId, how.jobId, { id, draft, cut: how.cut })) ?? key;
            await how.store(tx, how.keep(key));
          }),
        (why) =>
          database.inShop(shopId, async (tx) => {
            await quarantine(tx, shopId, id, why);
            await how.store(tx, how.keep(null));
          }),
      );
      if (!closed) key = null;
      this.#closing -= rest.length;
      await how.stored(how.keep(key), key);
    });
  }

  /** Ends the pull that was made without a job; it waits in the database for the job that comes. */
  endUnclaimed(): void {
    const { database, writer, shopId, storing, unclaimed, queue } = this.bay;
    const recording = unclaimed.end();
    if (!recording) return;
    const rest = recording.take();
    queue.later(async () => {
      await storing.run(() => recording.write(writer, shopId, rest));
      const tooMany = unclaimed.keep(recording).map(({ id }) => id);
      if (tooMany.length === 0) return;
      await storing.run(() =>
        database.inShop(shopId, async (tx) => {
          await tx.delete(recordings).where(inArray(recordings.id, tooMany));
        }),
      );
    });
  }
}
