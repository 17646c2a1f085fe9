import type { Job } from '../job/job.ts';
import { studentT } from '../statistics/distributions.ts';
import { mean, standardDeviation } from '../statistics/summary.ts';
import type { Judgement } from '../verdict/outcome.ts';

/** Where the next car of a model is expected, from those that were seen: a range, not a number. Watts at the wheels. */
export interface ModelRange {
  readonly cars: number;
  readonly lowW: number;
  readonly highW: number;
}

/** Under three cars the spread is anybody's guess. */
const FEWEST_CARS = 3;

/**
 * Prediction interval for one further observation on the log scale, m ± t(n − 1)·s·√(1 + 1/n) (Hahn & Meeker 1991,
 * Statistical Intervals, section 4.7; section number from memory). Null under three values.
 *
 * @param peaksW peak wheel power of the baselines of other cars of the model, W
 * @example modelRange([111e3, 113e3, 112e3, 114e3])?.cars // 4
 */
export function modelRange(peaksW: readonly number[], confidence = 0.95): ModelRange | null {
  const logs = peaksW.filter((w) => w > 0 && Number.isFinite(w)).map(Math.log);
  const n = logs.length;
  if (n < FEWEST_CARS) return null;
  const half = studentT((1 + confidence) / 2, n - 1) * standardDeviation(logs) * Math.sqrt(1 + 1 / n);
  const middle = mean(logs);
  return { cars: n, lowW: Math.exp(middle - half), highW: Math.exp(middle + half) };
}

/**
 * Peak of the baseline's mean curve, W; null before two of its pulls count.
 * @example baselinePeakW(newJob('1', 'x'), judgeJob(newJob('1', 'x'))) // null
 */
export function baselinePeakW(job: Pick<Job, 'question'>, judgement: Judgement): number | null {
  const own = judgement.setups.find((s) => s.setupId === job.question.baselineSetup);
  return own && own.pulls >= 2 ? (own.peaks?.power.value ?? null) : null;
}

/** A baseline beside the range of its model. A repeatable but low one is itself a finding. */
export interface BaselineStanding {
  readonly peakW: number | null;
  readonly range: ModelRange | null;
  readonly stands: 'low' | 'inside' | 'high' | 'unknown';
}

/**
 * Where a baseline stands against what its model has shown.
 * @param peakW peak wheel power of the mean, W; null where it was not reached
 * @example baselineStanding(106e3, { cars: 5, lowW: 111e3, highW: 119e3 }).stands // 'low'
 */
export function baselineStanding(peakW: number | null, range: ModelRange | null): BaselineStanding {
  const stands =
    peakW === null || range === null ? 'unknown' : peakW < range.lowW ? 'low' : peakW > range.highW ? 'high' : 'inside';
  return { peakW, range, stands };
}
