import { normalDistribution } from '../../statistics/distributions.ts';

/**
 * c∞ of a simultaneous interval over m equally correlated normal estimates:
 * ∫[Φ((c + √ρ·z)/√(1−ρ)) − Φ((−c + √ρ·z)/√(1−ρ))]^m φ(z) dz = confidence (Hahn & Hendrickson 1971, infinite degrees).
 *
 * @param m number of estimates, 1 or more
 * @param correlation mean correlation, clipped to 0–0.98
 * @throws RangeError for m under 1
 */
export function simultaneousCritical(m: number, correlation: number, confidence = 0.95): number {
  if (!(m >= 1)) throw new RangeError('a simultaneous interval needs at least one estimate');
  const rho = Math.min(0.98, Math.max(0, correlation));
  const [root, rest] = [Math.sqrt(rho), Math.sqrt(1 - rho)];
  return halved(
    (c) =>
      integral((z) => (normalDistribution((c + root * z) / rest) - normalDistribution((-c + root * z) / rest)) ** m),
    confidence,
  );
}

/**
 * Critical value of all pairs of k means: Tukey's studentised range at infinite degrees of freedom over √2:
 * k·∫φ(z)[Φ(z) − Φ(z − q)]^(k−1) dz = confidence, c = q/√2 (Tukey 1953).
 * @throws RangeError for k under 2
 */
export function tukeyCritical(k: number, confidence = 0.95): number {
  if (!(k >= 2)) throw new RangeError('a range needs at least two means');
  const q = halved(
    (range) => k * integral((z) => (normalDistribution(z) - normalDistribution(z - range)) ** (k - 1)),
    confidence,
  );
  return q / Math.SQRT2;
}

/** The level at which each interval is read off its own mixture so that all hold together: α' = 2·Φ(−c). */
export function pointwiseLevel(critical: number): number {
  return 2 * normalDistribution(-critical);
}

/** Where a rising coverage reaches the confidence, between 0 and 12. */
function halved(coverage: (c: number) => number, confidence: number): number {
  let [low, high] = [0, 12];
  while (high - low > 1e-9) {
    const middle = (low + high) / 2;
    if (coverage(middle) < confidence) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

const REACH = 8.5;
const STEPS = 340;

/** ∫ f(z)·φ(z) dz by Simpson's rule; outside ±8.5 the normal density is under 1e-16. */
function integral(f: (z: number) => number): number {
  const h = (2 * REACH) / STEPS;
  let total = 0;
  for (let i = 0; i <= STEPS; i += 1) {
    const z = -REACH + i * h;
    const weight = i === 0 || i === STEPS ? 1 : i % 2 === 1 ? 4 : 2;
    total += weight * f(z) * Math.exp(-0.5 * z * z);
  }
  return (total * h) / 3 / Math.sqrt(2 * Math.PI);
}
