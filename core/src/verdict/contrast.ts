import { studentT, twoSidedP } from '../statistics/distributions.ts';
import type { VerdictConstants } from './constants.ts';
import { variancesOf, type Fit } from './fit.ts';

/** An estimate with everything needed to draw its interval, in the engine's own scale. */
export interface Estimate {
  readonly estimate: number;
  readonly v: number;
  readonly vn: number;
  readonly vt: number;
  readonly se: number;
  readonly f: number;
  readonly df: number;
  readonly low: number;
  readonly high: number;
  readonly low90: number;
  readonly high90: number;
  readonly p: number;
}

/** Weights over the candidates of the fit, in the order of `design.candidates`; the baseline carries minus their sum. */
export type ContrastWeights = readonly number[];

export function candidateWeights(fit: Fit, side: number): ContrastWeights | null {
  const place = fit.design.candidates.indexOf(side);
  return place < 0 ? null : fit.design.candidates.map((_, i) => (i === place ? 1 : 0));
}

/**
 * A contrast L of setup effects with its interval: V = LCLᵀ, the drift-shape allowance (κD)²·Σ|L|/(2·brackets), and
 * degrees of freedom between the noise's and the allowances' (Satterthwaite's idea, shares f and 1 − f).
 */
export function estimateContrast(fit: Fit, weights: ContrastWeights, confidence = 0.95): Estimate {
  const { constants, disjoint, heat } = fit.design;
  const full = new Array<number>(fit.theta.length).fill(0);
  weights.forEach((w, i) => (full[i + 1] = w));
  const estimate = full.reduce((acc, w, i) => acc + w * fit.theta[i]!, 0);
  const { v, vn } = variancesOf(fit.design, fit.covariance, fit.noise.moderated, full);
  const size =
    (weights.reduce((acc, w) => acc + Math.abs(w), 0) + Math.abs(weights.reduce((acc, w) => acc + w, 0))) / 2;
  const shape = disjoint > 0 ? ((constants.kappa * fit.drift) ** 2 * size) / disjoint : 0;
  const vt = v + shape + (heat === 'missing' ? constants.missingHeat ** 2 : 0);
  return withInterval(estimate, v, vn, vt, fit.noise.nu, constants, confidence);
}

export function withInterval(
  estimate: number,
  v: number,
  vn: number,
  vt: number,
  nu: number,
  constants: VerdictConstants,
  confidence = 0.95,
): Estimate {
  const se = Math.sqrt(vt);
  const f = vn / vt;
  const df = effectiveDegrees(f, nu, constants.nuA);
  const half = studentT(1 - (1 - confidence) / 2, df) * se;
  const half90 = studentT(0.95, df) * se;
  return {
    estimate,
    v,
    vn,
    vt,
    se,
    f,
    df,
    low: estimate - half,
    high: estimate + half,
    low90: estimate - half90,
    high90: estimate + half90,
    p: twoSidedP(estimate / se, df),
  };
}

export function effectiveDegrees(f: number, nu: number, nuA: number): number {
  return 1 / (f ** 2 / nu + (1 - f) ** 2 / nuA);
}
