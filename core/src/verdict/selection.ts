import {
  pullNames,
  pullsInOrder,
  repeatedSetup,
  type Job,
  type Pull,
  type PullKind,
  type RoadPass,
} from '../job/job.ts';
import { isOfRollOns } from '../measures/declaredMeasure.ts';
import { kindOf } from '../pull/pullKind.ts';
import { PLAUSIBLE } from '../job/plausible.ts';
import { pullWeather, type PullWeather } from '../job/weather.ts';
import { pullCurve } from '../pull/curve.ts';
import { handStart, withHandReadings } from '../measures/handReadings.ts';
import type { PullReadings } from '../measures/channelReadings.ts';
import type { PreparedPull } from '../pull/preparedPulls.ts';
import { finding, type PullFinding } from '../pull/findings.ts';
import { atGrid, fromRpm, GRID_STEP_RPM, scaled, toRpm, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { median, steady } from '../statistics/summary.ts';

/** A counted pull covering less of the declared window than this is cut short. */
const LEAST_COVERAGE = 0.95;

/** Why a pull does not enter the fit. */
export type NotUsed =
  | { readonly code: 'settle' | 'outside-question' | 'other-kind' }
  | { readonly code: 'set-aside'; readonly reason: string | null }
  | { readonly code: 'finding'; readonly finding: PullFinding };

/** A pull on its way into the fit: corrected curve, side, time, start temperature. */
export interface Candidate {
  readonly pull: Pull;
  /** Of a pass on the road, which has no curve. */
  readonly pass?: RoadPass;
  readonly name: string;
  /** 0 baseline, 1… candidates in the order of the question, null for a setup outside the question. */
  readonly side: number | null;
  readonly weather: PullWeather;
  readonly uncorrected: GridCurve;
  readonly power: GridCurve;
  readonly factor: number | null;
  readonly hours: number;
  readonly startC: number | null;
  /** Of its channels. */
  readonly readings: PullReadings;
  readonly findings: PullFinding[];
  notUsedBecause: NotUsed | null;
}

export interface Selection {
  readonly all: readonly Candidate[];
  readonly used: readonly Candidate[];
  /** Counted roll-ons in which a throttle opens, where the question is asked of them. */
  readonly rollOns: readonly Candidate[];
  readonly declaredWindow: readonly [number, number] | null;
  readonly window: readonly [number, number] | null;
  /** Share of the declared window that the pulls share. */
  readonly windowShare: number;
  readonly timesKnown: boolean;
  readonly airKnown: boolean;
  readonly corrected: boolean;
}

/**
 * 0 the baseline and its return checks, 1… the candidates in the order of the question, null outside it.
 * @example sideOfSetup(newJob('1', 'x'), 'B') // 1
 */
export function sideOfSetup({ setups, question }: Job, setupId: string): number | null {
  const side = [question.baselineSetup, ...question.candidateSetups].indexOf(repeatedSetup(setups, setupId));
  return side < 0 ? null : side;
}

/** Chooses the pulls that enter the fit, and says of every other why not. */
export function selectPulls(job: Job, prepared: readonly PreparedPull[]): Selection {
  const ordered = pullsInOrder(job.pulls);
  const names = pullNames(job.pulls);
  const { hours, timesKnown } = pullHours(job, ordered);
  const weather = new Map(ordered.map((pull) => [pull.id, pullWeather(job, pull)]));
  const sideOf = (pull: Pull) => sideOfSetup(job, pull.setupId);
  const counted = ordered.filter((pull) => pull.status === 'counted' && sideOf(pull) !== null);
  const corrected = correctable(counted, weather, sideOf, job);
  const airKnown = counted.length > 0 && counted.every((pull) => weather.get(pull.id)!.airC !== null);
  const hand = job.readings ?? [];
  const own = new Map(prepared.map((p) => [p.pull.id, p]));
  const ids = job.question.measures.map(({ id }) => id);
  // Kinds are never averaged together; a hold is only looked at.
  const asked: PullKind[] = [...(ids.some(isOfRollOns) ? (['roll-on'] as const) : []), 'sweep'];
  const all = ordered.map((pull): Candidate => {
    const air = weather.get(pull.id)!;
    const startC = pull.intakeStartC ?? handStart(hand, pull.id, 'intake_c');
    const curve = pullCurve(own.get(pull.id)!, job.method.averagingWidthRpm);
    const factor = corrected && pull.numberState.kind !== 'unknown' ? (air.factor?.factor ?? null) : null;
    const findings = [...curve.findings];
    if (corrected && air.factor && air.factor.outside.length > 0) {
      findings.push(finding('outside-validity', 'info', { quantities: air.factor.outside }));
    }
    return {
      pull,
      name: names.get(pull.id)!,
      side: sideOf(pull),
      weather: air,
      uncorrected: curve.power,
      power: scaled(curve.power, factor ?? 1),
      factor,
      hours: hours.get(pull.id)!,
      startC: startC === null ? null : airKnown ? startC - (air.airC ?? 0) : startC,
      readings: withHandReadings(own.get(pull.id)!.readings, pull, hand),
      findings,
      notUsedBecause: notCounted(pull, sideOf(pull), asked),
    };
  });
  leaveOutRepeated(all, own);
  for (const c of all)
    if (c.notUsedBecause === null && kindOf(c.pull) === 'roll-on' && !c.readings.rollOn)
      drop(c, finding('no-throttle-step', 'blocking', {}));
  const rollOns = all.filter((c) => c.notUsedBecause === null && kindOf(c.pull) === 'roll-on');
  return { all, rollOns, ...throughWindow(job, all, corrected), timesKnown, airKnown, corrected };
}

function notCounted(pull: Pull, side: number | null, asked: readonly PullKind[]): NotUsed | null {
  if (pull.status === 'settle') return { code: 'settle' };
  if (pull.status === 'set-aside') return { code: 'set-aside', reason: pull.reason };
  if (side === null) return { code: 'outside-question' };
  return asked.includes(kindOf(pull)) ? null : { code: 'other-kind' };
}

/** The same samples under another name are no second pull of a side: counted twice they would narrow its interval for nothing. */
function leaveOutRepeated(all: readonly Candidate[], prepared: ReadonlyMap<string, PreparedPull>): void {
  const seen = new Map<string, Candidate>();
  for (const c of all.filter(({ notUsedBecause }) => notUsedBecause === null)) {
    const { fingerprint } = prepared.get(c.pull.id)!;
    if (fingerprint === null) continue;
    const key = `${c.side} ${fingerprint}`;
    const twin = seen.get(key);
    if (twin) drop(c, finding('repeated-samples', 'blocking', { twin: twin.name }));
    else seen.set(key, c);
  }
}

/** Whether the fit is weather-corrected: every side has pulls with weather, or there is nothing to correct. */
function correctable(
  counted: readonly Pull[],
  weather: Map<string, PullWeather>,
  sideOf: (p: Pull) => number | null,
  job: Job,
): boolean {
  if (job.method.correction === 'none') return false;
  const sides = [...new Set(counted.map(sideOf))];
  return (
    sides.length > 0 &&
    sides.every((side) => counted.some((p) => sideOf(p) === side && weather.get(p.id)!.factor !== null))
  );
}

/** Leaves out pulls without power, without weather among corrected ones, and those cut short; then finds the common window. */
function throughWindow(job: Job, all: readonly Candidate[], corrected: boolean) {
  const usable = () => all.filter((c) => c.notUsedBecause === null && kindOf(c.pull) === 'sweep');
  for (const c of usable()) {
    if (c.power.values.length < 2) drop(c, finding('no-power', 'blocking', { why: 'no-usable-curve' }));
    else if (corrected && !c.weather.factor) drop(c, finding('no-weather', 'warning', {}));
  }
  const declaredWindow = job.question.windowRpm ?? usualWindow(usable());
  if (!declaredWindow) return { used: [], declaredWindow: null, window: null, windowShare: 0 };
  const [low, high] = declaredWindow;
  const everyone = shared(usable(), declaredWindow);
  for (const c of usable()) {
    const share = coverage(c.power, low, high);
    if (steady(share) < LEAST_COVERAGE) {
      drop(
        c,
        finding(
          'cut-short',
          'warning',
          { coveredPercent: share * 100, windowRpm: declaredWindow },
          fromRpm(c.power),
          toRpm(c.power),
        ),
      );
    }
  }
  const window = shared(usable(), declaredWindow);
  for (const c of usable()) {
    const value = windowMean(c.power, window[0], window[1]);
    if (!(value > 0) || !Number.isFinite(value)) drop(c, finding('hole', 'warning', { where: 'window-mean' }));
  }
  const used = usable();
  const span =
    used.length > 0 &&
    sidesLeft(used) === sidesLeft(all.filter((c) => c.pull.status === 'counted' && kindOf(c.pull) === 'sweep'))
      ? window
      : everyone;
  return {
    used,
    declaredWindow,
    window: used.length > 0 ? window : null,
    windowShare: Math.max(0, span[1] - span[0]) / (high - low),
  };
}

function sidesLeft(group: readonly Candidate[]): number {
  return new Set(group.map((c) => c.side).filter((side) => side !== null)).size;
}

function drop(c: Candidate, why: PullFinding): void {
  if (!c.findings.some((f) => f.code === why.code)) c.findings.push(why);
  c.notUsedBecause = { code: 'finding', finding: why };
}

function shared(group: readonly Candidate[], [low, high]: readonly [number, number]): [number, number] {
  return [Math.max(low, ...group.map((c) => fromRpm(c.power))), Math.min(high, ...group.map((c) => toRpm(c.power)))];
}

function coverage(curve: GridCurve, low: number, high: number): number {
  let inside = 0;
  let total = 0;
  const last = Math.min(high, PLAUSIBLE.engineRpm.high);
  for (let k = Math.max(0, Math.ceil(low / GRID_STEP_RPM)); k * GRID_STEP_RPM <= last; k += 1) {
    total += 1;
    if (Number.isFinite(atGrid(curve, k))) inside += 1;
  }
  return total === 0 ? 0 : inside / total;
}

/** Where nobody declared a window: the range that the pulls usually cover. */
function usualWindow(group: readonly Candidate[]): [number, number] | null {
  if (group.length === 0) return null;
  const round = (value: number, up: boolean) => (up ? Math.ceil : Math.floor)(value / GRID_STEP_RPM) * GRID_STEP_RPM;
  const low = round(median(group.map((c) => fromRpm(c.power))), true);
  const high = round(median(group.map((c) => toRpm(c.power))), false);
  return high > low ? [low, high] : null;
}

/** Without start times: minutes from pull to pull, and from the start of a round's last pull to that of the next round's first. */
const PULL_MIN = 5;
const ROUND_MIN = 90;

/** Hours of every pull since the first; where a counted pull has no start time, by round and position for the whole job. */
function pullHours(job: Job, ordered: readonly Pull[]): { hours: Map<string, number>; timesKnown: boolean } {
  const hours = new Map<string, number>();
  const inQuestion = ordered.filter((p) => p.status === 'counted');
  if (inQuestion.every((p) => p.startedAt !== null)) {
    const start = Math.min(...ordered.filter((p) => p.startedAt).map((p) => Date.parse(p.startedAt!)));
    for (const pull of ordered)
      hours.set(pull.id, pull.startedAt ? (Date.parse(pull.startedAt) - start) / 3_600_000 : NaN);
    return { hours, timesKnown: true };
  }
  const place = (id: string) => job.setups.findIndex((setup) => setup.id === id);
  const byRound = [...ordered].sort(
    (a, b) => a.round - b.round || place(a.setupId) - place(b.setupId) || a.position - b.position,
  );
  let minutes = 0;
  byRound.forEach((pull, i) => {
    const before = byRound[i - 1];
    if (before)
      minutes +=
        before.setupId === pull.setupId && before.round === pull.round
          ? PULL_MIN * Math.max(1, pull.position - before.position)
          : ROUND_MIN + PULL_MIN * (pull.position - 1);
    hours.set(pull.id, minutes / 60);
  });
  return { hours, timesKnown: false };
}
