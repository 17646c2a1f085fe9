import { mixtureQuantile } from '../verdict/engine/answer.ts';
import type { WeighedNormals } from '../verdict/engine/fit.ts';
import type { Study } from './randomEffects.ts';

/** Half-normal scale of the spread between cars, in the engine's unit (per cent for power): cars rarely differ by more than twice it. Judgement. */
const SPREAD_SCALE = 2;
const NODES = 80;
/** Beyond four scales nothing is left of the prior. */
const REACH = 4;
const FEWEST = 3;
/** Nodes this much less likely than the likeliest move no digit that is shown. */
const LEAST = 1e-6;

/**
 * What one further study's own effect may be: the predictive distribution of a normal model of random effects, flat in the mean,
 * half-normal in the spread between studies, which is integrated over instead of being put in as one number (Gelman et al. 2013,
 * Bayesian Data Analysis, section 5.4; section from memory). The published interval of Higgins, Thompson and Spiegelhalter puts
 * one estimate of the spread in: where studies scatter about as much as they differ it covers 87 to 93 % instead of 95, and with
 * three studies it is some four times as wide as it need be (docs/method.md, the next car).
 *
 * @param scale half-normal scale of the spread between studies, in the unit of the estimates
 * @returns the 95 % interval; null under three studies
 * @example nextStudy([{ estimate: 1, variance: 0.1 }]) // null
 */
export function nextStudy(studies: readonly Study[], scale = SPREAD_SCALE): { low: number; high: number } | null {
  if (studies.length < FEWEST) return null;
  const mixture = weighed(studies, scale);
  return { low: mixtureQuantile(mixture, 0.025), high: mixtureQuantile(mixture, 0.975) };
}

/**
 * The half-normal scale for a measure that scatters `factor` times as much as mean power does.
 * @example spreadScale(1.5) // 3
 */
export const spreadScale = (factor: number): number => SPREAD_SCALE * factor;

/** Nodes of the spread, close to each other where it is small: what a further study's own effect may be at each, and how likely it is. */
function weighed(studies: readonly Study[], scale: number): WeighedNormals {
  const [weights, means, variances] = [new Float64Array(NODES), new Float64Array(NODES), new Float64Array(NODES)];
  for (let i = 0; i < NODES; i += 1) {
    const u = (i + 0.5) / NODES;
    const spread = REACH * scale * u * u;
    const w = studies.map((s) => 1 / (s.variance + spread ** 2));
    const sum = w.reduce((a, b) => a + b, 0);
    const mean = studies.reduce((a, s, k) => a + w[k]! * s.estimate, 0) / sum;
    const fit = studies.reduce((a, s, k) => a + Math.log(w[k]!) - w[k]! * (s.estimate - mean) ** 2, 0);
    // Half a log determinant of the flat mean, the prior, and the width of the node.
    weights[i] = 0.5 * (fit - Math.log(sum)) - 0.5 * (spread / scale) ** 2 + Math.log(u);
    means[i] = mean;
    variances[i] = spread ** 2 + 1 / sum;
  }
  const best = weights.reduce((a, b) => Math.max(a, b));
  const likely = weights.map((log) => Math.exp(log - best)).map((weight) => (weight > LEAST ? weight : 0));
  const total = likely.reduce((a, b) => a + b, 0);
  return { weights: likely.map((weight) => weight / total), means, variances };
}
