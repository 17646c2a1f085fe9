import { eq } from 'drizzle-orm';
import { newPull, type Pull } from '@prandel/core';
import type { Transaction } from '../database/database.ts';
import type { RecordingDraft } from '../database/shapes.ts';
import { recordings } from '../database/schema.ts';
import { allotPullKeys } from '../jobs/pullKeys.ts';
import { recordedChannels, Recording } from './recorder.ts';

/** A unclaimed that is stored, by its recording. */
interface Kept {
  readonly id: string;
  readonly draft: RecordingDraft;
}

/** More than a round nobody forgets to claim. Judgement. */
const MOST = 5;
/** A job that is opened later than this has nothing to do with them, milliseconds of bay time. Judgement. */
const CLAIMED_WITHIN_MS = 3_600_000;

/**
 * Pulls that were made while no job was on the bay. They wait in the database as recordings without a job, as nobody can say yet
 * whose they are; the job that is put on the bay within the hour keeps them, set aside, and a person decides at the desk what they
 * were.
 */
export class UnclaimedPulls {
  #open: Recording | null = null;
  #kept: readonly Kept[] = [];
  #claiming: readonly Kept[] = [];

  /** What is recorded right now without a job. */
  get open(): Recording | null {
    return this.#open;
  }

  /** Begins the recording of a unclaimed, for the caller to store. `conditions` are those it starts under. */
  begin(conditions: Partial<Pull>, { channels, startMs }: Pick<RecordingDraft, 'channels' | 'startMs'>): Recording {
    const { channels: _, ...blank } = newPull('unclaimed', '', 1);
    const pull: RecordingDraft['pull'] = {
      ...blank,
      ...conditions,
      // No round was begun: they belong to none that counts.
      round: 0,
      startedAt: new Date(startMs).toISOString(),
      status: 'set-aside',
      reason: 'Pulled before its job was put on this bay.',
    };
    this.#open = new Recording({ channels, startMs }, () => pull);
    return this.#open;
  }

  /** Ends the unclaimed that is open, for the caller to store its last rows and then to `keep` it. */
  end(): Recording | null {
    const ended = this.#open;
    this.#open = null;
    return ended;
  }

  /** Keeps a unclaimed that is stored. Gives those that are too many now, to be deleted. */
  keep(unclaimed: Kept): readonly Kept[] {
    const all = [...this.#kept, unclaimed];
    this.#kept = all.slice(-MOST);
    return all.slice(0, -MOST);
  }

  /** Takes up what was stored before a restart. */
  restore(stored: readonly Kept[]): void {
    this.#kept = stored.toSorted((a, b) => a.draft.startMs - b.draft.startMs).slice(-MOST);
  }

  /** How many a job that is opened at this bay time would keep. */
  waiting(atMs: number): number {
    return this.#claimable(atMs).length;
  }

  /**
   * Takes the pulls out of the recordings, as a job keeps them, numbered after those it has made of that setup. Once that is
   * committed, `claimed` must be called.
   */
  async claim(tx: Transaction, atMs: number, jobId: string, setupId: string): Promise<Pull[]> {
    const pulls: Pull[] = [];
    this.#claiming = this.#claimable(atMs);
    const keys = await allotPullKeys(tx, jobId, setupId, this.#claiming.length);
    for (const [i, { id, draft }] of this.#claiming.entries()) {
      const channels = await recordedChannels(tx, id, draft.channels);
      pulls.push({ ...draft.pull, id: keys[i]!, setupId, position: i + 1, channels });
      await tx.delete(recordings).where(eq(recordings.id, id));
    }
    return pulls;
  }

  /** Forgets what a job has kept by now. */
  claimed(): void {
    this.#kept = this.#kept.filter((unclaimed) => !this.#claiming.includes(unclaimed));
    this.#claiming = [];
  }

  #claimable(atMs: number): readonly Kept[] {
    return this.#kept.filter((unclaimed) => atMs - unclaimed.draft.startMs < CLAIMED_WITHIN_MS);
  }
}
