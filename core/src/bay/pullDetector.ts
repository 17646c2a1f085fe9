/** One reading of the rollers as it arrives. Missing values are NaN. */
export interface RollerReading {
  /** Seconds on the rollers' own clock. */
  readonly seconds: number;
  readonly engineRpm: number;
  readonly rollerRadS: number;
  /** 0–1; NaN where the pedal is not read. */
  readonly throttle: number;
}

export type DetectorEvent = 'start' | 'end' | null;

/** Throttle at and above which load is called full, and under which it is called lifted. Judgement, no source. */
const FULL = 0.85;
const LIFTED = 0.5;
/** Roller acceleration that only a full-load sweep reaches, share of speed per second; for cars without a pedal signal. */
const SWEEPING_SHARE = 0.08;
const LEAST_ROLLER_RAD_S = 5;
const START_S = 0.15;
const END_S = 0.25;
/** A hold takes minutes; whatever is longer is no pull. */
const LONGEST_S = 900;

/**
 * Tells from the rollers' readings when a pull starts and ends, so that nobody has to press anything. Full throttle on
 * turning rollers starts one; a lift ends it. Without a pedal signal the roller's own acceleration speaks.
 */
export class PullDetector {
  #pulling = false;
  #since: number | null = null;
  #started = 0;
  #trace: RollerReading[] = [];

  get pulling(): boolean {
    return this.#pulling;
  }

  /** No pull goes on and none is about to begin. */
  get atRest(): boolean {
    return !this.#pulling && this.#since === null;
  }

  push(reading: RollerReading): DetectorEvent {
    this.#trace.push(reading);
    while (this.#trace.length > 2 && reading.seconds - this.#trace[0]!.seconds > 0.5) this.#trace.shift();
    const full = this.#isFull(reading);
    const wanted = this.#pulling ? this.#isLifted(reading) || reading.seconds - this.#started > LONGEST_S : full;
    if (!wanted) {
      this.#since = null;
      return null;
    }
    this.#since ??= reading.seconds;
    if (reading.seconds - this.#since < (this.#pulling ? END_S : START_S)) return null;
    this.#since = null;
    this.#pulling = !this.#pulling;
    if (this.#pulling) this.#started = reading.seconds;
    return this.#pulling ? 'start' : 'end';
  }

  /** Forgets everything, for instance when the cable was out. */
  reset(): void {
    this.#pulling = false;
    this.#since = null;
    this.#trace = [];
  }

  #isFull({ throttle, rollerRadS }: RollerReading): boolean {
    if (!(rollerRadS > LEAST_ROLLER_RAD_S)) return false;
    return Number.isNaN(throttle) ? this.#acceleration() > SWEEPING_SHARE * rollerRadS : throttle >= FULL;
  }

  #isLifted({ throttle, rollerRadS }: RollerReading): boolean {
    if (!Number.isNaN(throttle)) return throttle < LIFTED;
    return this.#acceleration() < 0.01 * Math.max(rollerRadS, LEAST_ROLLER_RAD_S);
  }

  /** rad/s² over the last half second. */
  #acceleration(): number {
    const first = this.#trace[0]!;
    const last = this.#trace.at(-1)!;
    const time = last.seconds - first.seconds;
    return time > 0.2 ? (last.rollerRadS - first.rollerRadS) / time : 0;
  }
}
