import { localPolynomial } from '../statistics/localPolynomial.ts';

const { max, min } = Math;

/** A log of road speed: seconds and km/h in the order of time, degrees over ground where a receiver told them. */
export interface SpeedLog {
  readonly timeS: Float64Array;
  readonly speedKmH: Float64Array;
  readonly courseDeg: Float64Array | null;
}

/** A pass found in a log. */
export interface FoundPass {
  /** Seconds of the log at which the lower speed was crossed. */
  readonly fromS: number;
  readonly seconds: number;
  /** Mean course over ground, degrees; NaN where it is not known. */
  readonly courseDeg: number;
  /** Acceleration fell under half of its mean between the crossings: the throttle was lifted or a gear was changed. */
  readonly broken: boolean;
}

/** Speed is smoothed by a local quadratic over so many seconds, at least over three samples. */
const SMOOTH_S = 0.6;
const LEAST_SAMPLES = 3;
/** A wider gap between samples ends whatever was going on. */
const WIDEST_GAP_S = 2.5;
/** Nobody drives a pass so slowly at full throttle. */
const LONGEST_S = 120;
const BROKEN_SHARE = 0.5;

/**
 * Passes of a log: stretches in which the smoothed speed rises from under one speed through another. Both crossings are straight
 * between samples. Whether the throttle was open a log of speed does not say.
 * @param fromKmH lower speed, km/h
 * @returns in the order of time
 * @example findPasses({ timeS: Float64Array.from({ length: 101 }, (_, i) => i / 10), speedKmH: Float64Array.from({ length: 101 }, (_, i) => 70 + i), courseDeg: null }, 80, 120)[0].seconds.toFixed(6) // '4.000000'
 */
export function findPasses({ timeS, speedKmH, courseDeg }: SpeedLog, fromKmH: number, toKmH: number): FoundPass[] {
  const { speed, slope } = smoothed(timeS, speedKmH);
  const found: FoundPass[] = [];
  let began = -1;
  for (let i = 1; i < timeS.length; i += 1) {
    if (timeS[i]! - timeS[i - 1]! > WIDEST_GAP_S || speed[i]! < fromKmH) began = -1;
    else if (speed[i - 1]! < fromKmH && speed[i]! >= fromKmH) began = i;
    if (began < 0 || !(speed[i - 1]! < toKmH && speed[i]! >= toKmH)) continue;
    const start = crossing(timeS, speed, began, fromKmH);
    const seconds = crossing(timeS, speed, i, toKmH) - start;
    const mean = (toKmH - fromKmH) / seconds;
    let least = Infinity;
    for (let j = began; j < i; j += 1) least = min(least, slope[j]!);
    if (seconds <= LONGEST_S)
      found.push({
        ...{ fromS: start, seconds, broken: i - began > 2 && least < BROKEN_SHARE * mean },
        courseDeg: courseDeg ? meanCourse(courseDeg, began, i) : NaN,
      });
    began = -1;
  }
  return found;
}

/** Local quadratics about every sample, and their slopes in km/h a second. */
function smoothed(timeS: Float64Array, values: Float64Array) {
  const speed = new Float64Array(timeS.length);
  const slope = new Float64Array(timeS.length);
  let low = 0;
  let high = 0;
  for (let i = 0; i < timeS.length; i += 1) {
    while (timeS[low]! < timeS[i]! - SMOOTH_S / 2) low += 1;
    while (high < timeS.length && timeS[high]! <= timeS[i]! + SMOOTH_S / 2) high += 1;
    const short = high - low < LEAST_SAMPLES;
    const from = short ? max(0, min(i - 1, timeS.length - LEAST_SAMPLES)) : low;
    const to = short ? min(timeS.length, from + LEAST_SAMPLES) : high;
    const fit = localPolynomial(timeS, values, from, to, timeS[i]!, 2);
    speed[i] = fit.value;
    slope[i] = fit.slope;
  }
  return { speed, slope };
}

function crossing(timeS: Float64Array, speed: Float64Array, i: number, level: number): number {
  const [a, b] = [speed[i - 1]!, speed[i]!];
  return timeS[i - 1]! + ((level - a) / (b - a)) * (timeS[i]! - timeS[i - 1]!);
}

/** Mean of angles: of their unit vectors. */
function meanCourse(course: Float64Array, from: number, to: number): number {
  let [x, y] = [0, 0];
  for (let i = from; i < to; i += 1) {
    if (!Number.isFinite(course[i])) continue;
    x += Math.cos((course[i]! * Math.PI) / 180);
    y += Math.sin((course[i]! * Math.PI) / 180);
  }
  return x === 0 && y === 0 ? NaN : ((Math.atan2(y, x) * 180) / Math.PI + 360) % 360;
}

const POINTS = ['north', 'north-east', 'east', 'south-east', 'south', 'south-west', 'west', 'north-west'] as const;

/**
 * The point of the compass nearest to a course over ground, for the name of a direction; empty without a course.
 * @example compassPoint(268) // 'west'
 */
export function compassPoint(courseDeg: number): string {
  return Number.isFinite(courseDeg) ? POINTS[Math.round(courseDeg / 45) % 8]! : '';
}
