import { mixtureQuantile } from './answer.ts';
import { heatAdjusted, type Mixture } from './fit.ts';
import type { WeighedDay } from './plugIn.ts';
import type { DayParts } from './parts.ts';
import { pointwiseLevel, simultaneousCritical } from './simultaneous.ts';

/** A band of the same pulls: its values, log-percent, and the contrast at its plug-in node. */
export interface FittedBand {
  readonly y: ArrayLike<number>;
  readonly weighed: WeighedDay;
}

/** Residual correlations are drawn towards a half, worth ten degrees of freedom: few pulls tell little about them. */
const DRAWN_TO = 0.5;
const WORTH = 10;

/**
 * Mean correlation of the bands' estimates: what scatters from pull to pull correlates as the residuals do, what the day, the mounts
 * and the heat do is common to all bands.
 * @returns 0 for a single band
 */
export function bandCorrelation(prepared: DayParts, bands: readonly FittedBand[]): number {
  const { pulls } = prepared;
  const rounds = [...new Set(pulls.map((p) => p.round))];
  const degrees = pulls.length - rounds.length;
  const residuals = bands.map(({ y }) => {
    const z = heatAdjusted(prepared, y);
    const sums = new Map<number, { total: number; count: number }>();
    pulls.forEach(({ round }, i) => {
      const { total, count } = sums.get(round) ?? { total: 0, count: 0 };
      sums.set(round, { total: total + z[i]!, count: count + 1 });
    });
    return z.map((value, i) => {
      const { total, count } = sums.get(pulls[i]!.round)!;
      return value - total / count;
    });
  });
  let total = 0;
  let pairs = 0;
  for (let b = 0; b < bands.length; b += 1)
    for (let c = b + 1; c < bands.length; c += 1) {
      const seen = (degrees * correlation(residuals[b]!, residuals[c]!) + WORTH * DRAWN_TO) / (degrees + WORTH);
      const [f, g] = [bands[b]!.weighed.shares.scatter, bands[c]!.weighed.shares.scatter];
      total += Math.sqrt(f * g) * seen + Math.sqrt((1 - f) * (1 - g));
      pairs += 1;
    }
  return pairs === 0 ? 0 : clipped(total / pairs);
}

/**
 * Mean correlation of several candidates' contrasts, at the plug-in node of the job.
 * @param covariance of the values at that node, N×N by rows
 */
export function candidateCorrelation(weights: readonly ArrayLike<number>[], covariance: Float64Array): number {
  const n = Math.sqrt(covariance.length);
  const form = (a: ArrayLike<number>, b: ArrayLike<number>) => {
    let sum = 0;
    for (let i = 0; i < n; i += 1) for (let j = 0; j < n; j += 1) sum += a[i]! * covariance[i * n + j]! * b[j]!;
    return sum;
  };
  let total = 0;
  let pairs = 0;
  for (let b = 0; b < weights.length; b += 1)
    for (let c = b + 1; c < weights.length; c += 1) {
      const [own, other] = [weights[b]!, weights[c]!];
      total += form(own, other) / Math.sqrt(form(own, own) * form(other, other));
      pairs += 1;
    }
  return pairs === 0 ? 0 : clipped(total / pairs);
}

/** Intervals that hold together, log-percent, each read off its own mixture. @param confidence of all of them at once */
export function together(
  mixtures: readonly Mixture[],
  correlation: number,
  confidence = 0.95,
): { readonly low: number; readonly high: number }[] {
  if (mixtures.length === 0) return [];
  const level = pointwiseLevel(simultaneousCritical(mixtures.length, correlation, confidence));
  return mixtures.map((mixture) => ({
    low: mixtureQuantile(mixture, level / 2),
    high: mixtureQuantile(mixture, 1 - level / 2),
  }));
}

const clipped = (rho: number) => Math.min(0.98, Math.max(0, rho));

/** Correlation about zero: residuals have no mean left. 0 where one of them does not vary. */
function correlation(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < a.length; i += 1) {
    ab += a[i]! * b[i]!;
    aa += a[i]! * a[i]!;
    bb += b[i]! * b[i]!;
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0;
}
