import { median } from '../statistics/summary.ts';

/** A power curve on a grid of engine speeds, from `first` × `step` on; W. */
export interface ComparedCurve {
  readonly first: number;
  readonly values: ArrayLike<number>;
  /** Start, ms; null: nobody knows. */
  readonly startedMs: number | null;
}

/** Curves that differ by a factor only correlate by more than this. */
const SAME_SHAPE = 0.9999;
/** Two exports of one pull differ by less than this share of what two pulls usually differ by. Chosen on simulated days. */
const SAME_PULL = 0.5;
/** What two pulls differ by where there are too few to tell: no pull repeats to two parts in ten thousand. Common practice, no source. */
const NEVER_ALIKE = 2e-4;
/** Two pulls begin further apart than this. Common practice, no source. */
const APART_MS = 20_000;
/** Steps at either end in which the throttle opens and closes. */
const ENDS = 6;
const FEWEST = 15;
const FEWEST_PAIRS = 6;

/**
 * Pairs of curves that are one pull exported twice, with other smoothing or another correction: alike but for a factor, closer to each other
 * than two pulls of this day are, and not at two times.
 * @returns indices and the correlation of the curves after scaling
 * @example secondExports([{ first: 0, values: [1, 2], startedMs: 0 }]) // []
 */
export function secondExports(curves: readonly ComparedCurve[]): { a: number; b: number; correlation: number }[] {
  const pairs: { a: number; b: number; apart: boolean; roughness: number }[] = [];
  for (let b = 1; b < curves.length; b += 1)
    for (let a = 0; a < b; a += 1) {
      const [one, other] = [curves[a]!, curves[b]!];
      const known = one.startedMs !== null && other.startedMs !== null;
      const apart = known && Math.abs(one.startedMs - other.startedMs) > APART_MS;
      pairs.push({ a, b, apart, roughness: roughnessOf(one, other) });
    }
  const all = pairs.map((p) => p.roughness).filter(Number.isFinite);
  const usual = all.length < FEWEST_PAIRS ? NEVER_ALIKE : median(all);
  return pairs.flatMap(({ a, b, apart, roughness }) => {
    if (apart || !(roughness < SAME_PULL * usual)) return [];
    const correlation = correlationOf(curves[a]!, curves[b]!);
    return correlation > SAME_SHAPE ? [{ a, b, correlation }] : [];
  });
}

/** Grid of both curves without the ends: from, to. */
function shared(a: ComparedCurve, b: ComparedCurve): [number, number] {
  const from = Math.max(a.first, b.first) + ENDS;
  const to = Math.min(a.first + a.values.length, b.first + b.values.length) - ENDS;
  return [from, to];
}

/**
 * Root mean square of the logarithm of the ratio of two curves, without its parabola: a factor, drift, heat and most parts are smooth.
 * NaN for too few shared engine speeds.
 */
function roughnessOf(a: ComparedCurve, b: ComparedCurve): number {
  const [from, to] = shared(a, b);
  const n = to - from;
  if (n < FEWEST) return NaN;
  // Orthogonal on an even grid: 1, t, t² without its mean.
  const meanSquare = (n + 1) / (3 * (n - 1));
  let [s0, s1, s2, squares, q1, q2] = [0, 0, 0, 0, 0, 0];
  for (let g = from; g < to; g += 1) {
    const ratio = Math.log(a.values[g - a.first]! / b.values[g - b.first]!);
    const t = (2 * (g - from)) / (n - 1) - 1;
    const p2 = t * t - meanSquare;
    s0 += ratio;
    s1 += ratio * t;
    s2 += ratio * p2;
    q1 += t * t;
    q2 += p2 * p2;
    squares += ratio * ratio;
  }
  return Math.sqrt(Math.max(0, squares - s0 ** 2 / n - s1 ** 2 / q1 - s2 ** 2 / q2) / n);
}

/** Pearson correlation over the engine speeds that both have. */
function correlationOf(a: ComparedCurve, b: ComparedCurve): number {
  const [from, to] = shared(a, b);
  const n = to - from;
  let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
  for (let g = from; g < to; g += 1) {
    const [x, y] = [a.values[g - a.first]!, b.values[g - b.first]!];
    sa += x;
    sb += y;
    saa += x * x;
    sbb += y * y;
    sab += x * y;
  }
  return (sab - (sa * sb) / n) / Math.sqrt((saa - (sa * sa) / n) * (sbb - (sb * sb) / n));
}
