import { gammaln, normalDistribution, studentT } from './distributions.ts';

// Bound once: the numeric loops below call them millions of times.
const { PI, abs, ceil, exp, floor, log, max, min, sqrt } = Math;

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
  const rho = min(0.98, max(0, correlation));
  const noise = noiseNodes(degrees);
  const common = commonNodes(rho);
  const excess = (c: number) => coverage(c, m, rho, noise, common) - confidence;
  // One estimate alone needs less, Bonferroni's inequality more.
  let low = studentT(1 - (1 - confidence) / 2, degrees) * 0.999;
  let high = studentT(1 - (1 - confidence) / (2 * m), degrees) * 1.001;
  // False position with the stale end's weight halved (Illinois): keeps the bracket, converges faster than halving.
  let atLow = excess(low);
  let atHigh = excess(high);
  for (let step = 0; step < 80 && high - low > 1e-9; step += 1) {
    const c = (low * atHigh - high * atLow) / (atHigh - atLow);
    const at = excess(c);
    if (abs(at) < 1e-10) return c;
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

const TABLE_STEP = 0.01;
const TABLE_REACH = 9;
let table: { readonly values: Float64Array; readonly slopes: Float64Array } | null = null;

/** Φ from a table by cubic Hermite interpolation, within 1e-10; the integral needs it a hundred thousand times. */
function tabulatedNormal(z: number): number {
  if (z <= -TABLE_REACH) return 0;
  if (z >= TABLE_REACH) return 1;
  if (!table) {
    const at = Float64Array.from(
      { length: (2 * TABLE_REACH) / TABLE_STEP + 2 },
      (_, i) => i * TABLE_STEP - TABLE_REACH,
    );
    table = {
      values: at.map(normalDistribution),
      slopes: at.map((x) => (TABLE_STEP * exp(-0.5 * x * x)) / sqrt(2 * PI)),
    };
  }
  const place = (z + TABLE_REACH) / TABLE_STEP;
  const i = floor(place);
  const s = place - i;
  const r = 1 - s;
  return (
    r * r * ((1 + 2 * s) * table.values[i]! + s * table.slopes[i]!) +
    s * s * ((3 - 2 * s) * table.values[i + 1]! - r * table.slopes[i + 1]!)
  );
}

interface Node {
  readonly at: number;
  readonly weight: number;
}

/**
 * Nodes of the common factor z ≥ 0; the integrand is even in z. The trapezoid rule converges faster than any power of the
 * step for such integrands (Trefethen & Weideman 2014), provided the step resolves the estimates' own part.
 */
function commonNodes(rho: number): Node[] {
  const step = min(0.25, 0.6 * sqrt(1 - rho));
  return trapezoid(0, 6, ceil(6 / step), (z) => exp(-0.5 * z * z));
}

function noiseNodes(degrees: number): Node[] {
  const spread = 7 / sqrt(2 * degrees);
  const logNorm = log(2) + (degrees / 2) * log(degrees / 2) - gammaln(degrees / 2);
  const density = (s: number) => (s <= 0 ? 0 : exp(logNorm + (degrees - 1) * log(s) - (degrees * s * s) / 2));
  return trapezoid(max(0, 1 - spread), 1 + spread, 32, density);
}

function coverage(c: number, m: number, rho: number, noise: readonly Node[], commonFactor: readonly Node[]): number {
  const common = sqrt(rho);
  const own = sqrt(1 - rho);
  let total = 0;
  for (const s of noise) {
    let inner = 0;
    for (const z of commonFactor) {
      const shift = common * z.at;
      const inside = tabulatedNormal((c * s.at + shift) / own) - tabulatedNormal((-c * s.at + shift) / own);
      inner += z.weight * inside ** m;
    }
    total += s.weight * inner;
  }
  return total;
}

/** Trapezoid nodes of a density, scaled so that the weights add up to 1. */
function trapezoid(from: number, to: number, intervals: number, density: (x: number) => number): Node[] {
  const step = (to - from) / intervals;
  const nodes = Array.from({ length: intervals + 1 }, (_, i) => {
    const at = from + i * step;
    return { at, weight: (i === 0 || i === intervals ? 0.5 : 1) * density(at) };
  });
  const total = nodes.reduce((acc, node) => acc + node.weight, 0);
  return nodes.map(({ at, weight }) => ({ at, weight: weight / total }));
}
