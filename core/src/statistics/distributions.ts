import normalCdf from '@stdlib/stats-base-dists-normal-cdf';
import normalQuantileOf from '@stdlib/stats-base-dists-normal-quantile';
import tCdf from '@stdlib/stats-base-dists-t-cdf';
import tQuantile from '@stdlib/stats-base-dists-t-quantile';

/**
 * Quantile of Student's t; `degrees` need not be whole. `studentT(0.975, 10)` is 2.228139 (published t tables).
 * @example studentT(0.975, 10) // 2.22814
 */
export function studentT(probability: number, degrees: number): number {
  return tQuantile(probability, degrees);
}

/**
 * Distribution function of Student's t; `degrees` need not be whole.
 * @example tDistribution(2.228139, 10) // 0.975
 */
export function tDistribution(t: number, degrees: number): number {
  return tCdf(t, degrees);
}

/**
 * Standard normal distribution function Φ.
 * @example normalDistribution(1.959964) // 0.975
 */
export function normalDistribution(z: number): number {
  return normalCdf(z, 0, 1);
}

/**
 * Quantile of the standard normal distribution, Φ⁻¹.
 * @example normalQuantile(0.975) // 1.95996
 */
export function normalQuantile(probability: number): number {
  return normalQuantileOf(probability, 0, 1);
}
