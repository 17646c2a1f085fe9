import { mersenne } from 'pure-rand/generator/mersenne';
import { uniformInt } from 'pure-rand/distribution/uniformInt';
import { CholeskyDecomposition, Matrix } from 'ml-matrix';
import type { Job } from '../job/job.ts';
import { measureName } from '../measures/declaredMeasure.ts';
import type { PreparedPull } from '../pull/preparedPulls.ts';
import { normalQuantile } from '../statistics/distributions.ts';
import { mean } from '../statistics/summary.ts';
import { combinedAim } from './engine/fit.ts';
import { measuredOn } from './measured.ts';
import type { MeasuredDay } from './measuredDay.ts';
import { truePercent } from './percent.ts';
import { selectPulls } from './selection.ts';
import { settingsOf } from './settings.ts';

/** Gains of several candidates drawn together from what the day says of them. */
export interface JointGains {
  readonly candidates: readonly string[];
  /** A row a draw, a column a candidate; the measure's own unit (W, N·m …). */
  readonly draws: Float64Array;
}

/** 4,000 draws know a chance to within a point and a half. */
export const JOINT_DRAWS = 4000;
const SEED = 20;
const FINEST = 2 ** 31 - 2;

/**
 * Draws of the gains of all candidates of a job: a reading of the day by its weight, then the joint normal distribution of the gains
 * under it. The same seed gives the same draws.
 * @param measure name of one of the job's measures
 * @returns null where the measure was not asked or too little was pulled
 * @example jointGains(newJob('1', 'x'), [], 'windowMeanPower') // null
 */
export function jointGains(
  job: Job,
  prepared: readonly PreparedPull[],
  measure: string,
  { count = JOINT_DRAWS, seed = SEED } = {},
): JointGains | null {
  const asked = job.question.measures.find((m) => measureName(m) === measure);
  if (!asked) return null;
  const selection = selectPulls(job, prepared);
  const settings = settingsOf(job, selection, asked);
  const { day } = measuredOn(selection, [], settings);
  if (!day || day.sides.length === 0) return null;
  const { endpoint } = settings;
  const level =
    endpoint.scale === 'log'
      ? Math.exp(mean(day.used.filter((c) => c.side === 0).map((c) => Math.log(endpoint.read(c, day.window)))))
      : NaN;
  const shown = (engine: number) =>
    endpoint.scale === 'log' ? (level * truePercent(endpoint.factor * engine)) / 100 : endpoint.factor * engine;
  return {
    candidates: day.sides.map((side) => job.question.candidateSetups[side - 1]!),
    draws: drawn(day, count, seed).map(shown),
  };
}

/** Draws on the engine's scale. */
function drawn(day: MeasuredDay, count: number, seed: number): Float64Array {
  const m = day.sides.length;
  const { weights } = day.mixtures[0]!;
  const covariance = covariances(day);
  const chance = mersenne(seed);
  const uniform = () => (uniformInt(chance, 0, FINEST) + 0.5) / (FINEST + 1);
  const ends = new Float64Array(weights.length);
  let all = 0;
  weights.forEach((w, i) => (ends[i] = all += w));
  const roots = new Map<number, Matrix>();
  const draws = new Float64Array(count * m);
  for (let row = 0; row < count; row += 1) {
    const reading = firstAtLeast(ends, uniform() * all);
    let root = roots.get(reading);
    if (!root) roots.set(reading, (root = rootOf(covariance(reading))));
    const normal = Array.from({ length: m }, () => normalQuantile(uniform()));
    for (let a = 0; a < m; a += 1) {
      let value = day.mixtures[a]!.means[reading]!;
      for (let b = 0; b <= a; b += 1) value += root.get(a, b) * normal[b]!;
      draws[row * m + a] = value;
    }
  }
  return draws;
}

/** Covariance of the candidates' gains under a reading of the day: of two it is what their sum varies more than they do apart. */
function covariances(day: MeasuredDay): (reading: number) => Matrix {
  const m = day.sides.length;
  const own = day.mixtures.map((mixture) => mixture.variances);
  const sums = day.aims.map((a, i) =>
    day.aims.slice(0, i).map((b) => combinedAim(day.prepared, [a, b], [1, 1]).variances),
  );
  return (reading) => {
    const table = Matrix.zeros(m, m);
    for (let a = 0; a < m; a += 1) {
      table.set(a, a, own[a]![reading]!);
      for (let b = 0; b < a; b += 1) {
        const both = (sums[a]![b]![reading]! - own[a]![reading]! - own[b]![reading]!) / 2;
        table.set(a, b, both).set(b, a, both);
      }
    }
    return table;
  };
}

function rootOf(covariance: Matrix): Matrix {
  return new CholeskyDecomposition(covariance).lowerTriangularMatrix;
}

function firstAtLeast(ends: Float64Array, wanted: number): number {
  let [low, high] = [0, ends.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (ends[middle]! >= wanted) high = middle;
    else low = middle + 1;
  }
  return low;
}
