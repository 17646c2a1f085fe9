import type { Bay, Pull, Vehicle } from '../job/job.ts';
import { PLAUSIBLE } from '../job/plausible.ts';
import { localPolynomial, tricube } from '../statistics/localPolynomial.ts';
import { median } from '../statistics/summary.ts';
import { torqueAtEngineSpeed } from '../units/units.ts';
import { boostControlFindings } from './boostControl.ts';
import { SAME_STEP_RPM } from './commonSteps.ts';
import { finding, type PullFinding } from './findings.ts';
import { GRID_STEP_RPM, rawCurve, type GridCurve } from './gridCurve.ts';
import { longestRisingRun, type SampleRange } from './risingRun.ts';
import { DERIVATIVE_WIDTH_RPM, powerSamples, type PowerSamples } from './wheelPower.ts';

// Bound once: the numeric loops below call them millions of times.
const { abs, ceil, floor, max, min, round } = Math;

/** Seconds that full throttle needs to settle before power means anything. Common practice, no source. */
const THROTTLE_SETTLE_S = 0.4;
/** A torque sample this far off the local course is a spike: a gear change, a lift, a bad pickup (judgement). */
const SPIKE_SHARE = 0.04;
/** Spikes this close to an end cut the window there; further in they are masked and bridged. */
const EDGE_RPM = 200;
/** Trims at the ends shorter than this are the ordinary end of a pull. */
const WORTH_SAYING_RPM = 150;
const SHIFT_STEP = 0.04;
const SLIP_SHARE = 0.015;

/** A pull reduced to its usable window: ascending engine speed with uncorrected wheel power. */
export interface UsablePull {
  readonly rpm: Float64Array;
  readonly powerW: Float64Array;
  readonly findings: readonly PullFinding[];
  /** The raw trace of just these samples, where it was made on the way. */
  readonly raw?: GridCurve;
}

/**
 * Finds the usable window of a pull, after full throttle has settled and before lift, limiter or shift.
 * @param features engine speeds, rpm, at which torque jumps in every pull of the setup: no fault, and left as they are
 */
export function usablePull(pull: Pull, bay: Bay, vehicle: Vehicle, features: readonly number[] = []): UsablePull {
  const samples = powerSamples(pull, bay, vehicle);
  const findings = [...samples.findings];
  if (samples.rpm.length === 0) return { rpm: samples.rpm, powerW: samples.powerW, findings };
  const good = withoutDropouts(samples, findings);
  let range = longestRisingRun(good.rpm);
  if (good.timeS) findings.push(...controllerFindings(pull, good, range));
  range = afterThrottle(pull, good, range);
  range = beforeShift(good, range, vehicle, bay, findings);
  const sorted = ascending(good, range);
  const kept = withoutSpikes(sorted.rpm, sorted.powerW, findings, features);
  for (const rpm of features) findings.push(finding('feature', 'info', {}, rpm, rpm));
  if (kept.powerW.some((p, i) => p > 3e6 || torqueAtEngineSpeed(p, kept.rpm[i]!) > 10_000)) {
    findings.push(finding('implausible', 'warning', {}));
  }
  return { ...kept, findings };
}

/** Looks at the whole rising run of the recording: where the throttle closes, the usable window ends. */
function controllerFindings(pull: Pull, good: { index: number[] }, { from, to }: SampleRange): PullFinding[] {
  const rpm = pull.channels.find((channel) => channel.name === 'engine_rpm')?.values;
  if (!rpm || to <= from) return [];
  return boostControlFindings(pull.channels, rpm, { from: good.index[from]!, to: good.index[to - 1]! + 1 });
}

/** Leaves out samples where the rpm signal dropped out: not positive, missing, beyond any engine, or under half of its neighbourhood. */
function withoutDropouts(samples: PowerSamples, findings: PullFinding[]): PowerSamples & { index: number[] } {
  const { rpm, powerW } = samples;
  const index: number[] = [];
  let bad = 0;
  let level = NaN;
  for (let i = 0; i < rpm.length; i += 1) {
    const n = rpm[i]!;
    if (
      !(n > 0) ||
      n > PLAUSIBLE.engineRpm.high ||
      !Number.isFinite(powerW[i]!) ||
      (n < 0.5 * level && rpm[i + 8]! > 0.8 * level)
    ) {
      if (!Number.isNaN(n) && Number.isFinite(powerW[i]!)) bad += 1;
      continue;
    }
    level = n;
    index.push(i);
  }
  if (bad > 0) findings.push(finding('rpm-dropout', 'warning', { samples: bad }));
  return {
    rpm: picked(rpm, index),
    powerW: picked(powerW, index),
    timeS: samples.timeS && picked(samples.timeS, index),
    rollerRadS: samples.rollerRadS && picked(samples.rollerRadS, index),
    findings: samples.findings,
    index,
  };
}

/** Starts once the throttle has been fully open for a moment, ends where it closes. */
function afterThrottle(pull: Pull, good: PowerSamples & { index: number[] }, run: SampleRange): SampleRange {
  const { timeS } = good;
  if (!timeS) return run;
  const recorded = pull.channels.find((channel) => channel.name.startsWith('throttle'));
  if (!recorded) return { from: firstAfter(timeS, run, timeS[run.from]! + THROTTLE_SETTLE_S), to: run.to };
  const throttle = good.index.map((i) => recorded.values[i]!);
  const open = 0.95 * throttle.slice(run.from, run.to).reduce((most, v) => (v > most ? v : most), -Infinity);
  let opened = run.from;
  while (opened < run.to && !(throttle[opened]! >= open)) opened += 1;
  let end = opened;
  while (end < run.to && throttle[end]! >= 0.95 * open) end += 1;
  // The slope of the roller is fitted over 60 rpm, so the last of them already feel the closing throttle.
  const closing = good.rpm[min(end, run.to - 1)]!;
  while (end < run.to && end > opened && good.rpm[end - 1]! > closing - DERIVATIVE_WIDTH_RPM) end -= 1;
  return { from: firstAfter(timeS, { from: opened, to: end }, timeS[opened]! + THROTTLE_SETTLE_S), to: end };
}

function firstAfter(timeS: Float64Array, run: SampleRange, moment: number): number {
  let i = run.from;
  while (i < run.to - 2 && timeS[i]! < moment) i += 1;
  return i;
}

/** A step of the engine/roller ratio is a shift, a slow rise of it with torque is tyre slip. */
function beforeShift(
  good: PowerSamples,
  run: SampleRange,
  vehicle: Vehicle,
  bay: Bay,
  findings: PullFinding[],
): SampleRange {
  const { rollerRadS, rpm } = good;
  if (!rollerRadS || run.to - run.from < 40) return run;
  const ratio = rpm.map((n, i) => n / rollerRadS[i]!);
  const reach = max(4, round((run.to - run.from) / 100));
  let { from, to } = run;
  // Medians lie between the smallest and the largest: where these are close there is no step to look for.
  const spread = spreadOf(ratio, run);
  for (let i = spread > SHIFT_STEP ? from + 2 * reach : to; i < to - 2 * reach; i += ceil(reach / 2)) {
    const before = median(ratio.subarray(i - 2 * reach, i - reach));
    const after = median(ratio.subarray(i + reach, i + 2 * reach));
    if (abs(after / before - 1) > SHIFT_STEP) {
      const at = round(rpm[i]!);
      findings.push(finding('shift', 'warning', { sign: 'ratio-steps' }, at, at));
      if (i - from > to - i) to = i - 2 * reach;
      else from = i + 2 * reach;
      break;
    }
  }
  if (bay.kind !== 'hub' && vehicle.transmission !== 'cvt' && vehicle.transmission !== 'automatic')
    if (spread > SLIP_SHARE) slipFinding(rpm, ratio, { from, to }, findings);
  return { from, to };
}

/** How far the largest of some values is above the smallest; infinite where one of them is no positive number. */
function spreadOf(values: Float64Array, { from, to }: SampleRange): number {
  let low = Infinity;
  let high = -Infinity;
  for (let i = from; i < to; i += 1) {
    const value = values[i]!;
    if (!(value > 0)) return Infinity;
    if (value < low) low = value;
    if (value > high) high = value;
  }
  return high / low - 1;
}

function slipFinding(rpm: Float64Array, ratio: Float64Array, run: SampleRange, findings: PullFinding[]): void {
  const bins = 24;
  const size = floor((run.to - run.from) / bins);
  if (size < 3) return;
  const levels = Array.from({ length: bins }, (_, b) =>
    median(ratio.subarray(run.from + b * size, run.from + (b + 1) * size)),
  );
  const usual = median([...levels].sort((a, b) => a - b).slice(0, bins / 2));
  const slipping = levels
    .map((level, b) => ({ b, share: level / usual - 1 }))
    .filter(({ share }) => share > SLIP_SHARE);
  if (slipping.length === 0) return;
  const low = round(rpm[run.from + slipping[0]!.b * size]!);
  const high = round(rpm[run.from + (slipping.at(-1)!.b + 1) * size - 1]!);
  const most = slipping.reduce((most, { share }) => max(most, share), 0) * 100;
  findings.push(finding('slip', 'warning', { percent: most }, low, high));
}

function picked(values: Float64Array, index: readonly number[]): Float64Array {
  const out = new Float64Array(index.length);
  for (let i = 0; i < index.length; i += 1) out[i] = values[index[i]!]!;
  return out;
}

function ascending(good: PowerSamples, range: SampleRange): { rpm: Float64Array; powerW: Float64Array } {
  const rpm = good.rpm.slice(range.from, range.to);
  const powerW = good.powerW.slice(range.from, range.to);
  // A sweep rises but for the noise of its pickup: every sample finds its place a few steps back. A speed that was held does not.
  let moves = 0;
  for (let i = 1; i < rpm.length; i += 1) {
    if (moves > 40 * rpm.length) return sortedPairs(good, range);
    const n = rpm[i]!;
    if (n >= rpm[i - 1]!) continue;
    const p = powerW[i]!;
    let at = i;
    for (; at > 0 && rpm[at - 1]! > n; at -= 1, moves += 1) {
      rpm[at] = rpm[at - 1]!;
      powerW[at] = powerW[at - 1]!;
    }
    rpm[at] = n;
    powerW[at] = p;
  }
  return { rpm, powerW };
}

function sortedPairs(good: PowerSamples, { from, to }: SampleRange): { rpm: Float64Array; powerW: Float64Array } {
  const order = Array.from({ length: to - from }, (_, i) => from + i);
  order.sort((a, b) => good.rpm[a]! - good.rpm[b]! || a - b);
  return { rpm: picked(good.rpm, order), powerW: picked(good.powerW, order) };
}

/**
 * Masks what is not the engine: torque off its robust local course (Cleveland 1979, three bisquare passes over ±300 rpm)
 * by more than 4 %. At an end the window is cut there, inside it the stretch is bridged.
 */
function withoutSpikes(
  rpm: Float64Array,
  powerW: Float64Array,
  findings: PullFinding[],
  features: readonly number[],
): Omit<UsablePull, 'findings'> {
  const raw = rawCurve(rpm, powerW);
  const x = Float64Array.from(raw.values, (_, i) => (raw.first + i) * GRID_STEP_RPM);
  const torque = raw.values.map((p, i) => torqueAtEngineSpeed(p, x[i]!));
  if (x.length < 20) return { rpm, powerW, raw };
  const known = (from: number, to: number) =>
    features.some((rpm) => rpm >= from - SAME_STEP_RPM && rpm <= to + SAME_STEP_RPM);
  const step = risingEnd(x, torque);
  if (step >= 0) {
    findings.push(finding('shift', 'warning', { sign: 'torque-climbs' }, x[step], x[x.length - 1]));
    // The slope behind power is fitted over 60 rpm: the cells before the step feel it too.
    const end = rpm.findIndex((n) => n > x[step]! - 75);
    return withoutSpikes(rpm.subarray(0, end), powerW.subarray(0, end), findings, features);
  }
  const off = offCourse(torque);
  const stretches: [number, number][] = [];
  off.forEach((share, i) => {
    if (!(abs(share) > SPIKE_SHARE)) return;
    const last = stretches.at(-1);
    if (last && i - last[1] <= 3) last[1] = i;
    else stretches.push([i, i]);
  });
  let low = -Infinity;
  let high = Infinity;
  const masked: [number, number][] = [];
  const end = x[x.length - 1]!;
  for (const [a, b] of stretches.filter(([i, j]) => !known(x[i]!, x[j]!))) {
    const from = x[a]! - GRID_STEP_RPM;
    const to = x[b]! + GRID_STEP_RPM;
    if (to >= end - EDGE_RPM / 2 && to - from < 600) {
      high = min(high, from);
      if (off[b]! > 0 || end - from > WORTH_SAYING_RPM)
        findings.push(finding('shift', 'warning', { sign: 'torque-leaves' }, x[a], x[b]));
    } else if (from <= x[0]! + EDGE_RPM / 2 && to - from < 600) {
      low = max(low, to);
      if (to - x[0]! > WORTH_SAYING_RPM) findings.push(finding('lift', 'info', {}, x[a], x[b]));
    } else if (to - from <= 250) {
      masked.push([from, to]);
      findings.push(finding('spike', 'warning', {}, x[a], x[b]));
    }
  }
  if (stretches.length === 0) return { rpm, powerW, raw };
  const keep: number[] = [];
  rpm.forEach((n, i) => {
    if (n > low && n < high && !masked.some(([from, to]) => n > from && n < to)) keep.push(i);
  });
  return { rpm: picked(rpm, keep), powerW: picked(powerW, keep) };
}

/**
 * Where torque rises in the last 300 rpm by more than 5 % over the line of the 600 rpm before; −1 when it does not. Near
 * its limit no engine gains torque of a sudden, a gear change does; a local fit alone would follow such a step.
 */
function risingEnd(x: Float64Array, torque: Float64Array): number {
  const start = x.length - 1 - 300 / GRID_STEP_RPM;
  const before = start - 600 / GRID_STEP_RPM;
  if (before < 0) return -1;
  const line = localPolynomial(x, torque, before, start, x[start]!, 1);
  for (let i = start; i < x.length; i += 1) {
    if (torque[i]! / (line.value + line.slope * (x[i]! - x[start]!)) - 1 > 0.05) return i;
  }
  return -1;
}

/** Cells on each side of the robust local line, and their tricube weights by distance. */
const COURSE_CELLS = 300 / GRID_STEP_RPM;
const COURSE_WEIGHTS = Float64Array.from({ length: COURSE_CELLS + 1 }, (_, o) => tricube(325)(o * GRID_STEP_RPM));

/** Relative distance of torque, on the grid, from its robust local line. */
function offCourse(torque: Float64Array): Float64Array {
  let trust: Float64Array = new Float64Array(torque.length).fill(1);
  let fitted = torque;
  for (let pass = 0; pass < 4; pass += 1) {
    fitted = localLines(torque, trust);
    const residuals = torque.map((t, i) => abs(t - fitted[i]!));
    const scale = 6 * max(median(residuals), 0.005 * abs(median(torque)));
    trust = residuals.map((r) => (r >= scale ? 0 : (1 - (r / scale) ** 2) ** 2));
  }
  return fitted.map((f, i) => torque[i]! / f - 1);
}

/** A weighted local line at every point of the grid (Cleveland 1979): what `localPolynomial` finds of degree 1, with the weights looked up. */
function localLines(values: Float64Array, trust: Float64Array): Float64Array {
  return values.map((_, i) => {
    let s0 = 0;
    let s1 = 0;
    let s2 = 0;
    let t0 = 0;
    let t1 = 0;
    for (let j = max(0, i - COURSE_CELLS); j <= min(values.length - 1, i + COURSE_CELLS); j += 1) {
      const value = values[j]!;
      const w = COURSE_WEIGHTS[abs(j - i)]! * trust[j]!;
      if (!(w > 0) || !Number.isFinite(value)) continue;
      const d = (j - i) / COURSE_CELLS;
      s0 += w;
      s1 += w * d;
      s2 += w * d * d;
      t0 += w * value;
      t1 += w * d * value;
    }
    const spread = s0 * s2 - s1 * s1;
    return spread > 1e-12 * s0 * s0 ? (t0 * s2 - t1 * s1) / spread : t0 / s0;
  });
}
