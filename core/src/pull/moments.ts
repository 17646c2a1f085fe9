import { atGridPoints, GRID_STEP_RPM, rawCurve, type GridCurve } from './gridCurve.ts';

// Bound once: the numeric loops below call them millions of times.
const { abs, ceil, floor, max, min, round } = Math;

/** Averaging windows begin and end on multiples of this, rpm: half of a grid cell. */
export const HALF_CELL_RPM = GRID_STEP_RPM / 2;
/** Sums kept of a half cell: n, Σu, Σu², Σu³, Σu⁴, Σp, Σpu, Σpu², u the distance from the cell's middle in half cells. */
const SUMS = 8;
/** A local quadratic wants so many samples in its window; those on an end count half. */
const LEAST_SAMPLES = 4;

/**
 * All that a pull's curve depends on, whatever the averaging width: sums over half cells of 12.5 rpm, and at every grid point what is
 * read where samples are too sparse for a fit. Some 30 kB in place of the samples.
 */
export interface PullMoments {
  /** First grid point, in steps of 25 rpm. */
  readonly first: number;
  /** Raw trace on the grid (width 0). */
  readonly raw: Float64Array;
  /** Straight line between the neighbours of a grid point; NaN in a hole. */
  readonly bridge: Float64Array;
  /** Distance of those neighbours, rpm; 0 at the first sample. */
  readonly gap: Float64Array;
  /** First half cell: it begins at 12.5·`firstHalf` rpm. */
  readonly firstHalf: number;
  /** Eight sums a half cell; a sample on the border of two counts half in each. */
  readonly sums: Float64Array;
}

export const NO_MOMENTS: PullMoments = {
  first: 0,
  raw: new Float64Array(),
  bridge: new Float64Array(),
  gap: new Float64Array(),
  firstHalf: 0,
  sums: new Float64Array(),
};

/**
 * Sums of samples, once for every averaging width. Values that are no numbers are left out.
 * @param rpm ascending engine speed of the samples
 * @param raw their raw trace, where it is known already
 * @example momentsOf(Float64Array.of(3000, 3010, 3025), Float64Array.of(1, 2, 3)).gap[1] // 15
 */
export function momentsOf(rpm: Float64Array, values: Float64Array, raw = rawCurve(rpm, values)): PullMoments {
  if (raw.values.length === 0) return NO_MOMENTS;
  const { bridge, gap } = atGridPoints(rpm, values, raw);
  const last = raw.first + raw.values.length - 1;
  const firstHalf = max(floor(rpm[0]! / HALF_CELL_RPM) - 1, 2 * raw.first - 3);
  const halves = min(ceil(rpm[rpm.length - 1]! / HALF_CELL_RPM) + 1, 2 * last + 3) - firstHalf;
  const sums = new Float64Array(SUMS * halves);
  const add = (half: number, place: number, weight: number, value: number) => {
    const at = (half - firstHalf) * SUMS;
    if (at < 0 || at >= sums.length) return;
    const u = place - half - 0.5;
    const wu = weight * u;
    const wu2 = wu * u;
    sums[at]! += weight;
    sums[at + 1]! += wu;
    sums[at + 2]! += wu2;
    sums[at + 3]! += wu2 * u;
    sums[at + 4]! += wu2 * u * u;
    sums[at + 5]! += weight * value;
    sums[at + 6]! += wu * value;
    sums[at + 7]! += wu2 * value;
  };
  for (let i = 0; i < rpm.length; i += 1) {
    const value = values[i]!;
    const place = rpm[i]! / HALF_CELL_RPM;
    if (!Number.isFinite(value) || !Number.isFinite(place)) continue;
    const border = round(place);
    if (abs(place - border) < 1e-9) {
      add(border - 1, border, 0.5, value);
      add(border, border, 0.5, value);
    } else add(floor(place), place, 1, value);
  }
  return { first: raw.first, raw: raw.values, bridge, gap, firstHalf, sums };
}

/**
 * The curve of a pull at an averaging width: a local quadratic over the half cells within half the width on both sides of every grid
 * point, one-sided at the ends; where they hold under four samples, or a gap is wider than half the width, the straight line
 * between the neighbours. Width 0 is the raw trace. Nothing is extrapolated.
 * @param widthRpm averaging width, rpm; its half is taken to the nearest half cell
 * @example momentsCurve(momentsOf(Float64Array.of(3000, 3010, 3025), Float64Array.of(1, 2, 3)), 0).first // 120
 */
export function momentsCurve(moments: PullMoments, widthRpm: number): GridCurve {
  const { first, firstHalf, raw, bridge, gap, sums } = moments;
  const samples = new Uint32Array(raw.length);
  const halves = sums.length / SUMS;
  for (let k = 0; k < raw.length; k += 1) {
    const at = 2 * (first + k) - firstHalf;
    const count = (half: number) => (half < 0 || half >= halves ? 0 : sums[half * SUMS]!);
    samples[k] = round(count(at - 1) + count(at));
  }
  if (!(widthRpm > 0)) return { first, values: raw, samples };
  const reach = max(1, round(widthRpm / 2 / HALF_CELL_RPM));
  const values = new Float64Array(raw.length);
  for (let k = 0; k < raw.length; k += 1) {
    const fitted = gap[k]! <= reach * HALF_CELL_RPM ? fittedAt(sums, 2 * (first + k) - firstHalf, reach) : NaN;
    values[k] = Number.isNaN(fitted) ? bridge[k]! : fitted;
  }
  return { first, values, samples };
}

/** Local quadratic at the border before half cell `at`, over `reach` half cells on each side; NaN with too few samples. */
function fittedAt(sums: Float64Array, at: number, reach: number): number {
  let s0 = 0;
  let s1 = 0;
  let s2 = 0;
  let s3 = 0;
  let s4 = 0;
  let t0 = 0;
  let t1 = 0;
  let t2 = 0;
  const end = min(sums.length / SUMS, at + reach);
  for (let half = max(0, at - reach); half < end; half += 1) {
    const i = half * SUMS;
    const n = sums[i]!;
    if (n === 0) continue;
    // Sums about the middle of the half cell, moved to the grid point (binomial theorem).
    const c = half - at + 0.5;
    const c2 = c * c;
    const m1 = sums[i + 1]!;
    const m2 = sums[i + 2]!;
    const m3 = sums[i + 3]!;
    const p0 = sums[i + 5]!;
    const p1 = sums[i + 6]!;
    s0 += n;
    s1 += c * n + m1;
    s2 += c2 * n + 2 * c * m1 + m2;
    s3 += c2 * c * n + 3 * c2 * m1 + 3 * c * m2 + m3;
    s4 += c2 * c2 * n + 4 * c2 * c * m1 + 6 * c2 * m2 + 4 * c * m3 + sums[i + 4]!;
    t0 += p0;
    t1 += c * p0 + p1;
    t2 += c2 * p0 + 2 * c * p1 + sums[i + 7]!;
  }
  if (s0 < LEAST_SAMPLES - 1e-9) return NaN;
  // In units of the window, so that the determinant says how well it is filled.
  const r2 = reach * reach;
  s1 /= reach;
  s2 /= r2;
  s3 /= r2 * reach;
  s4 /= r2 * r2;
  t1 /= reach;
  t2 /= r2;
  const whole = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s2 * s3) + s2 * (s1 * s3 - s2 * s2);
  if (whole > 1e-10 * s0 * s0 * s0)
    return (t0 * (s2 * s4 - s3 * s3) - t1 * (s1 * s4 - s2 * s3) + t2 * (s1 * s3 - s2 * s2)) / whole;
  const line = s0 * s2 - s1 * s1;
  return line > 1e-12 * s0 * s0 ? (t0 * s2 - t1 * s1) / line : t0 / s0;
}
