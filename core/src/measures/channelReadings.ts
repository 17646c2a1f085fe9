import { channelValues, type Channel, type Pull } from '../job/job.ts';
import { PLAUSIBLE } from '../job/plausible.ts';
import { GRID_STEP_RPM } from '../pull/gridCurve.ts';
import type { SampleRange } from '../pull/risingRun.ts';
import { fullThrottle, meanOf } from './fullThrottle.ts';

// Bound once: the loops below run over every sample of every channel.
const { floor, max, min, round } = Math;

/** What is kept of a channel of one pull, in the channel's own unit; NaN where there is nothing to read. */
export interface ChannelReading {
  readonly name: string;
  /** Mean of the last second before full throttle. */
  readonly start: number;
  /** Mean of the last half second of it. */
  readonly end: number;
  /** 99th percentile during it. */
  readonly peak: number;
  /** Smallest and largest sample of the whole recording. */
  readonly low: number;
  readonly high: number;
  /** Share of the samples at full throttle that are numbers. */
  readonly heard: number;
  /** First grid point, in steps of 25 rpm, and the mean of each cell; NaN in a hole. */
  readonly first: number;
  readonly cells: Float32Array;
}

/** What is read of a pull besides its power. */
export interface PullReadings {
  readonly channels: readonly ChannelReading[];
  /** Of the cooler: (in − out)/(in − ambient) over the last third of full throttle; NaN where it cannot be told. */
  readonly effectiveness: number;
}

export const NO_READINGS: PullReadings = { channels: [], effectiveness: NaN };

const START_S = 1;
const END_S = 0.5;
const PEAK_SHARE = 0.99;
/** Under so many degrees between the air that enters and the air around it nothing can be said of a cooler. */
const LEAST_DEGREES = 10;
/** The pull's own axes are no readings. */
const AXES = ['time_s', 'engine_rpm', 'roller_rad_s', 'wheel_power_w', 'wheel_torque_nm', 'throttle_fraction'];
/** Cells without a sample are bridged over up to so many of them. */
const WIDEST_BRIDGE = 10;

/**
 * Reads every channel of a pull: start, end, peak and means over engine speed. Without time there are means only.
 * @param engineToRollerRatio engine speed over roller speed, where the engine speed was not recorded
 * @example channelReadings({ channels: [] }, null).channels // []
 */
export function channelReadings(pull: Pick<Pull, 'channels'>, engineToRollerRatio: number | null): PullReadings {
  const roller = channelValues(pull, 'roller_rad_s');
  const rpm =
    channelValues(pull, 'engine_rpm') ??
    (roller && engineToRollerRatio ? roller.map((w) => (w * engineToRollerRatio * 30) / Math.PI) : null);
  if (!rpm) return NO_READINGS;
  const run = fullThrottle(pull, rpm);
  const timeS = channelValues(pull, 'time_s') ?? null;
  const cells = cellsOf(rpm, run);
  return {
    channels: pull.channels.flatMap((c) => (AXES.includes(c.name) ? [] : [read(c, run, timeS, cells)])),
    effectiveness: timeS ? effectiveness(pull, run, timeS) : NaN,
  };
}

function read({ name, values }: Channel, run: SampleRange, timeS: Float64Array | null, cells: Cells): ChannelReading {
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < values.length; i += 1) {
    const value = values[i]!;
    if (value < low) low = value;
    if (value > high) high = value;
  }
  let heard = 0;
  for (let i = run.from; i < run.to; i += 1) if (values[i]! - values[i]! === 0) heard += 1;
  const temperature = name.endsWith('_c');
  return {
    name,
    ...{ start: NaN, end: NaN },
    ...(timeS && run.to > run.from ? endsOf(values, run, timeS) : {}),
    peak: temperature ? upperShare(values, run) : NaN,
    ...(low <= high ? { low, high } : { low: NaN, high: NaN }),
    heard: run.to > run.from ? heard / (run.to - run.from) : 0,
    first: cells.first,
    cells: meansOf(values, run, cells),
  };
}

function endsOf(values: Float64Array, { from, to }: SampleRange, timeS: Float64Array) {
  const [opened, closed] = [timeS[from]!, timeS[to - 1]!];
  let before = from;
  while (before > 0 && timeS[before - 1]! >= opened - START_S) before -= 1;
  let last = to;
  while (last > from && timeS[last - 1]! > closed - END_S) last -= 1;
  return { start: meanOf(values, before, from), end: meanOf(values, last, to) };
}

/** The 99th percentile: of many samples only those are sorted that can be it. */
function upperShare(values: Float64Array, { from, to }: SampleRange): number {
  const own = values.subarray(from, to).filter((v) => v - v === 0);
  if (own.length === 0) return NaN;
  const above = own.length - 1 - floor((own.length - 1) * PEAK_SHARE);
  let low = own.reduce((a, b) => (b < a ? b : a));
  let high = own.reduce((a, b) => (b > a ? b : a));
  // Halved until few enough are left above, and still all that count.
  let upper: Float64Array = own;
  for (let k = 0; k < 12 && upper.length > 4 * (above + 1) && high > low; k += 1) {
    const middle = (low + high) / 2;
    const over = upper.filter((v) => v >= middle);
    if (over.length > above + 1) [upper, low] = [over, middle];
    else high = middle;
  }
  const place = (own.length - 1) * PEAK_SHARE;
  const sorted = upper.sort();
  const at = (fromTop: number) => sorted[max(0, sorted.length - 1 - fromTop)]!;
  const share = place - floor(place);
  return at(above) + share * (at(max(0, above - 1)) - at(above));
}

/** Where the samples of a run fall on the grid. */
interface Cells {
  readonly first: number;
  readonly count: number;
  /** Cell of every sample of the run, −1 where there is no engine speed. */
  readonly of: Int32Array;
}

function cellsOf(rpm: Float64Array, { from, to }: SampleRange): Cells {
  let low = Infinity;
  let high = -Infinity;
  const of = new Int32Array(max(0, to - from)).fill(-1);
  for (let i = from; i < to; i += 1) {
    const n = rpm[i]!;
    if (!(n > 0 && n <= PLAUSIBLE.engineRpm.high)) continue;
    const cell = round(n / GRID_STEP_RPM);
    of[i - from] = cell;
    low = min(low, cell);
    high = max(high, cell);
  }
  if (!(high >= low)) return { first: 0, count: 0, of };
  return { first: low, count: high - low + 1, of: of.map((cell) => (cell < 0 ? -1 : cell - low)) };
}

/** Mean of a channel in every cell; short gaps are bridged by a straight line. */
function meansOf(values: Float64Array, { from }: SampleRange, { count, of }: Cells): Float32Array {
  const sums = new Float64Array(count);
  const counts = new Uint32Array(count);
  for (let k = 0; k < of.length; k += 1) {
    const cell = of[k]!;
    const value = values[from + k]!;
    if (cell < 0 || value - value !== 0) continue;
    sums[cell]! += value;
    counts[cell]! += 1;
  }
  const out = new Float32Array(count);
  let last = -1;
  for (let cell = 0; cell < count; cell += 1) {
    out[cell] = counts[cell]! > 0 ? sums[cell]! / counts[cell]! : NaN;
    if (counts[cell]! === 0) continue;
    if (last >= 0 && cell - last > 1 && cell - last <= WIDEST_BRIDGE)
      for (let hole = last + 1; hole < cell; hole += 1)
        out[hole] = out[last]! + ((out[cell]! - out[last]!) * (hole - last)) / (cell - last);
    last = cell;
  }
  return out;
}

function effectiveness(pull: Pick<Pull, 'channels'>, { from, to }: SampleRange, timeS: Float64Array): number {
  const [into, out, around] = ['charge_in_c', 'charge_c', 'ambient_c'].map((name) => channelValues(pull, name));
  if (!into || !out || !around || to - from < 3) return NaN;
  const begins = timeS[to - 1]! - (timeS[to - 1]! - timeS[from]!) / 3;
  let first = from;
  while (first < to && timeS[first]! < begins) first += 1;
  const gap = into.map((t, i) => t - around[i]!);
  if (!(meanOf(gap, first, to) > LEAST_DEGREES)) return NaN;
  return meanOf(
    into.map((t, i) => (t - out[i]!) / gap[i]!),
    first,
    to,
  );
}

/**
 * Mean of a channel over an rpm window (trapezoid over its cells); NaN where the pull does not cover it.
 * @example channelMean({ name: 'x', start: 0, end: 0, peak: 0, low: 0, high: 0, heard: 1, first: 120, cells: Float32Array.of(1, 2, 3) }, 3000, 3050) // 2
 */
export function channelMean({ first, cells }: ChannelReading, fromRpm: number, toRpm: number): number {
  const [a, b] = [fromRpm / GRID_STEP_RPM - first, toRpm / GRID_STEP_RPM - first];
  if (!(a >= -1 && b <= cells.length && b > a)) return NaN;
  const at = (place: number) => {
    const k = min(max(0, place), cells.length - 1);
    const low = floor(k);
    return low === k ? cells[low]! : cells[low]! + (k - low) * (cells[low + 1]! - cells[low]!);
  };
  let sum = 0;
  let before = a;
  for (let k = floor(a) + 1; k < b; k += 1) {
    sum += ((at(before) + at(k)) / 2) * (k - before);
    before = k;
  }
  return (sum + ((at(before) + at(b)) / 2) * (b - before)) / (b - a);
}
