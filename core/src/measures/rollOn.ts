// Bound once: the loops below run over every sample.
const { max, min } = Math;

/** A recording of a roll-on: seconds, torque, engine speed, and the throttle where it was recorded. */
export interface RollOn {
  readonly timeS: Float64Array;
  readonly torqueNm: Float64Array;
  readonly rpm: Float64Array;
  /** 0–1; null where it was not recorded. */
  readonly throttle: Float64Array | null;
}

/** A roll-on from half a second before its anchor on: seconds from the anchor, and torque smoothed over 0.2 s. */
export interface RollOnTrace {
  readonly timeS: Float32Array;
  readonly torqueNm: Float32Array;
  /** Engine speed moved by more than 3 % in the half second before. */
  readonly unsteady: boolean;
}

/** How a roll-on answered. */
export interface Response {
  /** Seconds from the anchor to the target; NaN where it was not reached. */
  readonly seconds: number;
  /** ∫(target − T)₊ dt / target, seconds; NaN where the target was not reached. */
  readonly deficitS: number;
  /** Seconds recorded after the anchor. */
  readonly recordedS: number;
}

const STEADY_S = 0.5;
const STEADY_SHARE = 0.03;
/** The target counts as met once torque stays there for so long. */
const HOLDS_S = 0.1;
/** Without a throttle: torque rose by this share of its rise. */
const RISE_SHARE = 0.2;
/** Torque is smoothed by a local quadratic over so many seconds. */
const SMOOTH_S = 0.2;
/** Fewer samples are no recording. */
const LEAST_SAMPLES = 10;
/** Samples nearer than this tell nothing more of what is smoothed over 0.2 s: they are left out before, and again of what is kept. */
const NEAR_S = 0.001;
const KEPT_S = 0.005;

/**
 * Where a roll-on begins: the throttle crosses half of its step; without a throttle, torque crosses a fifth of the rise from its
 * level before to its peak. Straight between samples.
 * @returns seconds of the recording; NaN where nothing opens
 * @example rollOnAnchor({ timeS: Float64Array.of(0, 1), torqueNm: Float64Array.of(0, 1), rpm: Float64Array.of(3000, 3000), throttle: Float64Array.of(0, 1) }) // 0.5
 */
export function rollOnAnchor({ timeS, torqueNm, throttle }: RollOn): number {
  const of = throttle ?? torqueNm;
  if (of.length < 2) return NaN;
  const [level, top] = [of[0]!, of.reduce((a, b) => max(a, b), -Infinity)];
  const least = throttle ? 0.1 : 0.05 * Math.abs(top);
  if (!(top - level > least)) return NaN;
  return crossing(timeS, of, level + (throttle ? 0.5 : RISE_SHARE) * (top - level), 0, 0);
}

/**
 * The part of a recording that a roll-on is read from; null where nothing opens.
 * @example rollOnTrace({ timeS: Float64Array.of(0, 1), torqueNm: Float64Array.of(0, 1), rpm: Float64Array.of(3000, 3000), throttle: null }) // null
 */
export function rollOnTrace(whole: RollOn): RollOnTrace | null {
  const roll = thinned(whole);
  const { timeS, rpm } = roll;
  if (timeS.length < LEAST_SAMPLES) return null;
  const anchor = rollOnAnchor(roll);
  if (Number.isNaN(anchor)) return null;
  const torque = smoothed(timeS, roll.torqueNm);
  let from = 0;
  while (from < timeS.length && timeS[from]! < anchor - STEADY_S) from += 1;
  let low = Infinity;
  let high = -Infinity;
  for (let i = from; i < timeS.length && timeS[i]! <= anchor; i += 1) {
    low = min(low, rpm[i]!);
    high = max(high, rpm[i]!);
  }
  const kept = apart(timeS, from, KEPT_S);
  return {
    timeS: Float32Array.from(kept, (i) => timeS[i]! - anchor),
    torqueNm: Float32Array.from(kept, (i) => torque[i]!),
    unsteady: high > low * (1 + STEADY_SHARE),
  };
}

/** Places of samples from one on that are so many seconds apart. */
function apart(timeS: Float64Array, from: number, seconds: number): number[] {
  const places: number[] = [];
  let last = -Infinity;
  for (let i = from; i < timeS.length; i += 1) {
    if (!(timeS[i]! >= last + seconds - 1e-9)) continue;
    places.push(i);
    last = timeS[i]!;
  }
  return places;
}

function thinned({ timeS, torqueNm, rpm, throttle }: RollOn): RollOn {
  const places = apart(timeS, 0, NEAR_S);
  const of = (values: Float64Array) => Float64Array.from(places, (i) => values[i]!);
  return { timeS: of(timeS), torqueNm: of(torqueNm), rpm: of(rpm), throttle: throttle && of(throttle) };
}

/**
 * How a roll-on answered against a target.
 * @param targetNm torque that counts as there, the same for the whole job
 * @example rollOnResponse({ timeS: Float32Array.of(-1, 0, 1, 1.2), torqueNm: Float32Array.of(0, 0, 100, 100), unsteady: false }, 50).seconds // 0.5
 */
export function rollOnResponse({ timeS, torqueNm }: RollOnTrace, targetNm: number): Response {
  const recordedS = timeS.length > 0 ? timeS[timeS.length - 1]! : NaN;
  const from = timeS.findIndex((t) => t >= 0);
  const met = from < 0 ? NaN : crossing(timeS, torqueNm, targetNm, from, HOLDS_S);
  if (Number.isNaN(met)) return { seconds: NaN, deficitS: NaN, recordedS };
  return { seconds: max(0, met), deficitS: deficit(timeS, torqueNm, targetNm, 0, met), recordedS };
}

/**
 * Highest torque of a roll-on, N·m.
 * @example rollOnPeak({ timeS: Float32Array.of(0, 1), torqueNm: Float32Array.of(5, 9), unsteady: false }) // 9
 */
export function rollOnPeak({ torqueNm }: RollOnTrace): number {
  let peak = -Infinity;
  for (let i = 0; i < torqueNm.length; i += 1) if (torqueNm[i]! > peak) peak = torqueNm[i]!;
  return peak;
}

type Samples = Float64Array | Float32Array;

/** First crossing upwards that holds for so many seconds, straight between samples; NaN without one. */
function crossing(timeS: Samples, values: Samples, level: number, from: number, holdsS: number): number {
  for (let i = max(1, from); i < values.length; i += 1) {
    if (!(values[i]! >= level)) continue;
    if (values[i - 1]! >= level && i > max(1, from)) continue;
    let last = i;
    while (last + 1 < values.length && timeS[last]! - timeS[i]! < holdsS) last += 1;
    let held = timeS[last]! - timeS[i]! >= holdsS - 1e-9;
    for (let k = i; k <= last; k += 1) if (values[k]! < level) held = false;
    if (!held) continue;
    const [a, b] = [values[i - 1]!, values[i]!];
    if (a >= level) return timeS[i - 1]!;
    return timeS[i - 1]! + ((level - a) / (b - a)) * (timeS[i]! - timeS[i - 1]!);
  }
  return NaN;
}

/** Seconds of torque that were not there between two moments, by the trapezoid rule over what lies under the target. */
function deficit(timeS: Samples, torque: Samples, target: number, from: number, to: number): number {
  const at = (t: number) => {
    const i = timeS.findIndex((s) => s >= t);
    if (i <= 0) return torque[max(0, i)]!;
    const share = (t - timeS[i - 1]!) / (timeS[i]! - timeS[i - 1]!);
    return torque[i - 1]! + share * (torque[i]! - torque[i - 1]!);
  };
  const inside = [...timeS].filter((t) => t > from && t < to);
  const places = [from, ...inside, to];
  const short = places.map((t) => max(0, target - at(t)));
  let sum = 0;
  for (let i = 1; i < places.length; i += 1) sum += ((short[i - 1]! + short[i]!) / 2) * (places[i]! - places[i - 1]!);
  return sum / target;
}

/** Local quadratic over 0.2 s about every sample (Savitzky and Golay 1964, for uneven samples); nothing is smoothed across the ends. */
function smoothed(timeS: Float64Array, values: Float64Array): Float64Array {
  const half = SMOOTH_S / 2;
  let low = 0;
  let high = 0;
  return values.map((own, i) => {
    while (timeS[low]! < timeS[i]! - half - 1e-9) low += 1;
    high = max(high, i);
    while (high + 1 < values.length && timeS[high + 1]! <= timeS[i]! + half + 1e-9) high += 1;
    const reach = min(i - low, high - i);
    if (reach < 2) return own;
    return quadraticAt(timeS, values, i - reach, i + reach, timeS[i]!);
  });
}

function quadraticAt(x: Float64Array, y: Float64Array, from: number, to: number, at: number): number {
  const s = [0, 0, 0, 0, 0];
  const t = [0, 0, 0];
  for (let i = from; i <= to; i += 1) {
    const d = (x[i]! - at) / SMOOTH_S;
    let power = 1;
    for (let k = 0; k < 5; k += 1) {
      s[k]! += power;
      if (k < 3) t[k]! += power * y[i]!;
      power *= d;
    }
  }
  const [s0, s1, s2, s3, s4] = s as [number, number, number, number, number];
  const [t0, t1, t2] = t as [number, number, number];
  const whole = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s2 * s3) + s2 * (s1 * s3 - s2 * s2);
  return (t0 * (s2 * s4 - s3 * s3) - t1 * (s1 * s4 - s2 * s3) + t2 * (s1 * s3 - s2 * s2)) / whole;
}
