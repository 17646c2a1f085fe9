import digamma from '@stdlib/math-base-special-digamma';
import gammaln from '@stdlib/math-base-special-gammaln';
import trigamma from '@stdlib/math-base-special-trigamma';
import normalCdf from '@stdlib/stats-base-dists-normal-cdf';
import tCdf from '@stdlib/stats-base-dists-t-cdf';
import tQuantile from '@stdlib/stats-base-dists-t-quantile';

export { digamma, gammaln, trigamma };

/**
 * Quantile of Student's t; `degrees` need not be whole. `studentT(0.975, 10)` is 2.228139 (published t tables).
 * @example studentT(0.975, 10) // 2.22814
 */
export function studentT(probability: number, degrees: number): number {
  return tQuantile(probability, degrees);
}

/**
 * Two-sided p value of a t statistic.
 * @example twoSidedP(2.228, 10) // 0.0500118
 */
export function twoSidedP(t: number, degrees: number): number {
  return 2 * tCdf(-Math.abs(t), degrees);
}

/**
 * Standard normal distribution function Φ.
 * @example normalDistribution(1.959964) // 0.975
 */
export function normalDistribution(z: number): number {
  return normalCdf(z, 0, 1);
}

/**
 * Inverse of the trigamma function for y > 0, by Newton's method from a bracketed start.
 * Source: Smyth (2004), appendix "Inversion of Trigamma Function".
 * @throws RangeError for y ≤ 0
 * @example inverseTrigamma(1.6449340668) // 1
 */
export function inverseTrigamma(y: number): number {
  if (!(y > 0)) throw new RangeError('the trigamma function is positive');
  if (y > 1e7) return 1 / Math.sqrt(y);
  if (y < 1e-6) return 1 / y;
  let x = 0.5 + 1 / y;
  for (let step = 0; step < 60; step += 1) {
    const value = trigamma(x);
    const slope = (trigamma(x * (1 + 1e-6)) - value) / (x * 1e-6);
    const change = ((value * (1 - value / y)) / slope) * -1;
    x -= change;
    if (Math.abs(change) < 1e-10 * x) break;
  }
  return x;
}
