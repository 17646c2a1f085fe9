import { repeatedSetup, STATE_FIELDS, type Job, type Pull, type Setup, type StateField } from '../job/job.ts';
import { mean, steady } from '../statistics/summary.ts';

/** A condition of the comparison in words. `lost` makes the pair not comparable. */
export interface ConditionFinding {
  readonly code: string;
  readonly severity: 'info' | 'warn' | 'lost';
  readonly text: string;
}

/** A measured condition of both sides with its limits, for the table "conditions match". SI or °C. */
export interface ConditionRow {
  readonly key: 'intakeStart' | 'air' | 'coolant' | 'oil' | 'factor' | 'rest' | 'drift';
  readonly label: string;
  readonly baseline: number | null;
  readonly candidate: number | null;
  readonly difference: number | null;
  readonly warnAt: number | null;
  readonly lostAt: number | null;
  readonly status: 'ok' | 'warn' | 'lost' | 'unknown';
}

/** A recorded state of baseline and candidate beside each other. */
export interface StateRow {
  readonly key: StateField | 'averagingRpm';
  readonly label: string;
  readonly baseline: string | null;
  readonly candidate: string | null;
  readonly status: 'same' | 'declared' | 'differs' | 'unknown';
}

/** A used pull with what the gates look at. */
export interface GatedPull {
  readonly pull: Pull;
  readonly side: number;
  readonly airC: number | null;
  readonly hasWeather: boolean;
  readonly factor: number | null;
  readonly startC: number | null;
  readonly hours: number;
}

export interface GateInput {
  readonly job: Job;
  readonly side: number;
  readonly candidateId: string;
  readonly pulls: readonly GatedPull[];
  readonly meantToChange: boolean;
  readonly drift: number | null;
  readonly windowShare: number;
  readonly settle: { readonly baseline: number; readonly candidate: number };
  readonly timesKnown: boolean;
}

/** What a state is called on screen and in findings. */
export const STATE_LABELS: Record<StateRow['key'], string> = {
  fuel: 'Fuel',
  tuneDigest: 'Tune',
  hood: 'Hood',
  fan: 'Fan',
  safeties: 'Engine safeties',
  controllerState: 'Controller',
  loadSetting: 'Load or ramp',
  tyrePressureKpa: 'Tyre pressure',
  gear: 'Gear',
  averagingRpm: 'Averaging of the source',
};

/** Words by which a change names a state. A fitted part that happens to bear the word does not name it. */
const NAMED_BY: Record<StateRow['key'], RegExp> = {
  fuel: /\b(fuel|octane|petrol|gasoline|diesel)\b/i,
  tuneDigest: /\b(re)?(tune|tuned|map|calibration)\b/i,
  hood: /\b(hood|bonnet)\b/i,
  fan: /\b(fan|fans)\b/i,
  safeties: /\bsafet(y|ies)\b/i,
  controllerState: /\b(controller|reset|learned|ecu)\b/i,
  loadSetting: /\b(load|ramp)\b/i,
  tyrePressureKpa: /\b(tyres?|tires?)\b/i,
  gear: /\bgear\b(?!\s*(oil|ratio|lube))/i,
  averagingRpm: /\baveraging\b/i,
};

/** The items of a setup's changes along its parents, down to but without the baseline. */
export function declaredChanges(setups: readonly Setup[], id: string, baseline: string): string[] {
  const items: string[] = [];
  const seen = new Set<string>();
  for (let at: string | null = id; at && at !== baseline && !seen.has(at);) {
    seen.add(at);
    const setup = setups.find((s) => s.id === at);
    if (!setup) break;
    items.unshift(
      ...setup.changes
        .split(/[;\n]/)
        .map((item) => item.trim())
        .filter(Boolean),
    );
    at = setup.parentId;
  }
  return items;
}

/** Whether one of the declared changes names a state. A fitted part that happens to bear the word does not. */
export function isDeclared(key: StateRow['key'], items: readonly string[]): boolean {
  return items.some((item) => !/^\s*part\b/i.test(item) && NAMED_BY[key].test(item));
}

/** State of baseline and candidate side by side: what is the same, declared, different, or not recorded. */
export function stateRows(
  job: Job,
  candidateId: string,
  baselinePulls: readonly Pull[],
  candidatePulls: readonly Pull[],
): StateRow[] {
  const { baselineSetup } = job.question;
  const members = (id: string) => job.setups.filter((s) => s.id === id || repeatedSetup(job.setups, s.id) === id);
  const items = members(candidateId).flatMap((s) => declaredChanges(job.setups, s.id, baselineSetup));
  const row = (key: StateRow['key'], base: string[], other: string[]): StateRow => {
    const baseline = joined(base);
    const candidate = joined(other);
    return {
      key,
      label: STATE_LABELS[key],
      baseline,
      candidate,
      status: compare(key, base, other, isDeclared(key, items)),
    };
  };
  const states = (id: string, key: StateField) =>
    members(id)
      .map((s) => s.state[key] ?? '')
      .filter((v) => v.trim() !== '');
  const read = (pulls: readonly Pull[], value: (p: Pull) => string | number | null) =>
    pulls
      .map(value)
      .filter((v) => v !== null && v !== '')
      .map(String);
  // The gear that a pull was made in speaks; before there are pulls, what was written down for the setup.
  const gears = (id: string, pulls: readonly Pull[]) => {
    const driven = read(pulls, (p) => p.gear);
    return driven.length > 0 ? driven : states(id, 'gear');
  };
  return [
    row('gear', gears(baselineSetup, baselinePulls), gears(candidateId, candidatePulls)),
    ...STATE_FIELDS.filter((key) => key !== 'gear').map((key) =>
      row(key, states(baselineSetup, key), states(candidateId, key)),
    ),
    row(
      'averagingRpm',
      read(baselinePulls, (p) => p.averagingRpm),
      read(candidatePulls, (p) => p.averagingRpm),
    ),
  ];
}

const plain = (value: string) => value.trim().toLowerCase().replace(/\s+/g, ' ');

function joined(values: readonly string[]): string | null {
  const distinct = values.filter((v, i) => values.findIndex((w) => plain(w) === plain(v)) === i);
  return distinct.length === 0 ? null : distinct.join(', ');
}

function compare(
  key: StateRow['key'],
  base: readonly string[],
  other: readonly string[],
  declared: boolean,
): StateRow['status'] {
  if (base.length === 0 || other.length === 0) return 'unknown';
  const same = [...base, ...other].every((v) => alike(key, v, base[0]!));
  return same ? 'same' : declared ? 'declared' : 'differs';
}

/** Tyre pressures within 5 kPa count as the same (judgement); everything else must read the same. */
export function alike(key: StateRow['key'], a: string, b: string): boolean {
  if (key === 'tyrePressureKpa' && Number.isFinite(Number(a)) && Number.isFinite(Number(b)))
    return Math.abs(Number(a) - Number(b)) <= 5;
  return plain(a) === plain(b);
}

/** All gates of a pair: the table rows, the state rows, and the findings that warn or decide. */
export function gates(input: GateInput): { findings: ConditionFinding[]; rows: ConditionRow[]; state: StateRow[] } {
  const { job, pulls, side } = input;
  const base = pulls.filter((p) => p.side === 0);
  const other = pulls.filter((p) => p.side === side);
  const findings: ConditionFinding[] = [];
  const add = (code: string, severity: ConditionFinding['severity'], text: string) =>
    findings.push({ code, severity, text });
  const average = (group: readonly GatedPull[], value: (p: GatedPull) => number | null) => {
    const known = group.map(value).filter((v) => v !== null);
    return known.length === 0 ? null : mean(known);
  };
  const rows: ConditionRow[] = [];
  const gate = (
    key: ConditionRow['key'],
    label: string,
    value: (p: GatedPull) => number | null,
    warnAt: number | null,
    lostAt: number | null,
    relative = false,
  ) => {
    const a = average(base, value);
    const b = average(other, value);
    const difference = a === null || b === null ? null : steady(relative ? (b / a - 1) * 100 : b - a);
    const size = difference === null ? 0 : Math.abs(difference);
    const status =
      difference === null
        ? 'unknown'
        : lostAt !== null && size > lostAt
          ? 'lost'
          : warnAt !== null && size >= warnAt
            ? 'warn'
            : 'ok';
    rows.push({ key, label, baseline: a, candidate: b, difference, warnAt, lostAt, status });
    if (status === 'warn' || status === 'lost') {
      const shown = `${Math.abs(difference!).toFixed(1)} ${relative ? '%' : '°C'}`;
      add(
        key,
        status,
        `${label} differs by ${shown}${status === 'lost' ? `; beyond ${lostAt} ${relative ? '%' : '°C'} the pair is not comparable` : ''}.`,
      );
    }
  };
  const cooling = input.meantToChange;
  if (cooling)
    rows.push({
      key: 'intakeStart',
      label: 'Intake air at start',
      baseline: average(base, (p) => p.startC),
      candidate: average(other, (p) => p.startC),
      difference: null,
      warnAt: null,
      lostAt: null,
      status: 'ok',
    });
  else
    gate(
      'intakeStart',
      'Intake air at start above the bay’s air',
      (p) => p.startC,
      4,
      job.vehicle.heatSensitive ? 4 : 8,
    );
  gate('air', 'Air in the bay', (p) => p.airC, 5.6, 10);
  gate('factor', 'Correction factor', (p) => p.factor, 1, 3, true);
  gate('coolant', 'Coolant at start', (p) => p.pull.coolantStartC, 5, cooling ? 10 : null);
  gate('oil', 'Oil at start', (p) => p.pull.oilStartC, 5, cooling ? 10 : null);
  restRow(base, other, rows);
  if (input.drift !== null) {
    const size = steady(Math.abs(input.drift));
    const status = size > 2 ? 'lost' : 'ok';
    rows.push({
      key: 'drift',
      label: 'Return check against the first round',
      baseline: null,
      candidate: null,
      difference: input.drift,
      warnAt: null,
      lostAt: 2,
      status,
    });
    if (status === 'lost')
      add(
        'drift',
        'lost',
        `The return check differs from the first round by ${size.toFixed(1)} %; beyond 2 % the day itself moved too far.`,
      );
  }
  const state = stateRows(
    job,
    input.candidateId,
    base.map((p) => p.pull),
    other.map((p) => p.pull),
  );
  for (const row of state) {
    if (row.status === 'differs')
      add(
        `state-${row.key}`,
        'lost',
        `${row.label} differs (${row.baseline} against ${row.candidate}) and is not a declared change.`,
      );
    if (row.status === 'unknown' && (row.baseline === null) !== (row.candidate === null))
      add(`state-${row.key}`, 'info', `${row.label} was recorded on one side only.`);
  }
  sideFindings(input, base, other, add);
  return { findings, rows, state };
}

function restRow(base: readonly GatedPull[], other: readonly GatedPull[], rows: ConditionRow[]): void {
  const rest = (group: readonly GatedPull[]) => {
    const gaps: number[] = [];
    for (const a of group) {
      const next = group.filter(
        (b) => b.pull.setupId === a.pull.setupId && b.pull.round === a.pull.round && b.hours > a.hours,
      );
      if (next.length > 0) gaps.push((Math.min(...next.map((b) => b.hours)) - a.hours) * 60);
    }
    return gaps.length === 0 ? null : mean(gaps);
  };
  const a = rest(base);
  const b = rest(other);
  const difference = a === null || b === null ? null : steady(b - a);
  rows.push({
    key: 'rest',
    label: 'Minutes from pull to pull',
    baseline: a,
    candidate: b,
    difference,
    warnAt: 3,
    lostAt: null,
    status: difference === null ? 'unknown' : Math.abs(difference) >= 3 ? 'warn' : 'ok',
  });
}

type Add = (code: string, severity: ConditionFinding['severity'], text: string) => void;

/** What one side has and the other lacks. */
function sideFindings(input: GateInput, base: readonly GatedPull[], other: readonly GatedPull[], add: Add): void {
  // A side without any pull has nothing to compare yet; that is too few pulls, not a difference.
  if (base.length === 0 || other.length === 0) return;
  const { job } = input;
  const weather = (group: readonly GatedPull[]) => group.length > 0 && group.every((p) => p.hasWeather);
  if (job.method.correction !== 'none') {
    if (weather(base) !== weather(other))
      add('weather-one-side', 'lost', 'The weather is known on one side only, so the two cannot be corrected alike.');
    else if (!weather(base))
      add(
        'no-weather',
        'warn',
        'No pressure and air temperature were recorded: the numbers are not weather-corrected.',
      );
  }
  const known = (group: readonly GatedPull[]) => group.filter((p) => p.pull.numberState.kind !== 'unknown').length;
  const used = base.length + other.length;
  const knownCount = known(base) + known(other);
  if (knownCount === 0 && used > 0)
    add(
      'unknown-numbers',
      'warn',
      'Nobody knows whether these numbers were already corrected: they are compared as they are.',
    );
  else if (knownCount < used)
    add(
      'unknown-one-side',
      'lost',
      'Some numbers may already be corrected or scaled and others are known: they cannot be compared.',
    );
  const { baseline, candidate } = input.settle;
  if ((baseline === 0) !== (candidate === 0))
    add('settle-one-side', 'lost', 'One side has settle pulls and the other none.');
  else if (baseline !== candidate)
    add('settle-counts', 'warn', 'The sides have different numbers of settle pulls a round.');
  if (steady(input.windowShare) < 0.8)
    add('window', 'lost', `The pulls share only ${(input.windowShare * 100).toFixed(0)} % of the declared window.`);
  if (!input.timesKnown)
    add('no-times', 'info', 'Start times are missing: pulls are taken 5 min apart in order, rounds 60 min apart.');
}
