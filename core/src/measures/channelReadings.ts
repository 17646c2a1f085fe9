import { isTemperature } from '../bay/channelWords.ts';
import { channelValues, type Channel, type Pull } from '../job/job.ts';
import { PLAUSIBLE } from '../job/plausible.ts';
import { GRID_STEP_RPM } from '../pull/gridCurve.ts';
import type { SampleRange } from '../pull/risingRun.ts';
import type { RollOnTrace } from './rollOn.ts';
import { fullThrottle, meanOf } from './fullThrottle.ts';

// Bound once: the loops below run over every sample of every channel.
const { floor, max, min, round } = Math;

/** What is kept of a channel of one pull, in the channel's own unit; NaN where there is nothing to read. */
export interface ChannelReading {
  readonly name: string;
  /** A gauge that somebody read: it has no course over engine speed. */
  readonly byHand?: true;
  /** Mean of the last second before full throttle. */
  readonly start: number;
  /** Mean of the last half second of it. */
  readonly end: number;
  /** 99th percentile during it. */
  readonly peak: number;
  /** Of a hold: mean of its last half minute. */
  readonly plateau: number;
  /** Of a temperature: seconds after full throttle until it is back within 3 °C of its start; NaN where the recording ends before. */
  readonly recoveryS: number;
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
  /** Seconds since full throttle began, over the same cells as the channels; null without time. */
  readonly seconds: Pick<ChannelReading, 'first' | 'cells'> | null;
  /** Loss of pressure over the cooler, kPa, over the last third of full throttle; NaN where it was not logged on both sides. */
  readonly pressureDropKpa: number;
  /** Of the cooler: (in − out)/(in − ambient) over the last third of full throttle; NaN where it cannot be told. */
  readonly effectiveness: number;
  /** Of a roll-on; null of any other pull, and of one in which nothing opens. */
  readonly rollOn: RollOnTrace | null;
}

export const NO_READINGS: PullReadings = {
  ...{ channels: [], seconds: null, pressureDropKpa: NaN, effectiveness: NaN, rollOn: null },
};

const START_S = 1;
const END_S = 0.5;
const PEAK_SHARE = 0.99;
/** A hold is longer than this, and its plateau is the mean of so many last seconds. */
const HOLD_S = 60;
const PLATEAU_S = 30;
/** Back to the start: within so many degrees of it. */
const BACK_C = 3;
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
    seconds: timeS && secondsOver(timeS, run, cells),
    pressureDropKpa: timeS ? pressureDrop(pull, run, timeS) : NaN,
    effectiveness: timeS ? effectiveness(pull, run, timeS) : NaN,
    rollOn: null,
  };
}

function secondsOver(timeS: Float64Array, run: SampleRange, cells: Cells): PullReadings['seconds'] {
  const opened = timeS[run.from] ?? NaN;
  return { first: cells.first, cells: overCells(timeS, cells).means.map((t) => t - opened) };
}

function read({ name, values }: Channel, run: SampleRange, timeS: Float64Array | null, cells: Cells): ChannelReading {
  const inside = overCells(values, cells);
  let { low, high } = inside;
  const bound = (from: number, to: number) => {
    for (let i = from; i < to; i += 1) {
      const value = values[i]!;
      if (value < low) low = value;
      if (value > high) high = value;
    }
  };
  bound(0, run.from);
  bound(run.to, values.length);
  const { heard, means } = inside;
  return {
    name,
    ...{ start: NaN, end: NaN, plateau: NaN, recoveryS: NaN },
    ...(timeS && run.to > run.from ? endsOf(name, values, run, timeS) : {}),
    peak: isTemperature(name) && heard > 0 ? upperShare(values, run, inside) : NaN,
    ...(low <= high ? { low, high } : { low: NaN, high: NaN }),
    heard: run.to > run.from ? heard / (run.to - run.from) : 0,
    first: cells.first,
    cells: means,
  };
}

function endsOf(name: string, values: Float64Array, { from, to }: SampleRange, timeS: Float64Array) {
  const [opened, closed] = [timeS[from]!, timeS[to - 1]!];
  let before = from;
  while (before > 0 && timeS[before - 1]! >= opened - START_S) before -= 1;
  let last = to;
  while (last > from && timeS[last - 1]! > closed - END_S) last -= 1;
  const start = meanOf(values, before, from);
  return {
    ...{ start, end: meanOf(values, last, to) },
    plateau: closed - opened >= HOLD_S ? plateauOf(values, timeS, to) : NaN,
    recoveryS: isTemperature(name) ? backAt(values, timeS, to, start + BACK_C) - closed : NaN,
  };
}

function plateauOf(values: Float64Array, timeS: Float64Array, to: number): number {
  let from = to;
  while (from > 0 && timeS[from - 1]! > timeS[to - 1]! - PLATEAU_S) from -= 1;
  return meanOf(values, from, to);
}

/** When a temperature is first at or under a limit from a sample on, straight between samples; NaN where it never is. */
function backAt(values: Float64Array, timeS: Float64Array, from: number, limit: number): number {
  for (let i = from; i < values.length; i += 1) {
    if (!(values[i]! <= limit)) continue;
    const before = values[i - 1]!;
    if (!(before > limit)) return timeS[i]!;
    return timeS[i - 1]! + ((before - limit) / (before - values[i]!)) * (timeS[i]! - timeS[i - 1]!);
  }
  return NaN;
}

const BINS = 128;
const counts = new Uint32Array(BINS + 1);

/** The 99th percentile (Hyndman and Fan 1996, type 7) of the samples of a run that are numbers; of many only the upper ones are sorted. */
function upperShare(values: Float64Array, { from, to }: SampleRange, { heard, low, high }: InRun): number {
  if (low === high) return low;
  const place = (heard - 1) * PEAK_SHARE;
  const wanted = heard - floor(place);
  // A histogram tells from where on as many lie as are wanted.
  counts.fill(0);
  const scale = BINS / (high - low);
  for (let i = from; i < to; i += 1) {
    const value = values[i]!;
    if (value - value === 0) counts[((value - low) * scale) | 0]! += 1;
  }
  let bin = BINS + 1;
  let above = 0;
  while (bin > 0 && above < wanted) {
    bin -= 1;
    above += counts[bin]!;
  }
  const upper = new Float64Array(above);
  let n = 0;
  for (let i = from; i < to; i += 1) {
    const value = values[i]!;
    if ((((value - low) * scale) | 0) >= bin && value - value === 0) upper[n++] = value;
  }
  upper.sort();
  const at = upper[above - wanted]!;
  return at + (place - floor(place)) * (upper[min(above - 1, above - wanted + 1)]! - at);
}

/** Where the samples of a run fall on the grid. */
interface Cells {
  readonly first: number;
  readonly count: number;
  /** Stretches of samples of one cell, three numbers each: from, to, cell; −1 where there is no engine speed. */
  readonly stretches: Int32Array;
}

function cellsOf(rpm: Float64Array, { from, to }: SampleRange): Cells {
  let low = Infinity;
  let high = -Infinity;
  const stretches: number[] = [];
  let before = NaN;
  for (let i = from; i < to; i += 1) {
    const n = rpm[i]!;
    const known = n > 0 && n <= PLAUSIBLE.engineRpm.high;
    const cell = known ? round(n / GRID_STEP_RPM) : -1;
    if (known) {
      low = min(low, cell);
      high = max(high, cell);
    }
    if (cell === before) stretches[stretches.length - 2] = i + 1;
    else stretches.push(i, i + 1, cell);
    before = cell;
  }
  const first = high >= low ? low : 0;
  for (let k = 2; k < stretches.length; k += 3) if (stretches[k]! >= 0) stretches[k]! -= first;
  return { first, count: high >= low ? high - low + 1 : 0, stretches: Int32Array.from(stretches) };
}

/** What the samples of a run say of a channel. */
interface InRun {
  /** How many are numbers, and their bounds. */
  readonly heard: number;
  readonly low: number;
  readonly high: number;
  /** Mean of every cell; NaN in a hole. */
  readonly means: Float32Array;
}

/** Means over the cells of a run; short gaps are bridged by a straight line. */
function overCells(values: Float64Array, { count, stretches }: Cells): InRun {
  const sums = new Float64Array(count);
  const samples = new Uint32Array(count);
  let heard = 0;
  let low = Infinity;
  let high = -Infinity;
  for (let k = 0; k < stretches.length; k += 3) {
    const to = stretches[k + 1]!;
    const cell = stretches[k + 2]!;
    let sum = 0;
    let n = 0;
    for (let i = stretches[k]!; i < to; i += 1) {
      const value = values[i]!;
      if (value - value !== 0) continue;
      sum += value;
      n += 1;
      if (value < low) low = value;
      if (value > high) high = value;
    }
    heard += n;
    if (cell < 0) continue;
    sums[cell]! += sum;
    samples[cell]! += n;
  }
  const means = new Float32Array(count);
  let last = -1;
  for (let cell = 0; cell < count; cell += 1) {
    const n = samples[cell]!;
    if (n === 0) {
      means[cell] = NaN;
      continue;
    }
    const mean = sums[cell]! / n;
    means[cell] = mean;
    if (last >= 0 && cell - last > 1 && cell - last <= WIDEST_BRIDGE) {
      const before = sums[last]! / samples[last]!;
      for (let hole = last + 1; hole < cell; hole += 1)
        means[hole] = before + ((mean - before) * (hole - last)) / (cell - last);
    }
    last = cell;
  }
  return { heard, low, high, means };
}

/** Mean of the pressure into the cooler less that out of it, over the last third of full throttle. */
function pressureDrop(pull: Pick<Pull, 'channels'>, { from, to }: SampleRange, timeS: Float64Array): number {
  const [into, out] = ['charge_in_kpa', 'charge_kpa'].map((name) => channelValues(pull, name));
  if (!into || !out || to - from < 3) return NaN;
  const begins = timeS[to - 1]! - (timeS[to - 1]! - timeS[from]!) / 3;
  let first = from;
  while (first < to && timeS[first]! < begins) first += 1;
  return meanOf(into, first, to) - meanOf(out, first, to);
}

function effectiveness(pull: Pick<Pull, 'channels'>, { from, to }: SampleRange, timeS: Float64Array): number {
  const [into, out, around] = ['charge_in_c', 'charge_c', 'ambient_c'].map((name) => channelValues(pull, name));
  if (!into || !out || !around || to - from < 3) return NaN;
  const begins = timeS[to - 1]! - (timeS[to - 1]! - timeS[from]!) / 3;
  let first = from;
  while (first < to && timeS[first]! < begins) first += 1;
  let gaps = 0;
  let shares = 0;
  let n = 0;
  for (let i = first; i < to; i += 1) {
    const gap = into[i]! - around[i]!;
    const share = (into[i]! - out[i]!) / gap;
    if (share - share !== 0) continue;
    gaps += gap;
    shares += share;
    n += 1;
  }
  return n > 0 && gaps / n > LEAST_DEGREES ? shares / n : NaN;
}

/**
 * Mean of a channel over an rpm window (trapezoid over its cells); NaN where the pull does not cover it.
 * @example channelMean({ name: 'x', start: 0, end: 0, peak: 0, plateau: NaN, recoveryS: NaN, low: 0, high: 0, heard: 1, first: 120, cells: Float32Array.of(1, 2, 3) }, 3000, 3050) // 2
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
