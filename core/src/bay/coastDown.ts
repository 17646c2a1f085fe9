import { Matrix, solve } from 'ml-matrix';
import { localPolynomial } from '../statistics/localPolynomial.ts';

/** The loss torque of empty rollers c0 + c1·ω + c2·ω² (N·m, ω in rad/s), and how well it fits. */
export interface CoastDownFit {
  readonly lossTorqueNm: readonly [number, number, number];
  /** Root mean square of what the curve leaves over, N·m. */
  readonly residualNm: number;
  /** Fastest and slowest roller speed of the coast-down, rad/s. */
  readonly fromRadS: number;
  readonly toRadS: number;
}

/** A coast-down shorter than this, seconds, or over less than half of its top speed tells no curve (judgement). */
const LEAST_S = 5;
const LEAST_SHARE = 0.5;
/** Width over which the deceleration is fitted, seconds (judgement). */
const SLOPE_S = 1;
/** So many decelerations tell three coefficients. */
const TELLING_SAMPLES = 1000;

/**
 * Fits the loss of the empty rollers from a coast-down: J·dω/dt = −(c0 + c1·ω + c2·ω²), the deceleration from local quadratics
 * (Savitzky & Golay 1964), the coefficients by least squares (docs/method.md, wheel power).
 *
 * @param timeS rising, s
 * @param rollerRadS roller speed, rad/s
 * @param inertiaKgM2 of the rollers, kg·m²
 * @throws RangeError saying what keeps the recording from being a coast-down
 * @example coastDown(Float64Array.of(0, 1, 2, 3, 4, 5, 6), Float64Array.of(70, 60, 50, 40, 30, 20, 10), 2).lossTorqueNm[0] // 20
 */
export function coastDown(timeS: Float64Array, rollerRadS: Float64Array, inertiaKgM2: number): CoastDownFit {
  if (!(inertiaKgM2 > 0))
    throw new RangeError('The inertia of the rollers comes first: without it there is no torque.');
  const [from, to] = fallingStretch(rollerRadS);
  const seconds = to > from ? timeS[to - 1]! - timeS[from]! : 0;
  const top = rollerRadS[from] ?? 0;
  if (to - from < 5 || seconds < LEAST_S)
    throw new RangeError(
      `The rollers fall freely for ${seconds.toFixed(1)} s only; a coast-down takes at least ${LEAST_S} s.`,
    );
  if (rollerRadS[to - 1]! > LEAST_SHARE * top)
    throw new RangeError('The rollers lose less than half of their speed: let them run out.');
  const half = Math.max(2, Math.round(((to - from) * SLOPE_S) / 2 / seconds));
  const speeds: number[] = [];
  const torques: number[] = [];
  const step = Math.max(1, Math.floor((to - from) / TELLING_SAMPLES));
  for (let i = from; i < to; i += step) {
    const { slope } = localPolynomial(
      timeS,
      rollerRadS,
      Math.max(from, i - half),
      Math.min(to, i + half + 1),
      timeS[i]!,
      2,
    );
    speeds.push(rollerRadS[i]!);
    torques.push(-inertiaKgM2 * slope);
  }
  // Scaled to the top speed, so that the three columns are of one size.
  const rows = new Matrix(speeds.map((w) => [1, w / top, (w / top) ** 2]));
  const [a, b, c] = solve(rows, Matrix.columnVector(torques), true).to1DArray() as [number, number, number];
  const loss = [a, b / top, c / top ** 2] as const;
  const left = speeds.map((w, i) => torques[i]! - (loss[0] + loss[1] * w + loss[2] * w * w));
  return {
    lossTorqueNm: loss,
    residualNm: Math.sqrt(left.reduce((sum, r) => sum + r * r, 0) / left.length),
    fromRadS: top,
    toRadS: rollerRadS[to - 1]!,
  };
}

/** The longest stretch in which the rollers only slow down, from their highest speed on; half-open indices. */
function fallingStretch(speed: Float64Array): [number, number] {
  let top = 0;
  speed.forEach((w, i) => {
    if (w > speed[top]!) top = i;
  });
  let to = top + 1;
  // Noise of the encoder is no acceleration: what rises over several samples is.
  while (to < speed.length && speed[to]! > 0 && speed[to]! <= speed[Math.max(top, to - 5)]! * 1.002) to += 1;
  return [top, to];
}
