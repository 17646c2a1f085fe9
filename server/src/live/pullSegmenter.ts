import { LIMITS, PullDetector } from '@prandel/core';
import type { RollerSample } from '@prandel/formats';
import type { RecordingDraft } from '../database/shapes.ts';
import type { Readings } from './readings.ts';

/** Samples kept from before full throttle. */
const BEFORE_S = 0.6;
/** However the samples are timed, no more of them than this are kept from before a pull, nor recorded in one. */
const MOST_BEFORE = 2000;
const MOST_ROWS = LIMITS.rowsPerPull;

/** What is done with a pull that the rollers' samples show. Rows hold `time_s`, the rollers' channels, then the held ones. */
export interface CaughtPull {
  /** @param whole whether its beginning was heard */
  readonly begin: (draft: Pick<RecordingDraft, 'channels' | 'startMs'>, whole: boolean) => void;
  readonly row: (row: number[]) => void;
  readonly end: () => void;
}

/**
 * Finds pulls in the samples of the rollers and makes rows of them, with the last half second before full throttle. Channels of
 * other instruments are held between their own readings.
 */
export class PullSegmenter {
  readonly #detector = new PullDetector();
  readonly #readings: Readings;
  readonly #on: CaughtPull;
  #names: readonly string[] = [];
  #recent: { seconds: number; row: readonly number[] }[] = [];
  #open: Pick<RecordingDraft, 'channels' | 'startMs'> | null = null;
  #rows = 0;
  /** The pedal was seen lifted since the line came up: a pull that begins now is heard from its beginning. */
  #heardRest = false;

  constructor(readings: Readings, on: CaughtPull) {
    this.#readings = readings;
    this.#on = on;
  }

  get open(): boolean {
    return this.#open !== null;
  }

  push({ channels }: RollerSample, nowMs: number): void {
    if (Object.keys(channels).length !== this.#names.length && !this.#open) this.#names = Object.keys(channels);
    const row = this.#names.map((name) => channels[name] ?? NaN);
    const event = this.#detector.push({
      seconds: nowMs / 1000,
      engineRpm: channels.engine_rpm ?? NaN,
      rollerRadS: channels.roller_rad_s ?? NaN,
      throttle: channels.throttle_fraction ?? NaN,
    });
    if (event === 'start') this.#begin(nowMs);
    if (this.#detector.atRest) this.#heardRest = true;
    this.#tell(nowMs, row);
    this.#recent.push({ seconds: nowMs / 1000, row });
    while (nowMs / 1000 - this.#recent[0]!.seconds > BEFORE_S || this.#recent.length > MOST_BEFORE)
      this.#recent.shift();
    if (event === 'end' || (this.#open && this.#rows >= MOST_ROWS)) this.#end();
  }

  /** The line to the rollers is gone: a pull that was open has ended. */
  lost(): void {
    this.#detector.reset();
    this.#heardRest = false;
    this.#recent = [];
    if (this.#open) this.#end();
  }

  #begin(nowMs: number): void {
    const held = this.#readings.channels().filter((name) => !this.#names.includes(name));
    const startMs = Math.round((this.#recent[0]?.seconds ?? nowMs / 1000) * 1000);
    this.#open = { channels: ['time_s', ...this.#names, ...held], startMs };
    this.#rows = 0;
    this.#on.begin(this.#open, this.#heardRest);
    for (const { seconds, row } of this.#recent) this.#tell(seconds * 1000, row);
  }

  #end(): void {
    this.#open = null;
    this.#on.end();
  }

  #tell(nowMs: number, row: readonly number[]): void {
    if (!this.#open) return;
    const held = this.#open.channels.slice(1 + this.#names.length);
    this.#rows += 1;
    this.#on.row([(nowMs - this.#open.startMs) / 1000, ...row, ...held.map((name) => this.#readings.now(name) ?? NaN)]);
  }
}
