/** A step back smaller than this is jitter of the sender, not a clock that was set. */
const JITTER_MS = 50;
/** In a pull, samples that claim to be further apart than this, and twice as far as they arrived, come from a clock that was set. */
const LONGEST_STEP_MS = 1000;

/** Where a sample stands in the bay's time, and by how much the rollers' clock was set right before it; 0: it was not. */
export interface BayTime {
  readonly atMs: number;
  readonly jumpMs: number;
}

/**
 * The bay's time, milliseconds since 1970: the rollers' own clock, but one that never goes back. A clock that was set back, or
 * forward in the middle of a pull, moves an offset instead; the time between two samples is then the time between their arrivals.
 */
export class RollersClock {
  #offsetMs = 0;
  #last: { rawMs: number; atMs: number; heardMs: number } | null = null;

  /**
   * @param rawMs the rollers' clock, or this machine's where they carry none
   * @param heardMs monotonic arrival
   * @param pulling whether a pull is being recorded
   * @param floorMs a bay time that was reached before this process started; null: none
   */
  take(rawMs: number, heardMs: number, pulling: boolean, floorMs: number | null): BayTime {
    const last = this.#last;
    let jumpMs = 0;
    if (!last) {
      if (floorMs !== null && rawMs < floorMs) {
        jumpMs = rawMs - floorMs;
        this.#offsetMs = -jumpMs;
      }
    } else {
      const arrivedMs = Math.max(0, heardMs - last.heardMs);
      const stepMs = rawMs - last.rawMs;
      // Between pulls the bay may come back to the rollers' own time, as long as that does not lead back.
      if (!pulling && this.#offsetMs < 0) this.#offsetMs = 0;
      if (stepMs < -JITTER_MS || (pulling && stepMs > LONGEST_STEP_MS && stepMs > 2 * arrivedMs)) {
        jumpMs = stepMs - arrivedMs;
        this.#offsetMs = last.atMs + arrivedMs - rawMs;
      }
    }
    const atMs = Math.max(rawMs + this.#offsetMs, last?.atMs ?? -Infinity);
    this.#last = { rawMs, atMs, heardMs };
    return { atMs, jumpMs };
  }
}
