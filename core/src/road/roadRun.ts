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

/** How a run over a distance from a rolling start went. */
export interface DistanceRun {
  readonly seconds: number;
  /** m/s at its end. */
  readonly endSpeed: number;
}

/** Where a car is on the road: m/s, metres and seconds since the start. */
interface Moment {
  readonly v: number;
  readonly x: number;
  readonly t: number;
}

/**
 * Drives until the road says enough; the last step is a share of one.
 * @param shareOf of the step from one moment to the next that is still driven; 1 goes on
 * @returns null where the car no longer gets faster, or after five minutes
 */
function drive(
  powerW: (speed: number) => number,
  from: number,
  load: RoadLoad,
  shareOf: (now: Moment, next: Moment) => number,
): Moment | null {
  const { massKg, rotating, dragAreaM2, rolling, airDensity, slope } = load;
  const weight = massKg * STANDARD_GRAVITY_M_S2;
  const acceleration = (v: number) =>
    (powerW(v) / v - 0.5 * airDensity * dragAreaM2 * v * v - rolling * weight - weight * slope) / (massKg * rotating);
  let now: Moment = { v: from, x: 0, t: 0 };
  for (;;) {
    const { v, x, t } = now;
    const k1 = acceleration(v);
    const k2 = acceleration(v + (STEP_S / 2) * k1);
    const k3 = acceleration(v + (STEP_S / 2) * k2);
    const k4 = acceleration(v + STEP_S * k3);
    const faster = v + (STEP_S / 6) * (k1 + 2 * k2 + 2 * k3 + k4);
    if (!(faster > v) || t > LONGEST_S) return null;
    const next = { v: faster, x: x + (STEP_S * (v + faster)) / 2, t: t + STEP_S };
    const share = shareOf(now, next);
    // Within a millisecond speed rises in a straight line.
    if (share < 1) {
      const end = v + share * (faster - v);
      return { v: end, x: x + (share * STEP_S * (v + end)) / 2, t: t + share * STEP_S };
    }
    now = next;
  }
}

/**
 * A run on the road from the power at the wheels: m·f·v̇ = P(v)/v − ½ρ·C_dA·v² − C_rr·m·g − m·g·slope, by the classical Runge–Kutta
 * method of fourth order in steps of a millisecond. A standing start is not simulated: traction decides it.
 * @param powerW wheel power at a road speed in m/s
 * @param from m/s, above 0 and below `to`
 * @returns null where the car does not get there within five minutes
 * @example roadRun(() => 100e3, 60 / 3.6, 120 / 3.6, { massKg: 1200, rotating: 1, dragAreaM2: 0, rolling: 0, airDensity: 1.2, slope: 0 }).seconds.toFixed(6) // '5.000000'
 */
export function roadRun(powerW: (speed: number) => number, from: number, to: number, load: RoadLoad): RoadRun | null {
  const end = drive(powerW, from, load, (now, next) => (next.v < to ? 1 : (to - now.v) / (next.v - now.v)));
  return end && { seconds: end.t, metres: end.x, meanAcceleration: (to - from) / end.t };
}

/**
 * The same run over a distance from a rolling start.
 * @param metres above 0
 * @returns null where the car stops getting faster before, or its power is not known
 * @example roadDistance(() => 100e3, 20, 200, { massKg: 1200, rotating: 1, dragAreaM2: 0, rolling: 0, airDensity: 1.2, slope: 0 }).endSpeed.toFixed(4) // '38.7088'
 */
export function roadDistance(
  powerW: (speed: number) => number,
  from: number,
  metres: number,
  load: RoadLoad,
): DistanceRun | null {
  const end = drive(powerW, from, load, (now, next) => (next.x < metres ? 1 : (metres - now.x) / (next.x - now.x)));
  return end && { seconds: end.t, endSpeed: end.v };
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
