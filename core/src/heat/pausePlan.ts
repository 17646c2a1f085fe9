import type { HeatCoefficient } from './heatCoefficient.ts';

const { ceil, exp, log, max, sqrt } = Math;

/** A car's heat coefficient out of several jobs. */
export interface PooledHeat {
  /** Per cent per °C; above zero: heat costs power. */
  readonly percentPerC: number;
  readonly low: number;
  readonly high: number;
  readonly jobs: number;
}

/** Of a 95 % interval: its half over the standard error, for many degrees of freedom. */
const NORMAL_95 = 1.96;

/**
 * Heat coefficients of one car's jobs together: means weighted by their precision; where the jobs differ by more than their intervals
 * allow, the interval is widened by what they differ (Birge 1932).
 * @returns null of no job
 * @example pooledHeat([{ percentPerC: 0.1, low: 0.05, high: 0.15, pulls: 6, rounds: 2 }]).high // 0.15
 */
export function pooledHeat(list: readonly HeatCoefficient[]): PooledHeat | null {
  const own = list.filter(({ low, high }) => high > low);
  if (own.length === 0) return null;
  const weights = own.map(({ low, high }) => ((2 * NORMAL_95) / (high - low)) ** 2);
  const all = weights.reduce((a, b) => a + b, 0);
  const percentPerC = own.reduce((sum, c, i) => sum + weights[i]! * c.percentPerC, 0) / all;
  const chi2 = own.reduce((sum, c, i) => sum + weights[i]! * (c.percentPerC - percentPerC) ** 2, 0);
  const birge = own.length > 1 ? max(1, chi2 / (own.length - 1)) : 1;
  const half = NORMAL_95 * sqrt(birge / all);
  return { percentPerC, low: percentPerC - half, high: percentPerC + half, jobs: own.length };
}

/** What a start climbs from pull to pull at five minutes, °C, and on a boosted car; judgement, no source. */
const USUAL_CLIMB_C = 2;
const BOOSTED_CLIMB_C = 3;
const USUAL_INTERVAL_MIN = 5;
/** Within so many minutes an intake behind a fan recovers by 63 %; judgement, no source. */
const RECOVERY_MIN = 9;

/**
 * How far the start of a pull settles above its rest when pulls follow each other at a pause: every pull adds R, the pause leaves
 * e^(−pause/9 min) of what is there.
 * @param pauseMin minutes from pull to pull
 * @example settledStartC(5, false).toFixed(1) // '4.7'
 */
export function settledStartC(pauseMin: number, boosted: boolean): number {
  const left = (minutes: number) => exp(-minutes / RECOVERY_MIN);
  const adds = (boosted ? BOOSTED_CLIMB_C : USUAL_CLIMB_C) / left(USUAL_INTERVAL_MIN);
  return (adds * left(pauseMin)) / (1 - left(pauseMin));
}

/** The longest pause that is advised, minutes. */
const LONGEST_PAUSE_MIN = 30;

/**
 * The shortest pause, whole minutes, at which what the settled start costs stays under so many per cent; null where none up to half an
 * hour does, or heat costs nothing.
 * @example pauseFor(0.12, 0.33, false) // 8
 */
export function pauseFor(percentPerC: number, allowedPercent: number, boosted: boolean): number | null {
  if (!(percentPerC > 0) || !(allowedPercent > 0)) return null;
  const allowedC = allowedPercent / percentPerC;
  const adds = (boosted ? BOOSTED_CLIMB_C : USUAL_CLIMB_C) / exp(-USUAL_INTERVAL_MIN / RECOVERY_MIN);
  // R·q/(1 − q) = allowed: q = allowed/(R + allowed).
  const minutes = ceil(-RECOVERY_MIN * log(allowedC / (adds + allowedC)) - 1e-9);
  return minutes <= LONGEST_PAUSE_MIN ? max(1, minutes) : null;
}
