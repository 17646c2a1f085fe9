/**
 * Least-squares polynomials on a short stretch of samples, the one smoother of the core.
 *
 * On even spacing and equal weights the fitted value at the centre is the Savitzky–Golay filter (Savitzky & Golay 1964:
 * five points, quadratic: −3, 12, 17, 12, −3 over 35) and the slope its derivative filter.
 */

// Bound once: the numeric loops below call them millions of times.
const { abs, max } = Math;

export interface LocalFit {
  readonly value: number;
  readonly slope: number;
}

/**
 * Fits y ≈ c0 + c1·(x − at) + c2·(x − at)² over samples `from` ≤ i < `to`.
 *
 * @param degree 1 or 2; lowered by itself where fewer distinct x than coefficients are given
 * @param weight optional weight of a sample from its distance x − at
 * @returns value and slope at `at`; NaN when no sample has weight
 * @example localPolynomial([0, 1, 2, 3], [0, 2, 4, 6], 0, 4, 1.5, 1) // { value: 3, slope: 2 }
 */
export function localPolynomial(
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  from: number,
  to: number,
  at: number,
  degree: 1 | 2,
  weight?: (distance: number) => number,
): LocalFit {
  let s0 = 0,
    s1 = 0,
    s2 = 0,
    s3 = 0,
    s4 = 0;
  let t0 = 0,
    t1 = 0,
    t2 = 0;
  let scale = 0;
  for (let i = from; i < to; i += 1) scale = max(scale, abs(x[i]! - at));
  if (scale === 0) scale = 1;
  for (let i = from; i < to; i += 1) {
    const value = y[i]!;
    if (!Number.isFinite(value) || !Number.isFinite(x[i]!)) continue;
    const d = (x[i]! - at) / scale;
    const w = weight ? weight(x[i]! - at) : 1;
    if (w <= 0) continue;
    const d2 = d * d;
    s0 += w;
    s1 += w * d;
    s2 += w * d2;
    s3 += w * d2 * d;
    s4 += w * d2 * d2;
    t0 += w * value;
    t1 += w * d * value;
    t2 += w * d2 * value;
  }
  if (s0 === 0) return { value: NaN, slope: NaN };
  if (degree === 2) {
    const determinant = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s2 * s3) + s2 * (s1 * s3 - s2 * s2);
    if (determinant > 1e-10 * s0 * s0 * s0) {
      const c0 = t0 * (s2 * s4 - s3 * s3) - t1 * (s1 * s4 - s2 * s3) + t2 * (s1 * s3 - s2 * s2);
      const c1 = s0 * (t1 * s4 - t2 * s3) - s1 * (t0 * s4 - t2 * s2) + s2 * (t0 * s3 - t1 * s2);
      return { value: c0 / determinant, slope: c1 / determinant / scale };
    }
  }
  const determinant = s0 * s2 - s1 * s1;
  if (determinant > 1e-12 * s0 * s0) {
    return { value: (t0 * s2 - t1 * s1) / determinant, slope: (s0 * t1 - s1 * t0) / determinant / scale };
  }
  return { value: t0 / s0, slope: 0 };
}

/**
 * Tricube weight on ±`halfWidth` (Cleveland 1979).
 * @example tricube(2)(1) // 0.669922
 */
export function tricube(halfWidth: number): (distance: number) => number {
  return (distance) => {
    const u = abs(distance) / halfWidth;
    const v = 1 - u * u * u;
    return u >= 1 ? 0 : v * v * v;
  };
}
