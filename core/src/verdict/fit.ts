import { CholeskyDecomposition, Matrix } from 'ml-matrix';
import { mean, sum } from '../statistics/summary.ts';
import { DRIFT_SATURATION_HOURS, type VerdictConstants } from './constants.ts';
import { bracketsOf, disjointBrackets, roundsOf, type Bracket, type EnginePull, type Round } from './rounds.ts';

// Bound once: the numeric loops below call them millions of times.
const { abs, max, min } = Math;

/** How start temperature enters: adjusted for, deliberately not (a part meant to cool), or not measured. */
export type HeatUse = 'adjusted' | 'meant-to-change' | 'missing';

/** The part of a fit that depends on when and how the pulls were made, not on what they read. */
export interface Design {
  readonly pulls: readonly EnginePull[];
  readonly rounds: readonly Round[];
  readonly brackets: readonly Bracket[];
  readonly disjoint: number;
  /** Candidate sides that have pulls, in order; their effects are coefficients 1…n of θ. */
  readonly candidates: readonly number[];
  readonly heat: HeatUse;
  /** x = T − mean(T) in °C (0 where unused) and u = t − mean(t) in hours. */
  readonly x: readonly number[];
  readonly u: readonly number[];
  readonly xMean: number;
  readonly uMean: number;
  /** Drift allowance of this design, %/h, saturated without any bracket. */
  readonly sd: number;
  readonly tau: number;
  readonly constants: VerdictConstants;
  readonly h0: number;
  /** Design matrix, its cross product XᵀX, and the diagonal of Λ. */
  readonly columns: Matrix;
  readonly cross: Matrix;
  readonly prior: readonly number[];
  readonly heatColumn: number;
  readonly driftColumn: number;
}

export interface DesignOptions {
  readonly heat: HeatUse;
  readonly remounted?: boolean;
  /** Means to centre on, when a design must stay comparable to another (odd pulls). */
  readonly centre?: { readonly xMean: number; readonly uMean: number };
}

/** Lays out X and Λ of pass 2 for the given counted pulls. */
export function designOf(pulls: readonly EnginePull[], constants: VerdictConstants, options: DesignOptions): Design {
  const rounds = roundsOf(pulls);
  const brackets = bracketsOf(rounds);
  const candidates = [...new Set(pulls.map((p) => p.side).filter((side) => side > 0))].sort((a, b) => a - b);
  const useHeat = options.heat === 'adjusted';
  const starts = pulls.map((p) => (useHeat ? (p.startC ?? NaN) : 0));
  const xMean = useHeat ? (options.centre?.xMean ?? mean(starts)) : 0;
  const uMean = options.centre?.uMean ?? mean(pulls.map((p) => p.hours));
  const x = starts.map((t) => t - xMean);
  const u = pulls.map((p) => p.hours - uMean);
  const sd =
    brackets.length > 0 ? constants.sd : constants.sd * min(1, DRIFT_SATURATION_HOURS / widestGap(pulls, candidates));
  const tau = options.remounted ? constants.tauRemounted : constants.tau;
  const width: number[][] = [
    pulls.map(() => 1),
    ...candidates.map((side) => pulls.map((p) => (p.side === side ? 1 : 0))),
  ];
  const prior: number[] = width.map(() => 0);
  let heatColumn = -1;
  let driftColumn = -1;
  if (useHeat && constants.sh > 0) {
    heatColumn = width.push([...x]) - 1;
    prior.push(1 / constants.sh ** 2);
  }
  if (sd > 0) {
    driftColumn = width.push([...u]) - 1;
    prior.push(1 / sd ** 2);
  }
  if (tau > 0) {
    for (const round of rounds) {
      width.push(pulls.map((_, i) => (round.members.includes(i) ? 1 : 0)));
      prior.push(1 / tau ** 2);
    }
  }
  const columns = new Matrix(width).transpose();
  return {
    pulls,
    rounds,
    brackets,
    disjoint: disjointBrackets(brackets),
    candidates,
    heat: options.heat,
    x,
    u,
    xMean,
    uMean,
    sd,
    tau,
    constants,
    h0: useHeat ? constants.h0 : 0,
    columns,
    cross: columns.transpose().mmul(columns),
    prior,
    heatColumn,
    driftColumn,
  };
}

/** Largest time between the mean of the baseline's pulls and the mean of a candidate's, hours. */
function widestGap(pulls: readonly EnginePull[], candidates: readonly number[]): number {
  const centre = (side: number) => mean(pulls.filter((p) => p.side === side).map((p) => p.hours));
  const base = centre(0);
  return max(1e-9, ...candidates.map((side) => abs(centre(side) - base)).filter(Number.isFinite));
}

/** Pull noise by pass 1, moderated by what the bay is known to do (Smyth 2004). */
export interface PullNoise {
  readonly rss: number;
  readonly d: number;
  /** Today's own variance; NaN when no round has two pulls. */
  readonly s2: number;
  readonly moderated: number;
  readonly nu: number;
  readonly sxx: number;
  readonly sxy: number;
  readonly syy: number;
  readonly lambda: number;
  readonly slope: number;
  /** Residuals within rounds after the heat slope. */
  readonly residuals: readonly number[];
}

export function heatAdjusted(design: Design, y: readonly number[]): number[] {
  return y.map((value, i) => value + design.h0 * design.x[i]!);
}

/** Pass 1: pooled scatter within rounds, allowing the heat coefficient to differ from h0. */
export function pullNoise(design: Design, y1: readonly number[], s0: number, d0: number): PullNoise {
  const yc = new Array<number>(y1.length).fill(0);
  const xc = new Array<number>(y1.length).fill(0);
  for (const { members } of design.rounds) {
    const yMean = mean(members.map((i) => y1[i]!));
    const xMean = mean(members.map((i) => design.x[i]!));
    for (const i of members) {
      yc[i] = y1[i]! - yMean;
      xc[i] = design.x[i]! - xMean;
    }
  }
  const sxx = sum(xc.map((v) => v * v));
  const sxy = sum(xc.map((v, i) => v * yc[i]!));
  const syy = sum(yc.map((v) => v * v));
  const lambda = design.heatColumn >= 0 ? s0 ** 2 / design.constants.sh ** 2 : Infinity;
  const slope = Number.isFinite(lambda) ? sxy / (sxx + lambda) : 0;
  const rss = max(0, syy - sxy * slope);
  const d = y1.length - design.rounds.length;
  const s2 = d > 0 ? rss / d : NaN;
  const shrunk = (d0 * s0 ** 2 + rss) / (d0 + d);
  return {
    rss,
    d,
    s2,
    moderated: d > 0 ? max(shrunk, s2) : shrunk,
    nu: d0 + d,
    sxx,
    sxy,
    syy,
    lambda,
    slope,
    residuals: yc.map((v, i) => v - slope * xc[i]!),
  };
}

export interface Fit {
  readonly design: Design;
  readonly noise: PullNoise;
  readonly theta: readonly number[];
  /** Covariance C of θ. */
  readonly covariance: Matrix;
  /** The bracket difference of largest size (0 without a bracket), later minus earlier round, heat-adjusted. */
  readonly drift: number;
}

/** C = (XᵀX/s² + Λ)⁻¹ for a design and a pull variance, by Cholesky. */
export function covarianceOf(design: Design, variance: number): Matrix {
  const information = Matrix.mul(design.cross, 1 / variance);
  design.prior.forEach((value, i) => information.set(i, i, information.get(i, i) + value));
  return new CholeskyDecomposition(information).solve(Matrix.eye(information.rows));
}

/** Variance wᵀCw of a weighting of θ, and the part of it that pull noise alone makes, wᵀC·XᵀX·Cw/s². */
export function variancesOf(
  design: Design,
  covariance: Matrix,
  variance: number,
  weights: readonly number[],
): { v: number; vn: number } {
  const n = weights.length;
  const spread = new Array<number>(n).fill(0);
  for (let i = 0; i < n; i += 1)
    for (let j = 0; j < n; j += 1) if (weights[j] !== 0) spread[i]! += covariance.get(i, j) * weights[j]!;
  let v = 0;
  let vn = 0;
  for (let i = 0; i < n; i += 1) {
    v += weights[i]! * spread[i]!;
    for (let j = 0; j < n; j += 1) vn += spread[i]! * design.cross.get(i, j) * spread[j]!;
  }
  return { v, vn: vn / variance };
}

/** Both passes on one measure of the counted pulls. `y` is log-percent (or an additive value) in the order of the pulls. */
export function fitPulls(design: Design, y: readonly number[], s0: number, d0: number): Fit {
  const y1 = heatAdjusted(design, y);
  const noise = pullNoise(design, y1, s0, d0);
  const covariance = covarianceOf(design, noise.moderated);
  const right = Matrix.rowVector(y1)
    .mmul(design.columns)
    .mul(1 / noise.moderated);
  const theta = right.mmul(covariance).to1DArray();
  return { design, noise, theta, covariance, drift: largestDrift(design, y1) };
}

function largestDrift(design: Design, y1: readonly number[]): number {
  const roundMean = (i: number) => mean(design.rounds[i]!.members.map((k) => y1[k]!));
  let largest = 0;
  for (const { earlier, later } of design.brackets) {
    const shift = roundMean(later) - roundMean(earlier);
    if (abs(shift) > abs(largest)) largest = shift;
  }
  return largest;
}
