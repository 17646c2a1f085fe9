import { Matrix, solve } from 'ml-matrix';
import type { Answer } from './answer.ts';
import { plainWeights } from './fit.ts';
import type { Prepared } from './prepare.ts';

/** The day at one node, σ, τ and s at the geometric means of their weights, all pulls sound: for shares of the width and for planning. */
export interface PlugIn {
  /** A: weights of the pulls in the estimate. */
  readonly weights: Float64Array;
  /** Variance of the estimate, log-percent². */
  readonly variance: number;
  /** Half of today's 95 % and 90 % interval over the square root of that variance. */
  readonly q95: number;
  readonly q90: number;
  /** What the variance is made of; the four sum to 1. */
  readonly shares: { readonly scatter: number; readonly mounts: number; readonly drift: number; readonly heat: number };
}

/** @param contrast one number a setup, summing to 0 */
export function plugIn(prepared: Prepared, contrast: readonly number[], answer: Answer): PlugIn {
  const { pulls, parts, mountFactor, heatMissing, model } = prepared;
  const { scatter, mount, drift } = answer.geometric;
  const n = pulls.length;
  const heatSpread = prepared.heatCoefficient === 0 ? 0 : model.heatCoefficientSpread;
  const roundVariance = (mountFactor * mount) ** 2 + heatMissing;
  const at = (i: number, j: number) =>
    heatSpread ** 2 * parts.heat[i * n + j]! +
    roundVariance * parts.round[i * n + j]! +
    drift ** 2 * parts.drift[i * n + j]!;
  const weights = bestWeights(prepared, contrast, (i, j) => at(i, j) + (i === j ? scatter ** 2 : 0));
  const form = (table: (i: number, j: number) => number) => {
    let total = 0;
    for (let i = 0; i < n; i += 1) for (let j = 0; j < n; j += 1) total += weights[i]! * table(i, j) * weights[j]!;
    return total;
  };
  const own = {
    scatter: scatter ** 2 * form((i, j) => (i === j ? 1 : 0)),
    mounts: roundVariance * form((i, j) => parts.round[i * n + j]!),
    drift: drift ** 2 * form((i, j) => parts.drift[i * n + j]!),
    heat: heatSpread ** 2 * form((i, j) => parts.heat[i * n + j]!),
  };
  const variance = own.scatter + own.mounts + own.drift + own.heat;
  const root = Math.sqrt(variance);
  return {
    ...{ weights, variance },
    q95: (answer.high - answer.low) / 2 / root,
    q90: (answer.high90 - answer.low90) / 2 / root,
    shares: {
      scatter: own.scatter / variance,
      mounts: own.mounts / variance,
      drift: own.drift / variance,
      heat: own.heat / variance,
    },
  };
}

/** The weights of least variance among those that estimate the contrast: generalised least squares, by projecting off what is within setups. */
function bestWeights(prepared: Prepared, contrast: readonly number[], covariance: (i: number, j: number) => number) {
  const { pulls } = prepared;
  const n = pulls.length;
  const plain = plainWeights(prepared, contrast);
  const setups = [...new Set(pulls.map((p) => p.setup))];
  const columns = setups.map((setup) => pulls.map((p) => (p.setup === setup ? 1 : 0)));
  const v = Matrix.zeros(n, n);
  for (let i = 0; i < n; i += 1) for (let j = 0; j < n; j += 1) v.set(i, j, covariance(i, j));
  const x = new Matrix(columns).transpose();
  const inverseX = solve(v, x);
  const information = x.transpose().mmul(inverseX);
  const wanted = x.transpose().mmul(Matrix.columnVector([...plain]));
  const weights = inverseX.mmul(solve(information, wanted));
  return Float64Array.from({ length: n }, (_, i) => weights.get(i, 0));
}
