import { LuDecomposition, Matrix } from 'ml-matrix';
import type { NodePrior } from './model.ts';
import { isBlocked, meanColumns, roundVariance, type DayParts, type EnginePull } from './parts.ts';
import type { Prepared } from './prepare.ts';
import { allNodes, mountDriftPairs } from './projection.ts';

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
  /** K·p of every pair of mount and drift nodes, at index pair·N + i. */
  readonly spread: Float64Array;
  /** A = p − P·K·p: how far pull i moves the estimate at a node, at index node·N + i. */
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
  const { model, projection, pulls } = prepared;
  const n = pulls.length;
  const plain = plainWeights(prepared, contrast);
  const spread = throughCovariance(prepared, plain);
  const nodes = allNodes(model);
  const lever = new Float64Array(nodes.length * n);
  projection.through(nodes, partOf(spread, n), (projected, node) => {
    for (let i = 0; i < n; i += 1) lever[node * n + i] = plain[i]! - projected[i]!;
  });
  return withVariances(prepared, plain, spread, lever);
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
  return withVariances(prepared, sum((aim) => aim.plain), sum((aim) => aim.spread), sum((aim) => aim.lever)); // prettier-ignore
}

/** Rows of a table of so many values each. */
const partOf = (table: Float64Array, n: number) => (row: number) => table.subarray(row * n, (row + 1) * n);

function withVariances(prepared: Prepared, plain: Float64Array, spread: Float64Array, lever: Float64Array): Aim {
  const { model, pulls, held } = prepared;
  const n = pulls.length;
  const scatters = model.scatterNodes.length;
  const variances = new Float64Array((lever.length / n) * (n + 1));
  const pp = dot(plain, plain);
  const [spreadOf, leverOf] = [partOf(spread, n), partOf(lever, n)];
  for (let node = 0; node * n < lever.length; node += 1) {
    const sigma2 = model.scatterNodes[node % scatters]! ** 2;
    // σ²·pᵀp + pᵀKp − (Kp)ᵀ·P·Kp, the last two as (Kp)ᵀ·A.
    const variance = sigma2 * pp + dot(spreadOf(floor(node / scatters)), leverOf(node));
    const q = model.badPullSize ** 2 * sigma2;
    variances[node * (n + 1)] = variance;
    for (let i = 0; i < n; i += 1)
      variances[node * (n + 1) + 1 + i] = variance + (lever[node * n + i]! ** 2 * q) / held[node * n + i]!;
  }
  return { plain, spread, lever, variances, cells: cellsOf(variances) };
}

/** K·p of every pair of mount and drift nodes; each part of K is applied once. */
function throughCovariance(prepared: Prepared, plain: Float64Array): Float64Array {
  const { model, heat, heatSpread, sameRound, drift } = prepared;
  const n = plain.length;
  const heatSum = heatSpread ** 2 * dot(heat, plain);
  const [round, course] = [times(sameRound, plain, n), times(drift, plain, n)];
  const pairs = mountDriftPairs(model);
  const all = new Float64Array(pairs.length * n);
  pairs.forEach((pair, at) => {
    const [mount, rate] = [roundVariance(prepared, pair.mount), pair.drift ** 2];
    for (let i = 0; i < n; i += 1) all[at * n + i] = heatSum * heat[i]! + mount * round[i]! + rate * course[i]!;
  });
  return all;
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
  const { model, projection, pulls, held, halfLogHeld } = prepared;
  const n = pulls.length;
  const cases = n + 1;
  const z = heatAdjusted(prepared, y);
  const scatters = model.scatterNodes.length;
  const list = among ?? allNodes(model);
  const logs = new Float64Array(list.length * cases);
  const read = aims.map((aim) => ({
    ...{ aim, plain: dot(aim.plain, z), means: new Float64Array(logs.length) },
    ...(among ? only(aim, among, cases) : { variances: aim.variances, cells: aim.cells }),
  }));
  const badOdds = log(model.badPullOdds / (1 - model.badPullOdds));
  const moved = new Float64Array(n);
  projection.through(
    list,
    () => z,
    (off, node, place) => {
      const at = place * cases;
      const sound = projection.halfLogWeights[node]! - 0.5 * dot(z, off) + log(prior[node]!);
      logs[at] = sound;
      const q = model.badPullSize ** 2 * model.scatterNodes[node % scatters]! ** 2;
      for (let i = 0; i < n; i += 1) {
        moved[i] = (q * off[i]!) / held[node * n + i]!;
        logs[at + 1 + i] = sound + badOdds - halfLogHeld[node * n + i]! + 0.5 * off[i]! * moved[i]!;
      }
      const pair = floor(node / scatters);
      for (let a = 0; a < read.length; a += 1) {
        const { aim, plain, means } = read[a]!;
        let mean = plain;
        for (let i = 0; i < n; i += 1) mean -= aim.spread[pair * n + i]! * off[i]!;
        means[at] = mean;
        for (let i = 0; i < n; i += 1) means[at + 1 + i] = mean - aim.lever[node * n + i]! * moved[i]!;
      }
    },
  );
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
