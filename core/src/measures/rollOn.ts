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

/** How a roll-on answered. */
export interface Response {
  /** Second of the recording that is t = 0; NaN where nothing opens. */
  readonly anchorS: number;
  /** Engine speed moved by more than 3 % in the half second before. */
  readonly unsteady: boolean;
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
 * How a roll-on answered against a target.
 * @param targetNm torque that counts as there, the same for the whole job
 * @example rollOnResponse({ timeS: Float64Array.of(0, 1, 2), torqueNm: Float64Array.of(0, 0, 0), rpm: Float64Array.of(3000, 3000, 3000), throttle: Float64Array.of(0, 1, 1) }, 100).anchorS // 0.5
 */
export function rollOnResponse(roll: RollOn, targetNm: number): Response {
  const { timeS, rpm } = roll;
  const anchorS = rollOnAnchor(roll);
  const recordedS = timeS.length > 0 ? timeS[timeS.length - 1]! - anchorS : NaN;
  const none = { anchorS, unsteady: false, seconds: NaN, deficitS: NaN, recordedS };
  if (Number.isNaN(anchorS)) return none;
  const before = [...timeS.keys()].filter((i) => timeS[i]! >= anchorS - STEADY_S && timeS[i]! <= anchorS);
  const speeds = before.map((i) => rpm[i]!).filter(Number.isFinite);
  const unsteady = speeds.length > 0 && Math.max(...speeds) / Math.min(...speeds) - 1 > 2 * STEADY_SHARE;
  const torque = smoothed(timeS, roll.torqueNm);
  const from = timeS.findIndex((t) => t >= anchorS);
  const met = crossing(timeS, torque, targetNm, max(1, from), HOLDS_S);
  if (Number.isNaN(met)) return { ...none, unsteady };
  return {
    ...none,
    unsteady,
    seconds: max(0, met - anchorS),
    deficitS: deficit(timeS, torque, targetNm, anchorS, met),
  };
}

/** First crossing upwards that holds for so many seconds, straight between samples; NaN without one. */
function crossing(timeS: Float64Array, values: Float64Array, level: number, from: number, holdsS: number): number {
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
function deficit(timeS: Float64Array, torque: Float64Array, target: number, from: number, to: number): number {
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
