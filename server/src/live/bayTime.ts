import { performance } from 'node:perf_hooks';
import { hearingMs } from './hearingClock.ts';
import { RollersClock } from './rollersClock.ts';

/** A mark about the rollers' clock belongs to pulls that begin within this time after it was set. */
const JUMP_MATTERS_MS = 600_000;

/** The bay's time as the rollers tell it, and what is to be said when their clock was set. */
export class BayTime {
  readonly #clock = new RollersClock();
  #last: { atMs: number; heardMs: number; wallMs: number } | null = null;
  /** When the rollers' clock was set last, in bay time, and in words. */
  #jump: { atMs: number; words: string } | null = null;

  /** The bay's clock: the rollers' own, or this machine's where they carry none. */
  get atMs(): number {
    return this.#last?.atMs ?? Date.now();
  }

  /** When the newest sample arrived, on this machine's clock. */
  get arrivedMs(): number {
    return this.#last?.wallMs ?? Date.now();
  }

  /** Time in which a sample could have been heard and was not; 0 before the first. */
  get withoutSampleMs(): number {
    return this.#last ? hearingMs() - this.#last.heardMs : 0;
  }

  get heard(): boolean {
    return this.#last !== null;
  }

  /**
   * Takes the time of a sample. @param floorMs a bay time that was reached before this process started
   * @returns words for the pull that is open, when the clock was set
   */
  take(rawMs: number | null, pulling: boolean, floorMs: number | null): string | null {
    const floor = this.#last ? null : floorMs;
    const { atMs, jumpMs } = this.#clock.take(rawMs ?? Date.now(), performance.now(), pulling, floor);
    this.#last = { atMs, heardMs: hearingMs(), wallMs: Date.now() };
    if (jumpMs === 0) return null;
    const seconds = (Math.abs(jumpMs) / 1000).toFixed(1);
    const words = `The rollers’ clock was set ${jumpMs < 0 ? 'back' : 'forward'} by ${seconds} s; the bay’s own time went on.`;
    this.#jump = { atMs, words };
    return words;
  }

  /** What a pull that begins now must be marked with, once. */
  markFor(startMs: number): string | null {
    const jump = this.#jump;
    this.#jump = null;
    return jump && startMs - jump.atMs < JUMP_MATTERS_MS ? jump.words : null;
  }
}
