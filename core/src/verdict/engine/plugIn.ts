import { CholeskyDecomposition, LuDecomposition, Matrix } from 'ml-matrix';
import type { Answer } from './answer.ts';
import { plainWeights } from './fit.ts';
import { covarianceShares, meanColumns, type DayParts } from './parts.ts';

/** How much of each there is: scatter σ and mount τ, per cent, and drift s, per cent per hour. */
export interface NoiseNode {
  readonly scatter: number;
  readonly mount: number;
  readonly drift: number;
}

/** What the variance of an estimate is made of; the four sum to 1. */
export interface WidthShares {
  readonly scatter: number;
  readonly mounts: number;
  readonly drift: number;
  readonly heat: number;
}

/** A contrast at one node, all pulls sound. */
export interface WeighedDay {
  /** A: weights of the pulls in the estimate. */
  readonly weights: Float64Array;
  /** V: variance of the estimate, log-percent². */
  readonly variance: number;
  readonly shares: WidthShares;
}

/** The day at the plug-in node, σ, τ and s at the geometric means of their weights: for shares of the width and for planning. */
export interface PlugIn extends WeighedDay {
  readonly node: NoiseNode;
  /** Half of today's interval, and of the 90 % one, over √V. */
  readonly q95: number;
  readonly q90: number;
}

/**
 * The contrast with the least variance at a node: generalised least squares. A plan's rounds can be asked as well as a day's.
 * @param contrast one number a setup, summing to 0
 */
export function weighedDay(day: DayParts, contrast: readonly number[], node: NoiseNode): WeighedDay {
  return weighedDays(day, [contrast], node)[0]!;
}

/** The same for several contrasts: the covariance is decomposed once. */
export function weighedDays(
  day: DayParts,
  contrasts: readonly (readonly number[])[],
  { scatter, mount, drift }: NoiseNode,
): WeighedDay[] {
  const n = day.pulls.length;
  const parts = covarianceShares(day, mount, drift);
  const covariance = Matrix.zeros(n, n);
  for (let i = 0; i < n; i += 1)
    for (let j = 0; j <= i; j += 1) {
      const at = i * n + j;
      const value = parts.heat[at]! + parts.mounts[at]! + parts.drift[at]! + (i === j ? scatter ** 2 : 0);
      covariance.set(i, j, value).set(j, i, value);
    }
  return bestWeights(day, contrasts, covariance).map((weights) => {
    const form = (table: Float64Array) => {
      let total = 0;
      for (let i = 0; i < n; i += 1)
        for (let j = 0; j < n; j += 1) total += weights[i]! * table[i * n + j]! * weights[j]!;
      return total;
    };
    const own = {
      scatter: scatter ** 2 * weights.reduce((a, w) => a + w * w, 0),
      mounts: form(parts.mounts),
      drift: form(parts.drift),
      heat: form(parts.heat),
    };
    const variance = own.scatter + own.mounts + own.drift + own.heat;
    const { scatter: s, mounts, drift: d, heat } = own;
    return {
      ...{ weights, variance },
      shares: { scatter: s / variance, mounts: mounts / variance, drift: d / variance, heat: heat / variance },
    };
  });
}

/** @param contrast one number a setup, summing to 0 */
export function plugIn(day: DayParts, contrast: readonly number[], answer: Answer): PlugIn {
  const weighed = weighedDay(day, contrast, answer.geometric);
  const root = Math.sqrt(weighed.variance);
  return {
    ...weighed,
    node: answer.geometric,
    q95: (answer.high - answer.low) / 2 / root,
    q90: (answer.high90 - answer.low90) / 2 / root,
  };
}

/** For each contrast the weights of least variance among those that estimate it. */
function bestWeights(
  { pulls }: DayParts,
  contrasts: readonly (readonly number[])[],
  covariance: Matrix,
): Float64Array[] {
  const x = new Matrix(meanColumns(pulls)).transpose();
  // A covariance with scatter on its diagonal is positive definite.
  const inverseX = new CholeskyDecomposition(covariance).solve(x);
  const information = new LuDecomposition(x.transpose().mmul(inverseX));
  return contrasts.map((contrast) => {
    const wanted = x.transpose().mmul(Matrix.columnVector([...plainWeights({ pulls }, contrast)]));
    return Float64Array.from(inverseX.mmul(information.solve(wanted)).to1DArray());
  });
}
