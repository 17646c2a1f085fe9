import { gammaln, normalDistribution, studentT } from './distributions.ts';

/**
 * Critical value c of a simultaneous interval estimate ± c·SE over m equally correlated estimates that share one noise
 * estimate on ν degrees of freedom: P(max |t| ≤ c) = confidence. Equicorrelated multivariate t (Dunnett 1955; Hahn &
 * Hendrickson 1971), integrated numerically over the common factor z and the noise s = √(χ²_ν/ν).
 *
 * @param m number of estimates, 1 or more
 * @param correlation mean correlation, clipped to 0–0.98
 * @param degrees degrees of freedom ν
 * @throws RangeError for m under 1
 */
export function familywiseCritical(m: number, correlation: number, degrees: number, confidence = 0.95): number {
  if (!(m >= 1)) throw new RangeError('a simultaneous interval needs at least one estimate');
  if (m === 1) return studentT(1 - (1 - confidence) / 2, degrees);
  const rho = Math.min(0.98, Math.max(0, correlation));
  const noise = noiseNodes(degrees);
  const excess = (c: number) => coverage(c, m, rho, noise) - confidence;
  let low = 0.5;
  let high = 4;
  while (excess(high) < 0 && high < 400) {
    low = high;
    high *= 2;
  }
  // False position with the stale end's weight halved (Illinois): keeps the bracket, converges faster than halving.
  let atLow = excess(low);
  let atHigh = excess(high);
  for (let step = 0; step < 80 && high - low > 1e-9; step += 1) {
    const c = (low * atHigh - high * atLow) / (atHigh - atLow);
    const at = excess(c);
    if (Math.abs(at) < 1e-10) return c;
    if (at < 0) {
      low = c;
      atLow = at;
      atHigh /= 2;
    } else {
      high = c;
      atHigh = at;
      atLow /= 2;
    }
  }
  return (low + high) / 2;
}

interface Node { readonly at: number; readonly weight: number }

const Z_NODES: Node[] = simpson(-6, 6, 96, (z) => Math.exp(-0.5 * z * z));

function noiseNodes(degrees: number): Node[] {
  const spread = 7 / Math.sqrt(2 * degrees);
  const logNorm = Math.log(2) + (degrees / 2) * Math.log(degrees / 2) - gammaln(degrees / 2);
  const density = (s: number) =>
    s <= 0 ? 0 : Math.exp(logNorm + (degrees - 1) * Math.log(s) - (degrees * s * s) / 2);
  return simpson(Math.max(0, 1 - spread), 1 + spread, 48, density);
}

function coverage(c: number, m: number, rho: number, noise: readonly Node[]): number {
  const common = Math.sqrt(rho);
  const own = Math.sqrt(1 - rho);
  let total = 0;
  for (const s of noise) {
    let inner = 0;
    for (const z of Z_NODES) {
      const shift = common * z.at;
      const inside = normalDistribution((c * s.at + shift) / own) - normalDistribution((-c * s.at + shift) / own);
      inner += z.weight * inside ** m;
    }
    total += s.weight * inner;
  }
  return total;
}

/** Simpson nodes of a density, scaled so that the weights add up to 1. */
function simpson(from: number, to: number, intervals: number, density: (x: number) => number): Node[] {
  const step = (to - from) / intervals;
  const nodes = Array.from({ length: intervals + 1 }, (_, i) => {
    const at = from + i * step;
    const factor = i === 0 || i === intervals ? 1 : i % 2 === 1 ? 4 : 2;
    return { at, weight: factor * density(at) };
  });
  const total = nodes.reduce((acc, node) => acc + node.weight, 0);
  return nodes.map(({ at, weight }) => ({ at, weight: weight / total }));
}
