import { LuDecomposition, Matrix } from 'ml-matrix';
import type { NodePrior } from './model.ts';
import { isBlocked, meanColumns, roundVariance, type DayParts, type EnginePull } from './parts.ts';
import type { Prepared } from './prepare.ts';

const { exp, floor, log, round } = Math;

/** A weighed sum of normal distributions. */
export interface WeighedNormals {
  /** Weights; they sum to 1. */
  readonly weights: Float64Array;
  readonly means: Float64Array;
  readonly variances: Float64Array;
}

/**
 * Every way the day can be read: for each node of scatter, mount and drift the case that all pulls are sound and the cases that one
 * of them is bad. Each is a normal distribution of the contrast, log-percent; its weight says how well it explains the pulls. They
 * stand at index node·(pulls + 1) + case, case 0 all sound, case i pull i bad.
 */
export interface Mixture extends WeighedNormals {
  /** Which components may be put together by their spread, where somebody has worked it out already. */
  readonly cells: Cells | null;
  readonly cases: number;
  /** Largest logarithm of a weight before normalising; says how well the day fits what was believed. */
  readonly logEvidence: number;
  /** What was taken out of the logarithms: ln W = ln(weight) + logScale. */
  readonly logScale: number;
}

/** Cells of spread: components whose levels agree have about the same spread; two means of them agree within 1/finer. */
export interface Cells {
  readonly levels: Int16Array;
  readonly finer: Float64Array;
}

/** Ratio of neighbouring spreads, as a logarithm, and share of the spread in the mean. */
const LOG_CELL = log(1.06);
const CELL_SHARE = 0.2;

/** @param variances of the components of a mixture */
export function cellsOf(variances: Float64Array): Cells {
  const levels = new Int16Array(variances.length);
  const finer = new Float64Array(variances.length);
  for (let i = 0; i < variances.length; i += 1) {
    const level = round(log(variances[i]!) / (2 * LOG_CELL));
    levels[i] = level;
    finer[i] = exp(-level * LOG_CELL) / CELL_SHARE;
  }
  return { levels, finer };
}

/** A contrast of setups on a prepared day: what of its fit does not depend on the values of the pulls. */
export interface Aim {
  /** p: weights of the plain difference of means over the pulls. */
  readonly plain: Float64Array;
  /** κ = Gᵀ·K·p of every pair of mount and drift nodes, at index pair·r + j. */
  readonly pull: Float64Array;
  /** A: how far pull i moves the estimate at a node, at index node·N + i. */
  readonly lever: Float64Array;
  /** Variances of the mixture, and their cells. */
  readonly variances: Float64Array;
  readonly cells: Cells;
}

/**
 * Weights of a contrast over the pulls when nothing is known of the noise: differences of plain means; among blocks those of least
 * squares, which give every block its level.
 */
export function plainWeights({ pulls }: Pick<DayParts, 'pulls'>, contrast: readonly number[]): Float64Array {
  if (isBlocked(pulls)) return leastSquares(pulls, contrast);
  const counts = contrast.map((_, setup) => pulls.filter((p) => p.setup === setup).length);
  return Float64Array.from(pulls, (p) => (contrast[p.setup] ? contrast[p.setup]! / counts[p.setup]! : 0));
}

/** X·(XᵀX)⁻¹·c. @throws Error where X does not tell the contrast */
function leastSquares(pulls: readonly EnginePull[], contrast: readonly number[]): Float64Array {
  const setups = [...new Set(pulls.map((p) => p.setup))];
  const columns = meanColumns(pulls);
  const x = new Matrix(columns).transpose();
  const wanted = Matrix.columnVector(columns.map((_, i) => contrast[setups[i] ?? -1] ?? 0));
  const solved = new LuDecomposition(x.transpose().mmul(x)).solve(wanted);
  return Float64Array.from(x.mmul(solved).to1DArray());
}

/** z: values with the expected heat put back, about their mean. */
export function heatAdjusted({ heat, heatCoefficient }: DayParts, y: ArrayLike<number>): Float64Array {
  const z = Float64Array.from(y, (value, i) => value + heatCoefficient * heat[i]!);
  const mean = z.reduce((a, b) => a + b, 0) / z.length;
  return z.map((value) => value - mean);
}

/** @param contrast one number a setup, summing to 0; setups that were not pulled have 0 */
export function aimAt(prepared: Prepared, contrast: readonly number[]): Aim {
  const { model, nodes, degrees: r, pulls } = prepared;
  const n = pulls.length;
  const scatters = model.scatterNodes.length;
  const plain = plainWeights(prepared, contrast);
  const pull = new Float64Array(nodes.length * r);
  const lever = new Float64Array(nodes.length * scatters * n);
  const pulled = new Float64Array(r);
  const through = throughCovariance(prepared, plain);
  for (let pair = 0; pair < nodes.length; pair += 1) {
    const { lambda, vectors } = nodes[pair]!;
    const kp = through(pair);
    for (let i = 0; i < n; i += 1) for (let j = 0; j < r; j += 1) pull[pair * r + j]! += vectors[i * r + j]! * kp[i]!;
    for (let k = 0; k < scatters; k += 1) {
      const node = pair * scatters + k;
      const sigma2 = model.scatterNodes[k]! ** 2;
      for (let j = 0; j < r; j += 1) pulled[j] = pull[pair * r + j]! / (lambda[j]! + sigma2);
      for (let i = 0; i < n; i += 1) {
        let own = plain[i]!;
        for (let j = 0; j < r; j += 1) own -= vectors[i * r + j]! * pulled[j]!;
        lever[node * n + i] = own;
      }
    }
  }
  return withVariances(prepared, plain, pull, lever);
}

/** A contrast that is a sum of others, from theirs: everything but the variances is linear in it. */
export function combinedAim(prepared: Prepared, aims: readonly Aim[], weights: readonly number[]): Aim {
  const sum = (of: (aim: Aim) => Float64Array) => {
    const total = new Float64Array(of(aims[0]!).length);
    aims.forEach((aim, a) => {
      const weight = weights[a]!;
      if (weight === 0) return;
      const own = of(aim);
      for (let i = 0; i < total.length; i += 1) total[i]! += weight * own[i]!;
    });
    return total;
  };
  return withVariances(prepared, sum((aim) => aim.plain), sum((aim) => aim.pull), sum((aim) => aim.lever)); // prettier-ignore
}

function withVariances(prepared: Prepared, plain: Float64Array, pull: Float64Array, lever: Float64Array): Aim {
  const { model, nodes, degrees: r, pulls, held } = prepared;
  const n = pulls.length;
  const scatters = model.scatterNodes.length;
  const variances = new Float64Array(nodes.length * scatters * (n + 1));
  const pp = dot(plain, plain);
  const through = throughCovariance(prepared, plain);
  for (let pair = 0; pair < nodes.length; pair += 1) {
    const { lambda } = nodes[pair]!;
    const kpp = dot(through(pair), plain);
    for (let k = 0; k < scatters; k += 1) {
      const node = pair * scatters + k;
      const sigma2 = model.scatterNodes[k]! ** 2;
      let variance = sigma2 * pp + kpp;
      for (let j = 0; j < r; j += 1) variance -= pull[pair * r + j]! ** 2 / (lambda[j]! + sigma2);
      const q = model.badPullSize ** 2 * sigma2;
      variances[node * (n + 1)] = variance;
      for (let i = 0; i < n; i += 1)
        variances[node * (n + 1) + 1 + i] = variance + (lever[node * n + i]! ** 2 * q) / held[node * n + i]!;
    }
  }
  return { plain, pull, lever, variances, cells: cellsOf(variances) };
}

/** K·p for a pair of mount and drift nodes; each part of K is applied once. */
function throughCovariance(prepared: Prepared, plain: Float64Array): (pair: number) => Float64Array {
  const { model, heat, heatSpread, sameRound, drift } = prepared;
  const n = plain.length;
  const heatSum = heatSpread ** 2 * dot(heat, plain);
  const [round, course] = [times(sameRound, plain, n), times(drift, plain, n)];
  return (pair) => {
    const mount = roundVariance(prepared, model.mountNodes[floor(pair / model.driftNodes.length)]!);
    const rate = model.driftNodes[pair % model.driftNodes.length]! ** 2;
    return heat.map((x, i) => heatSum * x + mount * round[i]! + rate * course[i]!);
  };
}

/**
 * Fits several contrasts of one set of values: they share the weights.
 *
 * @param y log-percent of every pull, in the order of `prepared.pulls`
 * @param prior weights of the nodes, summing to 1
 * @param among the nodes to be summed over, others are left out; the mixtures then hold these nodes only, in this order. All where absent
 */
export function fit(
  prepared: Prepared,
  y: ArrayLike<number>,
  aims: readonly Aim[],
  prior: NodePrior,
  among?: readonly number[],
): Mixture[] {
  const { model, nodes, degrees: r, pulls, halfLogWeights, held, halfLogHeld } = prepared;
  const n = pulls.length;
  const cases = n + 1;
  const z = heatAdjusted(prepared, y);
  const scatters = model.scatterNodes.length;
  const list = among ?? Array.from({ length: nodes.length * scatters }, (_, i) => i);
  const logs = new Float64Array(list.length * cases);
  const read = aims.map((aim) => ({
    ...{ aim, plain: dot(aim.plain, z), means: new Float64Array(logs.length) },
    ...(among ? only(aim, among, cases) : { variances: aim.variances, cells: aim.cells }),
  }));
  const badOdds = log(model.badPullOdds / (1 - model.badPullOdds));
  const g = new Float64Array(r);
  const u = new Float64Array(r);
  const moved = new Float64Array(n);
  let before = -1;
  for (let place = 0; place < list.length; place += 1) {
    const node = list[place]!;
    const pair = floor(node / scatters);
    const { lambda, vectors } = nodes[pair]!;
    const sigma2 = model.scatterNodes[node % scatters]! ** 2;
    if (pair !== before) {
      g.fill(0);
      for (let i = 0; i < n; i += 1) for (let j = 0; j < r; j += 1) g[j]! += vectors[i * r + j]! * z[i]!;
      before = pair;
    }
    let squares = 0;
    for (let j = 0; j < r; j += 1) {
      u[j] = g[j]! / (lambda[j]! + sigma2);
      squares += u[j]! * g[j]!;
    }
    const at = place * cases;
    const sound = halfLogWeights[node]! - 0.5 * squares + log(prior[node]!);
    logs[at] = sound;
    const q = model.badPullSize ** 2 * sigma2;
    for (let i = 0; i < n; i += 1) {
      let off = 0;
      for (let j = 0; j < r; j += 1) off += vectors[i * r + j]! * u[j]!;
      moved[i] = (q * off) / held[node * n + i]!;
      logs[at + 1 + i] = sound + badOdds - halfLogHeld[node * n + i]! + 0.5 * off * moved[i]!;
    }
    for (let a = 0; a < read.length; a += 1) {
      const { aim, plain, means } = read[a]!;
      let mean = plain;
      for (let j = 0; j < r; j += 1) mean -= aim.pull[pair * r + j]! * u[j]!;
      means[at] = mean;
      for (let i = 0; i < n; i += 1) means[at + 1 + i] = mean - aim.lever[node * n + i]! * moved[i]!;
    }
  }
  let logEvidence = -Infinity;
  for (let i = 0; i < logs.length; i += 1) if (logs[i]! > logEvidence) logEvidence = logs[i]!;
  const weights = logs;
  let all = 0;
  for (let i = 0; i < logs.length; i += 1) {
    weights[i] = exp(logs[i]! - logEvidence);
    all += weights[i]!;
  }
  for (let i = 0; i < weights.length; i += 1) weights[i]! /= all;
  const logScale = logEvidence + log(all);
  return read.map(({ means, variances, cells }) => ({
    ...{ weights, means, variances, cells, cases, logEvidence, logScale },
  }));
}

/** Variances and cells of some of the nodes. */
function only({ variances, cells }: Aim, among: readonly number[], cases: number): Pick<Aim, 'variances' | 'cells'> {
  const size = among.length * cases;
  const own = {
    variances: new Float64Array(size),
    cells: { levels: new Int16Array(size), finer: new Float64Array(size) },
  };
  among.forEach((node, place) => {
    const [from, to] = [node * cases, (node + 1) * cases];
    own.variances.set(variances.subarray(from, to), place * cases);
    own.cells.levels.set(cells.levels.subarray(from, to), place * cases);
    own.cells.finer.set(cells.finer.subarray(from, to), place * cases);
  });
  return own;
}

/** Fits one contrast; see `fit`. @param contrast one number a setup, summing to 0 */
export function fitContrast(
  prepared: Prepared,
  y: ArrayLike<number>,
  contrast: readonly number[],
  prior: NodePrior,
): Mixture {
  return fit(prepared, y, [aimAt(prepared, contrast)], prior)[0]!;
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
