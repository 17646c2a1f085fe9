import { STANDARD_GRAVITY_M_S2 } from '../units/units.ts';

const { abs, max } = Math;

/** What holds a car back, and what it has to turn. */
export interface RoadLoad {
  readonly massKg: number;
  /** f: mass that accelerates over mass that weighs. */
  readonly rotating: number;
  /** C_d·A, m². */
  readonly dragAreaM2: number;
  readonly rolling: number;
  /** kg/m³ */
  readonly airDensity: number;
  /** Rise over run, upwards positive. */
  readonly slope: number;
}

/** How a run from one speed to another went. */
export interface RoadRun {
  readonly seconds: number;
  readonly metres: number;
  /** m/s² in its middle, by time. */
  readonly meanAcceleration: number;
}

const STEP_S = 0.001;
const LONGEST_S = 300;

/**
 * f of a gear: 1 + 0.04 + 0.0025·(gear × final drive)² (Gillespie, Fundamentals of Vehicle Dynamics; value from memory).
 * @example rotatingShare(1).toFixed(4) // '1.0425'
 */
export function rotatingShare(overall: number): number {
  return 1 + 0.04 + 0.0025 * overall * overall;
}

/**
 * A run on the road from the power at the wheels: m·f·v̇ = P(v)/v − ½ρ·C_dA·v² − C_rr·m·g − m·g·slope, by the classical Runge–Kutta
 * method of fourth order in steps of a millisecond. A standing start is not simulated: traction decides it.
 * @param powerW wheel power at a road speed in m/s
 * @param from m/s, above 0
 * @returns null where the car does not get there within five minutes
 * @example roadRun(() => 100e3, 60 / 3.6, 120 / 3.6, { massKg: 1200, rotating: 1, dragAreaM2: 0, rolling: 0, airDensity: 1.2, slope: 0 }).seconds.toFixed(6) // '5.000000'
 */
export function roadRun(powerW: (speed: number) => number, from: number, to: number, load: RoadLoad): RoadRun | null {
  const { massKg, rotating, dragAreaM2, rolling, airDensity, slope } = load;
  const weight = massKg * STANDARD_GRAVITY_M_S2;
  const acceleration = (v: number) =>
    (powerW(v) / v - 0.5 * airDensity * dragAreaM2 * v * v - rolling * weight - weight * slope) / (massKg * rotating);
  let [v, x, t] = [from, 0, 0];
  while (v < to) {
    const k1 = acceleration(v);
    const k2 = acceleration(v + (STEP_S / 2) * k1);
    const k3 = acceleration(v + (STEP_S / 2) * k2);
    const k4 = acceleration(v + STEP_S * k3);
    const next = v + (STEP_S / 6) * (k1 + 2 * k2 + 2 * k3 + k4);
    if (!(next > v) || t > LONGEST_S) return null;
    // The last step ends where the speed is met; within a millisecond it rises in a straight line.
    const share = next > to ? (to - v) / (next - v) : 1;
    x += share * STEP_S * (v + (share * (next - v)) / 2);
    t += share * STEP_S;
    v = share < 1 ? to : next;
  }
  return { seconds: t, metres: x, meanAcceleration: (to - from) / t };
}

/** A change of acceleration that a driver feels: 5 % of what there is, at least 0.02 g. Judgement. */
const FELT_SHARE = 0.05;
const FELT_G = 0.02;

/**
 * Whether a driver would feel a change of acceleration, m/s².
 * @example isFelt(3, 3.3) // true
 */
export function isFelt(before: number, after: number, share = FELT_SHARE): boolean {
  return abs(after - before) >= max(share * abs(before), FELT_G * STANDARD_GRAVITY_M_S2);
}
