import { newPull, type Pull } from '@prandel/core';

/** A pull without a job: what it was made under, and its rows as they came. */
interface Stray {
  readonly conditions: Partial<Pull>;
  readonly startMs: number;
  readonly channels: readonly string[];
  readonly rows: number[][];
}

/** More than a round nobody forgets to claim. Judgement. */
const MOST = 5;
/** A job that is opened later than this has nothing to do with them, seconds of bay time. Judgement. */
const CLAIMED_WITHIN_MS = 3_600_000;

/**
 * Pulls that were made while no job was on the bay. They wait in memory, as nobody can say yet whose they are; the job that is put
 * on the bay within the hour keeps them, set aside, and a person decides at the desk what they were.
 */
export class StrayPulls {
  #open: Stray | null = null;
  #kept: Stray[] = [];

  /** What is recorded right now without a job. */
  get open(): Pick<Stray, 'startMs' | 'channels'> | null {
    return this.#open;
  }

  begin(stray: Omit<Stray, 'rows'>): void {
    this.#open = { ...stray, rows: [] };
  }

  push(row: number[]): void {
    this.#open?.rows.push(row);
  }

  end(): void {
    if (this.#open) this.#kept = [...this.#kept, this.#open].slice(-MOST);
    this.#open = null;
  }

  /** How many a job that is opened at this bay time would keep. */
  waiting(atMs: number): number {
    return this.#claimable(atMs).length;
  }

  /** The pulls as a job keeps them, numbered after those it has of that setup. */
  asPulls(atMs: number, setupId: string, made: number): Pull[] {
    return this.#claimable(atMs).map(({ conditions, startMs, channels, rows }, k) => ({
      ...newPull(`${setupId}-${made + k + 1}`, setupId, k + 1),
      ...conditions,
      // No round was begun: they belong to none that counts.
      round: 0,
      startedAt: new Date(startMs).toISOString(),
      status: 'set-aside',
      reason: 'Pulled before its job was put on this bay.',
      channels: channels.map((name, c) => ({ name, values: Float64Array.from(rows, (row) => row[c] ?? NaN) })),
    }));
  }

  clear(): void {
    this.#kept = [];
  }

  #claimable(atMs: number): Stray[] {
    return this.#kept.filter((stray) => atMs - stray.startMs < CLAIMED_WITHIN_MS);
  }
}
