// Bound once: the numeric loops below call them millions of times.
const { abs, max, min } = Math;

/** Samples whose windows share one table of running sums. */
const CHUNK = 64;
/** Running sums: n, Σd, Σd², Σd³, Σd⁴, Σy, Σdy, Σd²y. */
const SUMS = 8;

/**
 * Slope at every sample of a quadratic by least squares over a window of samples around it: what `localPolynomial` finds of degree 2,
 * for all samples at once and at a cost that does not grow with the windows. Sums over a window are differences of running sums,
 * taken about the middle of a stretch of 64 samples so that they lose no digits, and moved to the sample by the binomial theorem.
 *
 * @param x ascending, as times are
 * @param half samples on each side of every sample; fewer at the ends
 * @returns one slope a sample; NaN where a window holds nothing
 * @example localSlopes(Float64Array.of(0, 1, 2, 3), Float64Array.of(0, 2, 4, 6), Uint16Array.of(2, 2, 2, 2))[1] // 2
 */
export function localSlopes(x: Float64Array, y: Float64Array, half: ArrayLike<number>): Float64Array {
  const n = x.length;
  const slopes = new Float64Array(n);
  for (let begin = 0; begin < n; begin += CHUNK) {
    const end = min(n, begin + CHUNK);
    let low = n;
    let high = 0;
    for (let i = begin; i < end; i += 1) {
      low = min(low, i - half[i]!);
      high = max(high, i + half[i]! + 1);
    }
    low = max(0, low);
    high = min(n, high);
    const about = x[(begin + end) >> 1]!;
    const running = runningSums(x, y, low, high, about);
    for (let i = begin; i < end; i += 1) {
      const [from, to] = [max(0, i - half[i]!), min(n, i + half[i]! + 1)];
      const scale = max(abs(x[from]! - x[i]!), abs(x[to - 1]! - x[i]!)) || 1;
      slopes[i] = slopeOf(running, (from - low) * SUMS, (to - low) * SUMS, x[i]! - about, scale);
    }
  }
  return slopes;
}

/** Sums of samples `low` up to every one before `high`; what is no number adds nothing. */
function runningSums(x: Float64Array, y: Float64Array, low: number, high: number, about: number): Float64Array {
  const running = new Float64Array((high - low + 1) * SUMS);
  for (let j = low, at = SUMS; j < high; j += 1, at += SUMS) {
    const d = x[j]! - about;
    const value = y[j]!;
    const counts = Number.isFinite(d) && Number.isFinite(value);
    const d2 = d * d;
    running[at] = running[at - 8]! + (counts ? 1 : 0);
    running[at + 1] = running[at - 7]! + (counts ? d : 0);
    running[at + 2] = running[at - 6]! + (counts ? d2 : 0);
    running[at + 3] = running[at - 5]! + (counts ? d2 * d : 0);
    running[at + 4] = running[at - 4]! + (counts ? d2 * d2 : 0);
    running[at + 5] = running[at - 3]! + (counts ? value : 0);
    running[at + 6] = running[at - 2]! + (counts ? d * value : 0);
    running[at + 7] = running[at - 1]! + (counts ? d2 * value : 0);
  }
  return running;
}

/** Slope at a distance `c` from the middle, from the running sums before and behind a window. */
function slopeOf(running: Float64Array, from: number, to: number, c: number, scale: number): number {
  const s0 = running[to]! - running[from]!;
  if (!(s0 > 0)) return NaN;
  const m1 = running[to + 1]! - running[from + 1]!;
  const m2 = running[to + 2]! - running[from + 2]!;
  const m3 = running[to + 3]! - running[from + 3]!;
  const m4 = running[to + 4]! - running[from + 4]!;
  const t0 = running[to + 5]! - running[from + 5]!;
  const q1 = running[to + 6]! - running[from + 6]!;
  const q2 = running[to + 7]! - running[from + 7]!;
  const c2 = c * c;
  const r2 = scale * scale;
  const s1 = (m1 - c * s0) / scale;
  const s2 = (m2 - 2 * c * m1 + c2 * s0) / r2;
  const s3 = (m3 - 3 * c * m2 + 3 * c2 * m1 - c2 * c * s0) / (r2 * scale);
  const s4 = (m4 - 4 * c * m3 + 6 * c2 * m2 - 4 * c2 * c * m1 + c2 * c2 * s0) / (r2 * r2);
  const t1 = (q1 - c * t0) / scale;
  const t2 = (q2 - 2 * c * q1 + c2 * t0) / r2;
  const whole = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s2 * s3) + s2 * (s1 * s3 - s2 * s2);
  if (whole > 1e-10 * s0 * s0 * s0)
    return (s0 * (t1 * s4 - t2 * s3) - s1 * (t0 * s4 - t2 * s2) + s2 * (t0 * s3 - t1 * s2)) / whole / scale;
  const line = s0 * s2 - s1 * s1;
  return line > 1e-12 * s0 * s0 ? (s0 * t1 - s1 * t0) / line / scale : 0;
}
