import { normalDistribution } from '../statistics/distributions.ts';
import type { Study } from './randomEffects.ts';

/** Half-normal scale of the spread between cars, in the engine's unit (per cent for power): cars rarely differ by more than twice it. Judgement. */
const SPREAD_SCALE = 2;
const NODES = 80;
/** Beyond four scales nothing is left of the prior. */
const REACH = 4;
const FEWEST = 3;

interface Node {
  readonly weight: number;
  readonly mean: number;
  readonly sd: number;
}

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
  const nodes = weighed(studies, scale);
  const total = nodes.reduce((a, n) => a + n.weight, 0);
  const below = (x: number) =>
    nodes.reduce((a, n) => a + n.weight * normalDistribution((x - n.mean) / n.sd), 0) / total;
  const [least, most] = [
    Math.min(...nodes.map((n) => n.mean - 9 * n.sd)),
    Math.max(...nodes.map((n) => n.mean + 9 * n.sd)),
  ];
  const at = (share: number) => {
    let [low, high] = [least, most];
    for (let i = 0; i < 48; i += 1) {
      const middle = (low + high) / 2;
      if (below(middle) < share) low = middle;
      else high = middle;
    }
    return (low + high) / 2;
  };
  return { low: at(0.025), high: at(0.975) };
}

/**
 * The half-normal scale for a measure that scatters `factor` times as much as mean power does.
 * @example spreadScale(1.5) // 3
 */
export const spreadScale = (factor: number): number => SPREAD_SCALE * factor;

/** Nodes of the spread, close to each other where it is small; weight, mean and standard deviation of a further study at each. */
function weighed(studies: readonly Study[], scale: number): Node[] {
  const logs = Array.from({ length: NODES }, (_, i) => {
    const u = (i + 0.5) / NODES;
    const spread = REACH * scale * u * u;
    const w = studies.map((s) => 1 / (s.variance + spread ** 2));
    const sum = w.reduce((a, b) => a + b, 0);
    const mean = studies.reduce((a, s, k) => a + w[k]! * s.estimate, 0) / sum;
    const fit = studies.reduce((a, s, k) => a + Math.log(w[k]!) - w[k]! * (s.estimate - mean) ** 2, 0);
    // Half a log determinant of the flat mean, the prior, and the width of the node.
    const log = 0.5 * (fit - Math.log(sum)) - 0.5 * (spread / scale) ** 2 + Math.log(u);
    return { log, mean, sd: Math.sqrt(spread ** 2 + 1 / sum) };
  });
  const best = Math.max(...logs.map((l) => l.log));
  return logs.map(({ log, mean, sd }) => ({ weight: Math.exp(log - best), mean, sd })).filter((n) => n.weight > 1e-6);
}
