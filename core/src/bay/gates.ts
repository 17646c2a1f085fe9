import { airDensityKgM3, densityAltitudeM, type Air } from '../air/air.ts';
import { correctionFactor } from '../correction/standards.ts';
import type { CoolDownForecast } from '../heat/coolDown.ts';
import type { Method } from '../job/job.ts';
import { school, tolerance } from './houseMethod.ts';
import type { ModelCard } from './jobDay.ts';

/** A live value and how many real seconds ago it was heard. */
export interface LiveValue {
  readonly value: number;
  readonly ageS: number;
}
export const LIVE_KEYS = ['airC', 'pressureHpa', 'relativeHumidity', 'intakeC', 'coolantC', 'oilC'] as const;
export type LiveKey = (typeof LIVE_KEYS)[number];
export type LiveReadings = Readonly<Partial<Record<LiveKey, LiveValue>>>;

/** The conditions a pull must match: those of the baseline pull at the same position. */
export interface GateBaseline {
  readonly pullName: string;
  readonly airC: number | null;
  readonly factor: number | null;
  readonly intakeAboveAirC: number | null;
  readonly coolantC: number | null;
  readonly oilC: number | null;
  readonly densityAltitudeM: number | null;
}

/** A condition that is set, not measured: fan, hood, gear. */
export interface SetPoint {
  readonly key: string;
  readonly label: string;
  readonly baseline: string | null;
  readonly now: string | null;
  /** Part of the declared change. */
  readonly declared: boolean;
}

export interface BayGateInput {
  readonly method: Method;
  readonly sensors: ModelCard['sensors'];
  /** What the bay has instruments for; what nothing can read is never waited for. Both, unless said otherwise. */
  readonly hears?: { readonly weather: boolean; readonly car: boolean };
  readonly readings: LiveReadings;
  readonly baseline: GateBaseline | null;
  /** Seconds of bay time since the last pull of this round ended; null before its first pull. */
  readonly sinceLastPullS: number | null;
  /** A fade is asked about: minutes from pull to pull that every round keeps to. */
  readonly fixedPauseMin?: number | null;
  /** Seconds of bay time since the last pull on any setup, for the cool-down before a new one; null without one. */
  readonly sinceOtherSetupS: number | null;
  readonly coolDownS: number;
  /** The hold plan makes this round the second of a pair: seconds that it waits at least and should wait at most. */
  readonly pairHoldS?: readonly [number, number] | null;
  readonly forecasts: Readonly<Partial<Record<'intakeC' | 'coolantC' | 'oilC', CoolDownForecast>>>;
  readonly setPoints: readonly SetPoint[];
  readonly rollersSilent: boolean;
  /** The next pull is a settle pull: what is too cold may start, because settling is what warms it. */
  readonly settling: boolean;
  /** Place of the next pull in its round, from 1. */
  readonly position: number;
  /** The gate was open a moment ago: it does not close again for the last digit of a sensor. */
  readonly wasOpen: boolean;
}

export type GateState = 'inside' | 'outside' | 'warn' | 'no-signal' | 'no-baseline' | 'differs';

/** Findings that need no more than their code. */
export type PlainGateCode =
  | 'in-window'
  | 'sets-baseline'
  | 'by-hand'
  | 'first-of-round'
  | 'no-weather'
  | 'not-recorded'
  | 'as-baseline'
  | 'declared-change'
  | 'drifting'
  | 'drifted-too-far'
  | 'cold-before-settling'
  | 'too-soon'
  | 'long-pause'
  | 'cool-down'
  | 'pair-hold'
  | 'pair-hold-over';

/** What is found of a condition. Sentences are made of it in the presentation. */
export type GateFinding =
  | { readonly code: PlainGateCode }
  /** The method holds temperatures at the first pull of a round only. */
  | { readonly code: 'not-held'; readonly pause: string }
  /** Seconds since the sensor was heard; null: never. */
  | { readonly code: 'no-signal'; readonly ageS: number | null }
  /** °C above the window, and whether waiting alone brings it back. */
  | { readonly code: 'too-warm'; readonly byC: number; readonly recovery: 'forecast' | 'reading' | 'not-on-its-own' }
  /** °C below the window. */
  | { readonly code: 'too-cold'; readonly byC: number }
  | { readonly code: 'set-point-differs'; readonly to: string };

/** One row of the gate rail. Order is fixed, so that a place means a condition. */
export interface GateRow {
  readonly key: string;
  readonly label: string;
  readonly unit: string;
  readonly value: number | null;
  readonly low: number | null;
  readonly high: number | null;
  readonly baseline: number | null;
  /** Words of a set-point: as the baseline had it, and now. */
  readonly slot: { readonly baseline: string | null; readonly now: string | null } | null;
  readonly state: GateState;
  readonly finding: GateFinding;
  /** Seconds until this row is met by waiting; null when waiting alone does not do it, or is not needed. */
  readonly waitS: number | null;
}

/** After this many seconds without a word a sensor counts as lost. */
export const STALE_S = 30;
/** Car sensors count in whole degrees; an open gate is held open over half of one. Judgement. */
const OPEN_SLACK_C = 0.6;
/** Beyond these a day is lost, not only warned of (docs/method.md, gates: 10 °C of air, 3 % of the factor). */
const LOST_AIR_C = 10;
const LOST_FACTOR_PERCENT = 3;

/**
 * Every condition of the next pull against the baseline at the same position.
 * @example gateRows({ method: DEFAULT_METHOD, sensors: { intake: false, coolant: false, oil: false }, readings: {}, baseline: null, sinceLastPullS: null, sinceOtherSetupS: null, coolDownS: 900, forecasts: {}, setPoints: [], rollersSilent: false, settling: false, position: 1, wasOpen: false }).map((r) => r.key) // ['interval', 'air', 'factor']
 */
export function gateRows(input: BayGateInput): GateRow[] {
  const { method, sensors, readings, baseline } = input;
  const air = airNow(readings);
  const { weather, car } = input.hears ?? { weather: true, car: true };
  const rows: GateRow[] = [];
  if (car && sensors.intake)
    rows.push(temperatureRow(input, 'intakeC', 'Intake air, start', tolerance(method, 'intakeC')));
  if (car && sensors.coolant) rows.push(temperatureRow(input, 'coolantC', 'Coolant', tolerance(method, 'coolantC')));
  if (car && sensors.oil) rows.push(temperatureRow(input, 'oilC', 'Oil', tolerance(method, 'oilC')));
  rows.push(intervalRow(input));
  if (!weather) return [...rows, byHand('air', 'Air in the bay', '°C'), ...input.setPoints.map(setPointRow)];
  rows.push(airRow(readings, baseline, tolerance(method, 'airDriftC')));
  rows.push(factorRow(method, air, baseline));
  if (tolerance(method, 'densityAltitudeDriftM') > 0)
    rows.push(altitudeRow(air, baseline, tolerance(method, 'densityAltitudeDriftM')));
  for (const point of input.setPoints) rows.push(setPointRow(point));
  return rows;
}

/** A condition that the bay cannot read: it is read by hand, and typed at the desk. */
function byHand(key: string, label: string, unit: string): GateRow {
  return { ...EMPTY, key, label, unit, value: null, state: 'no-baseline', finding: found('by-hand') };
}

function fresh(value: LiveValue | undefined): number | null {
  return value && value.ageS <= STALE_S && Number.isFinite(value.value) ? value.value : null;
}

/**
 * The bay's air as it is now; null while pressure or temperature is silent. Humidity 50 % where nobody measures it.
 * @example airNow({}) // null
 */
export function airNow(readings: LiveReadings): Air | null {
  const pressureHpa = fresh(readings.pressureHpa);
  const airC = fresh(readings.airC);
  if (pressureHpa === null || airC === null) return null;
  return { pressureHpa, airC, relativeHumidity: fresh(readings.relativeHumidity) ?? 0.5 };
}

const EMPTY = { low: null, high: null, baseline: null, slot: null, waitS: null } as const;

function found(code: PlainGateCode): GateFinding {
  return { code };
}

function temperatureRow(
  { method, readings, baseline, forecasts, settling, wasOpen, position, fixedPauseMin }: BayGateInput,
  key: 'intakeC' | 'coolantC' | 'oilC',
  label: string,
  within: number,
): GateRow {
  const value = fresh(readings[key]);
  const row = { ...EMPTY, key, label, unit: '°C', value };
  if (value === null) return { ...row, state: 'no-signal', finding: lost(readings[key]) };
  const air = fresh(readings.airC);
  const known =
    key === 'intakeC' ? baseline?.intakeAboveAirC : key === 'coolantC' ? baseline?.coolantC : baseline?.oilC;
  // The intake is held to the baseline's height above the bay's air, and so follows the weather.
  const wanted =
    known === null || known === undefined ? null : key !== 'intakeC' ? known : air === null ? null : air + known;
  if (wanted === null) return { ...row, state: 'no-baseline', finding: found('sets-baseline') };
  const low = wanted - within;
  const high = wanted + within;
  const full = { ...row, low, high, baseline: wanted };
  // Without a pause, or with a fixed one, the round starts alike and then heats as it will, both setups alike.
  const pause = fixedPauseMin ? 'fixed' : school(method, 'pause');
  if (pause !== 'gates' && position > 1 && (value < low || value > high))
    return { ...full, state: 'inside', finding: { code: 'not-held', pause } };
  const slack = wasOpen ? OPEN_SLACK_C : 0;
  if (value > high + slack) {
    const forecast = forecasts[key];
    const finding: GateFinding = { code: 'too-warm', byC: value - high, recovery: recoveryOf(forecast) };
    return { ...full, state: 'outside', finding, waitS: forecast?.kind === 'forecast' ? forecast.seconds : null };
  }
  if (value < low - slack && settling) return { ...full, state: 'warn', finding: found('cold-before-settling') };
  if (value < low - slack) return { ...full, state: 'outside', finding: { code: 'too-cold', byC: low - value } };
  return { ...full, state: 'inside', finding: found('in-window') };
}

/** Whether waiting alone brings a temperature back, as far as its recovery has told. */
function recoveryOf(forecast: CoolDownForecast | undefined): 'forecast' | 'reading' | 'not-on-its-own' {
  return forecast?.kind === 'forecast' || forecast?.kind === 'not-on-its-own' ? forecast.kind : 'reading';
}

/** A fixed pause is kept to within so many minutes, about what a pull itself takes. Judgement, no source. */
const PAUSE_SLACK_MIN = 0.75;

function intervalRow(input: BayGateInput): GateRow {
  const { method, sinceLastPullS, sinceOtherSetupS, coolDownS, pairHoldS, fixedPauseMin } = input;
  const row = { ...EMPTY, key: 'interval', label: 'Since last pull', unit: 'min' };
  if (sinceLastPullS === null) {
    if (pairHoldS && sinceOtherSetupS !== null) return holdRow(row, sinceOtherSetupS, pairHoldS);
    if (sinceOtherSetupS !== null && sinceOtherSetupS < coolDownS)
      return {
        ...row,
        value: sinceOtherSetupS / 60,
        low: coolDownS / 60,
        state: 'outside',
        finding: found('cool-down'),
        waitS: coolDownS - sinceOtherSetupS,
      };
    return { ...row, value: null, state: 'inside', finding: found('first-of-round') };
  }
  const low = fixedPauseMin ? Math.max(0, fixedPauseMin - PAUSE_SLACK_MIN) : tolerance(method, 'intervalLeastMin');
  const high = fixedPauseMin ? fixedPauseMin + PAUSE_SLACK_MIN : tolerance(method, 'intervalMostMin');
  const value = sinceLastPullS / 60;
  const full = { ...row, value, low, high };
  if (value < low) return { ...full, state: 'outside', finding: found('too-soon'), waitS: low * 60 - sinceLastPullS };
  if (value > high) return { ...full, state: 'warn', finding: found('long-pause') };
  return { ...full, state: 'inside', finding: found('in-window') };
}

/** The two rounds of a pair are held apart, so that what the day does by itself between them shows. */
function holdRow(
  row: Omit<GateRow, 'state' | 'finding' | 'value'>,
  since: number,
  [least, most]: readonly [number, number],
): GateRow {
  const full = { ...row, value: since / 60, low: least / 60, high: most / 60 };
  if (since < least) return { ...full, state: 'outside', finding: found('pair-hold'), waitS: least - since };
  if (since > most) return { ...full, state: 'warn', finding: found('pair-hold-over') };
  return { ...full, state: 'inside', finding: found('in-window') };
}

function airRow(readings: LiveReadings, baseline: GateBaseline | null, within: number): GateRow {
  const value = fresh(readings.airC);
  const row = { ...EMPTY, key: 'air', label: 'Air in the bay', unit: '°C', value };
  if (value === null) return { ...row, state: 'no-signal', finding: lost(readings.airC) };
  if (baseline?.airC === null || baseline?.airC === undefined)
    return { ...row, state: 'no-baseline', finding: found('sets-baseline') };
  const full = { ...row, low: baseline.airC - within, high: baseline.airC + within, baseline: baseline.airC };
  return drifted(full, Math.abs(value - baseline.airC), within, LOST_AIR_C);
}

function factorRow(method: Method, air: Air | null, baseline: GateBaseline | null): GateRow {
  const row = { ...EMPTY, key: 'factor', label: 'Correction drift', unit: '%' };
  if (air === null) return { ...row, value: null, state: 'no-signal', finding: found('no-weather') };
  if (!baseline?.factor) return { ...row, value: null, state: 'no-baseline', finding: found('sets-baseline') };
  const id = method.correction === 'iso-1585-ci' ? 'sae-j1349' : method.correction;
  const value = 100 * (correctionFactor(id, air).factor / baseline.factor - 1);
  const within = tolerance(method, 'factorDriftPercent');
  return drifted(
    { ...row, value, low: -within, high: within, baseline: 0 },
    Math.abs(value),
    within,
    LOST_FACTOR_PERCENT,
  );
}

function altitudeRow(air: Air | null, baseline: GateBaseline | null, within: number): GateRow {
  const row = { ...EMPTY, key: 'altitude', label: 'Density altitude', unit: 'm' };
  if (air === null) return { ...row, value: null, state: 'no-signal', finding: found('no-weather') };
  const value = densityAltitudeM(airDensityKgM3(air));
  const wanted = baseline?.densityAltitudeM ?? null;
  if (wanted === null) return { ...row, value, state: 'no-baseline', finding: found('sets-baseline') };
  const full = { ...row, value, low: wanted - within, high: wanted + within, baseline: wanted };
  return drifted(full, Math.abs(value - wanted), within, Infinity);
}

function drifted(row: Omit<GateRow, 'state' | 'finding'>, by: number, warn: number, lost: number): GateRow {
  if (by > lost) return { ...row, state: 'outside', finding: found('drifted-too-far') };
  if (by > warn) return { ...row, state: 'warn', finding: found('drifting') };
  return { ...row, state: 'inside', finding: found('in-window') };
}

function setPointRow({ key, label, baseline, now, declared }: SetPoint): GateRow {
  const row = { ...EMPTY, key, label, unit: '', value: null, slot: { baseline, now } };
  if (baseline === null || now === null) return { ...row, state: 'no-baseline', finding: found('not-recorded') };
  if (baseline === now) return { ...row, state: 'inside', finding: found('as-baseline') };
  return declared
    ? { ...row, state: 'inside', finding: found('declared-change') }
    : { ...row, state: 'differs', finding: { code: 'set-point-differs', to: baseline } };
}

function lost(value: LiveValue | undefined): GateFinding {
  return { code: 'no-signal', ageS: value?.ageS ?? null };
}

/** What the run sheet shows huge, with the reason and, when waiting helps, the time. */
export interface GateVerdict {
  readonly state: 'ready' | 'hold' | 'cooling' | 'blocked' | 'sensor-lost';
  readonly waitS: number | null;
  readonly reasons: readonly GateReason[];
}

/** Why a gate is not open, or what stands beside an open one: what was found of a condition, or that the rollers say nothing. */
export type GateReason =
  | { readonly kind: 'condition'; readonly key: string; readonly label: string; readonly finding: GateFinding }
  | { readonly kind: 'rollers-silent' };

/**
 * The longest wait drives the countdown; a set-point that differs blocks; a lost sensor is never READY.
 * @example gateVerdict([]).state // 'ready'
 */
export function gateVerdict(rows: readonly GateRow[], rollersSilent = false): GateVerdict {
  const say = (state: GateState): GateReason[] =>
    rows
      .filter((r) => r.state === state)
      .map(({ key, label, finding }) => ({ kind: 'condition', key, label, finding }));
  if (rollersSilent) return { state: 'sensor-lost', waitS: null, reasons: [{ kind: 'rollers-silent' }] };
  if (rows.some((r) => r.state === 'no-signal'))
    return { state: 'sensor-lost', waitS: null, reasons: say('no-signal') };
  if (rows.some((r) => r.state === 'differs')) return { state: 'blocked', waitS: null, reasons: say('differs') };
  const outside = rows.filter((r) => r.state === 'outside');
  if (outside.length === 0) return { state: 'ready', waitS: null, reasons: say('warn') };
  const known = outside.every((r) => r.waitS !== null);
  const waitS = known ? Math.max(...outside.map((r) => r.waitS!)) : null;
  const reading = outside.every(
    (r) => r.waitS !== null || (r.finding.code === 'too-warm' && r.finding.recovery === 'reading'),
  );
  const planned = outside.every((r) => r.key === 'interval');
  return { state: (reading && !known) || planned ? 'cooling' : 'hold', waitS, reasons: say('outside') };
}
