import { PLAUSIBLE } from '../job/plausible.ts';
import { localPolynomial, tricube } from '../statistics/localPolynomial.ts';

// Bound once: the numeric loops below call them millions of times.
const { ceil, floor, max, min, round } = Math;

/** Every curve of the core stands on multiples of 25 rpm. */
export const GRID_STEP_RPM = 25;
/** No curve reaches beyond the plausible engine speeds, whatever its samples say: grids are bounded by construction. */
const LAST_POINT = PLAUSIBLE.engineRpm.high / GRID_STEP_RPM;
/** Gaps between samples up to this many rpm are bridged by a straight line; wider ones stay holes. */
const WIDEST_BRIDGE_RPM = 250;

/** Values on the grid rpm = 25·(first + i); NaN in a hole. `samples` counts what fell into each cell. */
export interface GridCurve {
  readonly first: number;
  readonly values: Float64Array;
  readonly samples: Uint32Array;
}

export const EMPTY_CURVE: GridCurve = { first: 0, values: new Float64Array(), samples: new Uint32Array() };

/**
 * Lowest engine speed of a curve, rpm.
 * @example fromRpm(rawCurve(Float64Array.of(3000, 3025), Float64Array.of(1, 2))) // 3000
 */
export function fromRpm(curve: GridCurve): number {
  return curve.first * GRID_STEP_RPM;
}

/**
 * Highest engine speed of a curve, rpm.
 * @example toRpm(rawCurve(Float64Array.of(3000, 3025), Float64Array.of(1, 2))) // 3025
 */
export function toRpm(curve: GridCurve): number {
  return (curve.first + curve.values.length - 1) * GRID_STEP_RPM;
}

/**
 * Value at a grid point 25·k, NaN outside.
 * @example atGrid(rawCurve(Float64Array.of(3000, 3025), Float64Array.of(7, 8)), 121) // 8
 */
export function atGrid(curve: GridCurve, k: number): number {
  return curve.values[k - curve.first] ?? NaN;
}

/**
 * The raw trace on the grid: a local line over ±25 rpm with tricube weights (Cleveland 1979). Where samples are too sparse for it,
 * neighbours are joined by a straight line; nothing is extrapolated.
 * @param rpm ascending engine speed of the samples
 * @example fromRpm(rawCurve(Float64Array.of(3010, 3040, 3070), Float64Array.of(10, 13, 16))) // 3025
 */
export function rawCurve(rpm: Float64Array, values: Float64Array): GridCurve {
  const n = rpm.length;
  if (n < 2) return EMPTY_CURVE;
  const first = max(0, ceil(rpm[0]! / GRID_STEP_RPM - 1e-9));
  const last = min(LAST_POINT, floor(rpm[n - 1]! / GRID_STEP_RPM + 1e-9));
  if (!(last >= first)) return EMPTY_CURVE;
  const out = new Float64Array(last - first + 1);
  const samples = new Uint32Array(out.length);
  const half = GRID_STEP_RPM;
  let low = 0;
  let high = 0;
  let right = 0;
  for (let k = 0; k < out.length; k += 1) {
    const at = (first + k) * GRID_STEP_RPM;
    while (low < n && rpm[low]! < at - half - 1e-9) low += 1;
    while (high < n && rpm[high]! <= at + half + 1e-9) high += 1;
    while (right < n && rpm[right]! < at - 1e-9) right += 1;
    samples[k] = countBetween(rpm, at - GRID_STEP_RPM / 2, at + GRID_STEP_RPM / 2, low, high);
    const bracketed = high > low && rpm[low]! <= at + 1e-9 && rpm[high - 1]! >= at - 1e-9;
    const gap = gapBefore(rpm, right);
    if (bracketed && high - low >= 3 && gap <= half)
      out[k] = localPolynomial(rpm, values, low, high, at, 1, TRICUBE).value;
    else out[k] = gap <= WIDEST_BRIDGE_RPM ? straightLine(rpm, values, right, at) : NaN;
  }
  return { first, values: out, samples };
}

const TRICUBE = tricube(GRID_STEP_RPM);

/**
 * At every point of a raw curve: the straight line between the neighbouring samples (NaN in a hole), and their distance in rpm.
 * @example atGridPoints(Float64Array.of(3000, 3010, 3025), Float64Array.of(1, 2, 3), rawCurve(Float64Array.of(3000, 3010, 3025), Float64Array.of(1, 2, 3))).gap[1] // 15
 */
export function atGridPoints(rpm: Float64Array, values: Float64Array, { first, values: raw }: GridCurve) {
  const bridge = new Float64Array(raw.length);
  const gap = new Float64Array(raw.length);
  let right = 0;
  for (let k = 0; k < raw.length; k += 1) {
    const at = (first + k) * GRID_STEP_RPM;
    while (right < rpm.length && rpm[right]! < at - 1e-9) right += 1;
    gap[k] = gapBefore(rpm, right);
    bridge[k] = gap[k]! <= WIDEST_BRIDGE_RPM ? straightLine(rpm, values, right, at) : NaN;
  }
  return { bridge, gap };
}

function gapBefore(rpm: Float64Array, right: number): number {
  return right < rpm.length && right > 0 ? rpm[right]! - rpm[right - 1]! : 0;
}

function countBetween(rpm: Float64Array, from: number, to: number, low: number, high: number): number {
  let count = 0;
  for (let i = low; i < high; i += 1) if (rpm[i]! >= from && rpm[i]! < to) count += 1;
  return count;
}

function straightLine(rpm: Float64Array, values: Float64Array, right: number, at: number): number {
  if (right >= rpm.length) return values[rpm.length - 1]!;
  if (right === 0 || rpm[right]! <= at) return values[right]!;
  const share = (at - rpm[right - 1]!) / (rpm[right]! - rpm[right - 1]!);
  return values[right - 1]! + share * (values[right]! - values[right - 1]!);
}

/**
 * A curve multiplied by a factor.
 * @example scaled(rawCurve(Float64Array.of(3000, 3025), Float64Array.of(100, 100)), 1.02).values[0] // 102
 */
export function scaled(curve: GridCurve, factor: number): GridCurve {
  return factor === 1 ? curve : { ...curve, values: curve.values.map((value) => value * factor) };
}

/**
 * Value between grid points by a straight line; NaN outside the curve or in a hole.
 * @example interpolate(rawCurve(Float64Array.of(3000, 3025), Float64Array.of(10, 20)), 3010) // 14
 */
export function interpolate(curve: GridCurve, rpm: number): number {
  const place = rpm / GRID_STEP_RPM - curve.first;
  const below = floor(place + 1e-9);
  const share = max(0, place - below);
  const low = curve.values[below];
  if (low === undefined) return NaN;
  if (share < 1e-9) return low;
  const high = curve.values[below + 1];
  return high === undefined ? NaN : low + share * (high - low);
}

/**
 * Mean over a window, ∫v dn/Δn, by the trapezoid rule on the grid with interpolated ends. NaN when the curve does not
 * cover the window.
 * @example windowMean(rawCurve(Float64Array.of(3000, 3025, 3050), Float64Array.of(10, 20, 30)), 3000, 3050) // 20
 */
export function windowMean(curve: GridCurve, from: number, to: number): number {
  if (!(to > from) || from < fromRpm(curve) - 1e-6 || to > toRpm(curve) + 1e-6) return NaN;
  let area = 0;
  let at = from;
  let value = interpolate(curve, from);
  const firstInside = floor(from / GRID_STEP_RPM + 1e-9) + 1;
  for (let k = firstInside; k * GRID_STEP_RPM < to - 1e-9; k += 1) {
    const next = atGrid(curve, k);
    area += ((value + next) / 2) * (k * GRID_STEP_RPM - at);
    at = k * GRID_STEP_RPM;
    value = next;
  }
  area += ((value + interpolate(curve, to)) / 2) * (to - at);
  return area / (to - from);
}

/**
 * Boxcar mean over ±`widthRpm`/2 on the grid, one-sided at the ends; holes stay holes.
 * @example boxcar(rawCurve(Float64Array.of(3000, 3025, 3050), Float64Array.of(10, 20, 60)), 50).values[1] // 30
 */
export function boxcar(curve: GridCurve, widthRpm: number): GridCurve {
  const half = round(widthRpm / 2 / GRID_STEP_RPM);
  const values = curve.values.map((centre, i) => {
    if (!Number.isFinite(centre)) return NaN;
    let total = 0;
    let count = 0;
    for (let j = max(0, i - half); j <= min(curve.values.length - 1, i + half); j += 1) {
      const value = curve.values[j]!;
      if (Number.isFinite(value)) {
        total += value;
        count += 1;
      }
    }
    return total / count;
  });
  return { ...curve, values };
}

/**
 * Arithmetic mean of several curves where all of them have a value.
 * @example meanCurve([10, 20].map((w) => rawCurve(Float64Array.of(3000, 3025), Float64Array.of(w, w)))).values[0] // 15
 */
export function meanCurve(curves: readonly GridCurve[]): GridCurve {
  if (curves.length === 0) return EMPTY_CURVE;
  const first = max(...curves.map((c) => c.first));
  const last = min(...curves.map((c) => c.first + c.values.length - 1));
  if (last < first) return EMPTY_CURVE;
  const length = last - first + 1;
  const values = new Float64Array(length);
  const samples = new Uint32Array(length);
  for (let i = 0; i < length; i += 1) {
    let total = 0;
    for (const curve of curves) {
      total += atGrid(curve, first + i);
      samples[i]! += curve.samples[first + i - curve.first] ?? 0;
    }
    values[i] = total / curves.length;
  }
  return { first, values, samples };
}

export interface Peak {
  readonly value: number;
  readonly rpm: number;
  /** False when the highest value stands at the edge of the usable window. */
  readonly reached: boolean;
}

/**
 * Peak by a quadratic through the highest grid point ± 4; a vertex outside them leaves the grid maximum; at the
 * window's edge the peak was not reached. Null for a curve without values.
 * @example peakOf(rawCurve(Float64Array.of(3000, 3025, 3050), Float64Array.of(10, 30, 20)))?.value // 30.4167
 */
export function peakOf(curve: GridCurve): Peak | null {
  let top = -1;
  for (let i = 0; i < curve.values.length; i += 1) {
    const value = curve.values[i]!;
    if (Number.isFinite(value) && (top < 0 || value > curve.values[top]!)) top = i;
  }
  if (top < 0) return null;
  const rpmAt = (i: number) => (curve.first + i) * GRID_STEP_RPM;
  const highest = { value: curve.values[top]!, rpm: rpmAt(top) };
  if (top === 0 || top === curve.values.length - 1) return { ...highest, reached: false };
  const low = max(0, top - 4);
  const high = min(curve.values.length - 1, top + 4);
  const x = Array.from({ length: high - low + 1 }, (_, i) => rpmAt(low + i));
  const y = Array.from(curve.values.subarray(low, high + 1));
  const { value, slope } = localPolynomial(x, y, 0, x.length, highest.rpm, 2);
  const ahead = localPolynomial(x, y, 0, x.length, highest.rpm + GRID_STEP_RPM, 2);
  const bend = (ahead.slope - slope) / GRID_STEP_RPM;
  const shift = bend < 0 ? -slope / bend : Infinity;
  if (highest.rpm + shift < x[0]! || highest.rpm + shift > x[x.length - 1]!) return { ...highest, reached: true };
  return { value: value + (slope * shift) / 2, rpm: highest.rpm + shift, reached: true };
}
