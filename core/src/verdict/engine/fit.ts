import { nodeAt, type NodePrior } from './model.ts';
import type { Prepared } from './prepare.ts';

/**
 * Every way the day can be read: for each node of scatter, mount and drift the case that all pulls are sound and the cases that one
 * of them is bad. Each is a normal distribution of the contrast; its weight says how well it explains the pulls.
 */
export interface Mixture {
  /** Weights; they sum to 1. At index node·(pulls + 1) + case, case 0 all sound, case i pull i bad. */
  readonly weights: Float64Array;
  /** Means and variances, log-percent and its square. */
  readonly means: Float64Array;
  readonly variances: Float64Array;
  /** Index of the node as `nodeAt` gives it. */
  readonly cases: number;
  /** Largest logarithm of a weight before normalising; says how well the day fits what was believed. */
  readonly logEvidence: number;
  /** What was taken out of the logarithms: ln W = ln(weight) + logScale. */
  readonly logScale: number;
}

/** Weights of a contrast over the pulls when nothing is known of the noise: differences of plain means. */
export function plainWeights({ pulls }: Prepared, contrast: readonly number[]): Float64Array {
  const counts = contrast.map((_, setup) => pulls.filter((p) => p.setup === setup).length);
  return Float64Array.from(pulls, (p) => (contrast[p.setup] ?? 0) / counts[p.setup]!);
}

/** z: values with the expected heat put back, about their mean. */
export function heatAdjusted({ heat, heatCoefficient }: Prepared, y: ArrayLike<number>): Float64Array {
  const z = Float64Array.from(y, (value, i) => value + heatCoefficient * heat[i]!);
  const mean = z.reduce((a, b) => a + b, 0) / z.length;
  return z.map((value) => value - mean);
}

/**
 * Fits one contrast of one set of values.
 *
 * @param y log-percent of every pull, in the order of `prepared.pulls`
 * @param contrast one number a setup, summing to 0
 * @param prior weights of the nodes, summing to 1
 */
export function fitContrast(
  prepared: Prepared,
  y: ArrayLike<number>,
  contrast: readonly number[],
  prior: NodePrior,
): Mixture {
  const { model, nodes, degrees: r, pulls } = prepared;
  const n = pulls.length;
  const cases = n + 1;
  const z = heatAdjusted(prepared, y);
  const p = plainWeights(prepared, contrast);
  const scatters = model.scatterNodes.length;
  const drifts = model.driftNodes.length;
  const size = nodes.length * scatters * cases;
  const logs = new Float64Array(size);
  const means = new Float64Array(size);
  const variances = new Float64Array(size);
  const badOdds = Math.log(model.badPullOdds / (1 - model.badPullOdds));
  const plain = dot(p, z);
  const pp = dot(p, p);
  const g = new Float64Array(r);
  const kappa = new Float64Array(r);
  const w = new Float64Array(r);
  nodes.forEach(({ lambda, vectors, covariance }, node) => {
    const kp = times(covariance, p, n);
    const kpp = dot(kp, p);
    for (let j = 0; j < r; j += 1) {
      let own = 0;
      let through = 0;
      for (let i = 0; i < n; i += 1) {
        own += vectors[i * r + j]! * z[i]!;
        through += vectors[i * r + j]! * kp[i]!;
      }
      g[j] = own;
      kappa[j] = through;
    }
    for (let k = 0; k < scatters; k += 1) {
      const sigma2 = model.scatterNodes[k]! ** 2;
      let log = 0;
      let mean = plain;
      let variance = sigma2 * pp + kpp;
      for (let j = 0; j < r; j += 1) {
        w[j] = 1 / (lambda[j]! + sigma2);
        log += 0.5 * (Math.log(w[j]!) - w[j]! * g[j]! * g[j]!);
        mean -= kappa[j]! * g[j]! * w[j]!;
        variance -= kappa[j]! * kappa[j]! * w[j]!;
      }
      log += Math.log(prior[nodeAt(model, Math.floor(node / drifts), node % drifts, k)]!);
      const at = (node * scatters + k) * cases;
      logs[at] = log;
      means[at] = mean;
      variances[at] = variance;
      const q = model.badPullSize ** 2 * sigma2;
      for (let i = 0; i < n; i += 1) {
        let pz = 0;
        let pinned = 0;
        let a = p[i]!;
        for (let j = 0; j < r; j += 1) {
          const gw = vectors[i * r + j]! * w[j]!;
          pz += gw * g[j]!;
          pinned += gw * vectors[i * r + j]!;
          a -= gw * kappa[j]!;
        }
        const d = 1 + q * pinned;
        logs[at + 1 + i] = log + badOdds - 0.5 * Math.log(d) + (0.5 * q * pz * pz) / d;
        means[at + 1 + i] = mean - (a * q * pz) / d;
        variances[at + 1 + i] = variance + (a * a * q) / d;
      }
    }
  });
  const logEvidence = logs.reduce((most, value) => (value > most ? value : most), -Infinity);
  const raw = logs.map((value) => Math.exp(value - logEvidence));
  const all = raw.reduce((a, b) => a + b, 0);
  const logScale = logEvidence + Math.log(all);
  return { weights: raw.map((value) => value / all), means, variances, cases, logEvidence, logScale };
}

function dot(a: Float64Array, b: Float64Array): number {
  let total = 0;
  for (let i = 0; i < a.length; i += 1) total += a[i]! * b[i]!;
  return total;
}

function times(table: Float64Array, vector: Float64Array, n: number): Float64Array {
  return Float64Array.from({ length: n }, (_, i) => {
    let total = 0;
    for (let j = 0; j < n; j += 1) total += table[i * n + j]! * vector[j]!;
    return total;
  });
}
