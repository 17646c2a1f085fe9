import { digamma, inverseTrigamma, trigamma } from '../statistics/distributions.ts';
import { mean, standardDeviation } from '../statistics/summary.ts';

/** Scatter of one setup in one round, heat-adjusted: variance in %² on its degrees of freedom. */
export interface RepeatGroup {
  readonly variance: number;
  readonly df: number;
}

const LEAST_GROUPS = 6;
const LEAST_RETURN_CHECKS = 8;

/**
 * Prior pull-to-pull SD (%) and its degrees of freedom from a bay's repeat groups, empirical Bayes after Smyth (2004):
 * e_g = ln s_g² − ψ(d_g/2) + ln(d_g/2), ψ′(d0/2) = var(e) − mean ψ′(d_g/2), s0² = exp(ē + ψ(d0/2) − ln(d0/2)).
 * Null under six groups.
 * @example bayPrior([]) // null
 */
export function bayPrior(groups: readonly RepeatGroup[]): { s0: number; d0: number } | null {
  const used = groups.filter((g) => g.df > 0);
  if (used.length < LEAST_GROUPS) return null;
  const e = used.map((g) => Math.log(Math.max(g.variance, 0.02 ** 2)) - digamma(g.df / 2) + Math.log(g.df / 2));
  const v = standardDeviation(e) ** 2 - mean(used.map((g) => trigamma(g.df / 2)));
  const d0 = v <= 0.01 ? 10 : Math.min(10, Math.max(2, 2 * inverseTrigamma(v)));
  const s0 = Math.sqrt(Math.exp(mean(e) + digamma(d0 / 2) - Math.log(d0 / 2)));
  return { s0: Math.max(0.05, s0), d0 };
}

/** A return check: later minus earlier round (%), their pull counts, and the hours between their mean times. */
export interface ReturnCheck {
  readonly drift: number;
  readonly n1: number;
  readonly n2: number;
  readonly hours: number;
}

/**
 * τ and s_d (%, %/h) from a bay's return checks by non-negative least squares of D² − s0²(1/n1 + 1/n2) on [2, Δt²], each kept
 * between a quarter and twice its default. Null under eight checks.
 * @example bayAllowances([], 0.5, {}) // null
 */
export function bayAllowances(
  checks: readonly ReturnCheck[],
  s0: number,
  defaults: { tau?: number; sd?: number },
): { tau: number; sd: number } | null {
  if (checks.length < LEAST_RETURN_CHECKS) return null;
  const tau0 = defaults.tau ?? 0.15;
  const sd0 = defaults.sd ?? 0.45;
  const y = checks.map((c) => c.drift ** 2 - s0 ** 2 * (1 / c.n1 + 1 / c.n2));
  const [tau2, sd2] = nonNegativePair(
    checks.map(() => 2),
    checks.map((c) => c.hours ** 2),
    y,
  );
  const bounded = (value: number, usual: number) => Math.min(2 * usual, Math.max(usual / 4, Math.sqrt(value)));
  return { tau: bounded(tau2, tau0), sd: bounded(sd2, sd0) };
}

/** Least squares y ≈ a·p + b·q with a, b ≥ 0 (Lawson & Hanson 1974, written out for two columns). */
function nonNegativePair(p: readonly number[], q: readonly number[], y: readonly number[]): [number, number] {
  const dot = (u: readonly number[], w: readonly number[]) => u.reduce((acc, value, i) => acc + value * w[i]!, 0);
  const determinant = dot(p, p) * dot(q, q) - dot(p, q) ** 2;
  if (determinant > 1e-12) {
    const a = (dot(p, y) * dot(q, q) - dot(q, y) * dot(p, q)) / determinant;
    const b = (dot(q, y) * dot(p, p) - dot(p, y) * dot(p, q)) / determinant;
    if (a >= 0 && b >= 0) return [a, b];
  }
  const a = Math.max(0, dot(p, y) / dot(p, p));
  const b = Math.max(0, dot(q, y) / dot(q, q));
  const error = (s: number, t: number) => y.reduce((acc, value, i) => acc + (value - s * p[i]! - t * q[i]!) ** 2, 0);
  return error(a, 0) <= error(0, b) ? [a, 0] : [0, b];
}
