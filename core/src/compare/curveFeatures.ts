import { boxcar, fromRpm, GRID_STEP_RPM, peakOf, toRpm, type GridCurve, type Peak } from '../pull/gridCurve.ts';
import { localPolynomial, tricube } from '../statistics/localPolynomial.ts';

/** A place where a curve falls below the line over it. */
export interface Dip {
  readonly fromRpm: number;
  readonly toRpm: number;
  /** Where it is deepest, and how far below, per cent. */
  readonly atRpm: number;
  readonly percent: number;
}

/** What a curve is like; facts, without a verdict. */
export interface CurveFeatures {
  readonly power: Peak | null;
  readonly torque: Peak | null;
  /** Engine speeds between which torque is at least 95 % of its peak. */
  readonly torqueSpan: readonly [number, number] | null;
  readonly dips: readonly Dip[];
  /** Root mean square about a local line of 600 rpm, per cent. */
  readonly ripplePercent: number;
}

const DIP_PERCENT = 2;
const DIP_WIDEST_RPM = 1500;
const RIPPLE_RPM = 600;
const SPAN_SHARE = 0.95;
/** Widths with which the place of a peak is looked at, rpm. */
export const PEAK_WIDTHS = [0, 100, 200, 400] as const;

/**
 * Dips of a curve: stretches up to 1500 rpm wide at least 2 % below the straight line between their ends (common practice, no source).
 * @example dipsOf({ first: 120, values: Float64Array.from({ length: 81 }, (_, i) => 100 - (i > 30 && i < 50 ? 5 : 0)), samples: new Uint32Array(81) })[0].percent.toFixed(1) // '5.0'
 */
export function dipsOf(curve: GridCurve): Dip[] {
  const n = curve.values.length;
  const widest = DIP_WIDEST_RPM / GRID_STEP_RPM;
  const depth = new Float64Array(n);
  for (let i = 0; i < n; i += 1)
    for (let left = Math.max(0, i - widest); left < i; left += 1)
      for (let right = i + 1; right <= Math.min(n - 1, left + widest); right += 1) {
        const [a, b] = [curve.values[left]!, curve.values[right]!];
        const chord = a + ((b - a) * (i - left)) / (right - left);
        const below = (1 - curve.values[i]! / chord) * 100;
        if (below > depth[i]!) depth[i] = below;
      }
  const dips: Dip[] = [];
  for (let i = 0; i < n; i += 1) {
    if (depth[i]! < DIP_PERCENT) continue;
    let end = i;
    let deepest = i;
    while (end + 1 < n && depth[end + 1]! >= DIP_PERCENT) {
      end += 1;
      if (depth[end]! > depth[deepest]!) deepest = end;
    }
    const rpm = (k: number) => (curve.first + k) * GRID_STEP_RPM;
    dips.push({ fromRpm: rpm(i), toRpm: rpm(end), atRpm: rpm(deepest), percent: depth[deepest]! });
    i = end;
  }
  return dips;
}

/** Root mean square about a local line over ±300 rpm, per cent of the line. */
function rippleOf(curve: GridCurve): number {
  const known = Array.from(curve.values, (v, i) => [(curve.first + i) * GRID_STEP_RPM, v] as const).filter(([, v]) =>
    Number.isFinite(v),
  );
  const x = known.map(([rpm]) => rpm);
  const y = known.map(([, v]) => v);
  const half = RIPPLE_RPM / 2;
  const weight = tricube(half);
  let squares = 0;
  let points = 0;
  let [low, high] = [0, 0];
  x.forEach((rpm, i) => {
    while (x[low]! < rpm - half) low += 1;
    while (high < x.length && x[high]! <= rpm + half) high += 1;
    // A window that is cut at an end sees a slope, no ripple.
    if (rpm - half < x[0]! || rpm + half > x.at(-1)!) return;
    const line = localPolynomial(x, y, low, high, rpm, 1, weight).value;
    squares += (100 * (y[i]! / line - 1)) ** 2;
    points += 1;
  });
  return points > 0 ? Math.sqrt(squares / points) : NaN;
}

/**
 * What a setup's mean curve is like.
 * @param torque the same curve as torque
 * @example featuresOf({ first: 120, values: Float64Array.from({ length: 81 }, (_, i) => 100 - 0.01 * (i - 40) ** 2), samples: new Uint32Array(81) }, { first: 120, values: Float64Array.from({ length: 81 }, (_, i) => 100 - 0.01 * (i - 40) ** 2), samples: new Uint32Array(81) }).torque.rpm // 4000
 */
export function featuresOf(power: GridCurve, torque: GridCurve): CurveFeatures {
  const peak = peakOf(torque);
  return {
    power: peakOf(power),
    torque: peak,
    torqueSpan: peak && spanOver(torque, SPAN_SHARE * peak.value, peak.rpm),
    dips: dipsOf(torque),
    ripplePercent: rippleOf(power),
  };
}

/** The stretch about a place on which a curve stays at or above a level. */
function spanOver(curve: GridCurve, level: number, about: number): readonly [number, number] | null {
  const start = Math.round(about / GRID_STEP_RPM) - curve.first;
  if (!(curve.values[start]! >= level)) return null;
  let [low, high] = [start, start];
  while (low > 0 && curve.values[low - 1]! >= level) low -= 1;
  while (high < curve.values.length - 1 && curve.values[high + 1]! >= level) high += 1;
  return [(curve.first + low) * GRID_STEP_RPM, (curve.first + high) * GRID_STEP_RPM];
}

/**
 * How far a peak stands from another at every averaging width, rpm and its own unit; a peak that moves with the width is one of
 * averaging.
 * @param curves raw mean curves, not averaged yet
 * @example peakShift({ first: 120, values: new Float64Array(81), samples: new Uint32Array(81) }, { first: 120, values: new Float64Array(81), samples: new Uint32Array(81) }).length // 4
 */
export function peakShift(
  before: GridCurve,
  after: GridCurve,
): { readonly widthRpm: number; readonly rpm: number; readonly value: number }[] {
  return PEAK_WIDTHS.map((widthRpm) => {
    const [a, b] = [before, after].map((curve) => peakOf(widthRpm === 0 ? curve : boxcar(curve, widthRpm)));
    return { widthRpm, rpm: a && b ? b.rpm - a.rpm : NaN, value: a && b ? b.value - a.value : NaN };
  });
}

/** Setups fall off together within this many rpm: the limit lies elsewhere. Judgement. */
const TOGETHER_RPM = 150;

/**
 * The engine speed at which the power of all setups peaks, where they do so together: what limits them is none of the parts. Null
 * otherwise, and where a peak was not reached.
 * @example fallOffTogether([]) // null
 */
export function fallOffTogether(peaks: readonly (Peak | null)[]): number | null {
  if (peaks.length < 3 || peaks.some((p) => p === null || !p.reached)) return null;
  const rpm = peaks.map((p) => p!.rpm);
  const [low, high] = [Math.min(...rpm), Math.max(...rpm)];
  return high - low <= TOGETHER_RPM ? rpm.reduce((a, b) => a + b, 0) / rpm.length : null;
}

/** A stretch of engine speed that only one setup reaches. */
export interface OnlyReach {
  readonly setupId: string;
  readonly fromRpm: number;
  readonly toRpm: number;
  /** Mean of its curve there. */
  readonly mean: number;
}

/**
 * Stretches at the two ends that only one setup reaches, at least 100 rpm wide.
 * @example onlyReached([{ setupId: 'B', power: { first: 100, values: new Float64Array(81), samples: new Uint32Array(81) } }]) // []
 */
export function onlyReached(curves: readonly { readonly setupId: string; readonly power: GridCurve }[]): OnlyReach[] {
  const known = curves.filter((c) => c.power.values.length > 0);
  if (known.length < 2) return [];
  const found = (low: boolean): OnlyReach[] => {
    const ends = known
      .map(({ setupId, power }) => ({ setupId, power, end: low ? fromRpm(power) : toRpm(power) }))
      .sort((a, b) => (low ? a.end - b.end : b.end - a.end));
    const [own, next] = ends;
    if (Math.abs(own!.end - next!.end) < 100) return [];
    const [from, to] = low ? [own!.end, next!.end] : [next!.end, own!.end];
    const values = Array.from(own!.power.values).filter((_, i) => {
      const rpm = (own!.power.first + i) * GRID_STEP_RPM;
      return rpm >= from && rpm <= to;
    });
    return [
      { setupId: own!.setupId, fromRpm: from, toRpm: to, mean: values.reduce((a, b) => a + b, 0) / values.length },
    ];
  };
  return [...found(true), ...found(false)];
}
