import type { Job, Pull } from '../job/job.ts';
import { mean, steady } from '../statistics/summary.ts';
import {
  conditionFinding,
  type ConditionFinding,
  type ConditionFindingCode,
  type ConditionFindingParameters,
} from './conditionFindings.ts';
import { stateRows, type StateRow } from './states.ts';

/** A measured condition of both sides with its limits, for the table "conditions match". SI or °C. */
export interface ConditionRow {
  readonly key: 'intakeStart' | 'air' | 'coolant' | 'oil' | 'factor' | 'rest' | 'drift';
  readonly baseline: number | null;
  readonly candidate: number | null;
  readonly difference: number | null;
  readonly warnAt: number | null;
  readonly blockingAt: number | null;
  readonly status: 'ok' | 'warning' | 'blocking' | 'unknown';
}

/** What a measured condition is called. */
export const CONDITION_LABELS: Readonly<Record<ConditionRow['key'], string>> = {
  intakeStart: 'Intake air at start above the bay’s air',
  air: 'Air in the bay',
  coolant: 'Coolant at start',
  oil: 'Oil at start',
  factor: 'Correction factor',
  rest: 'Minutes from pull to pull',
  drift: 'Return check against the first round',
};

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

/**
 * All gates of a pair: the table rows, the state rows, and the findings that warn or decide.
 * @example gates({ job: newJob('1', 'x'), side: 1, candidateId: 'B', pulls: [], meantToChange: false, drift: 2.5, windowShare: 1, settle: { baseline: 2, candidate: 2 }, timesKnown: true }).findings[0].code // 'drifted-too-far'
 */
export function gates(input: GateInput): { findings: ConditionFinding[]; rows: ConditionRow[]; state: StateRow[] } {
  const { job, pulls, side } = input;
  const base = pulls.filter((p) => p.side === 0);
  const other = pulls.filter((p) => p.side === side);
  const findings: ConditionFinding[] = [];
  const add: Add = (code, severity, parameters) => findings.push(conditionFinding(code, severity, parameters));
  const average = (group: readonly GatedPull[], value: (p: GatedPull) => number | null) => {
    const known = group.map(value).filter((v) => v !== null);
    return known.length === 0 ? null : mean(known);
  };
  const rows: ConditionRow[] = [];
  const gate = (
    key: ConditionRow['key'],
    value: (p: GatedPull) => number | null,
    warnAt: number | null,
    blockingAt: number | null,
    relative = false,
  ) => {
    const a = average(base, value);
    const b = average(other, value);
    const difference = a === null || b === null ? null : steady(relative ? (b / a - 1) * 100 : b - a);
    const size = difference === null ? 0 : Math.abs(difference);
    const status =
      difference === null
        ? 'unknown'
        : blockingAt !== null && size > blockingAt
          ? 'blocking'
          : warnAt !== null && size >= warnAt
            ? 'warning'
            : 'ok';
    rows.push({ key, baseline: a, candidate: b, difference, warnAt, blockingAt, status });
    if (status === 'warning' || status === 'blocking') {
      add('condition-differs', status, {
        condition: key,
        difference: difference!,
        unit: relative ? '%' : '°C',
        blockingAt: blockingAt,
      });
    }
  };
  const cooling = input.meantToChange;
  if (cooling)
    rows.push({
      key: 'intakeStart',
      baseline: average(base, (p) => p.startC),
      candidate: average(other, (p) => p.startC),
      difference: null,
      warnAt: null,
      blockingAt: null,
      status: 'ok',
    });
  else gate('intakeStart', (p) => p.startC, 4, job.vehicle.heatSensitive ? 4 : 8);
  gate('air', (p) => p.airC, 5.6, 10);
  gate('factor', (p) => p.factor, 1, 3, true);
  gate('coolant', (p) => p.pull.coolantStartC, 5, cooling ? 10 : null);
  gate('oil', (p) => p.pull.oilStartC, 5, cooling ? 10 : null);
  restRow(base, other, rows);
  if (input.drift !== null) {
    const size = steady(Math.abs(input.drift));
    const status = size > 2 ? 'blocking' : 'ok';
    rows.push({
      key: 'drift',
      baseline: null,
      candidate: null,
      difference: input.drift,
      warnAt: null,
      blockingAt: 2,
      status,
    });
    if (status === 'blocking') add('drifted-too-far', 'blocking', { percent: size });
  }
  const state = stateRows(
    job,
    input.candidateId,
    base.map((p) => p.pull),
    other.map((p) => p.pull),
  );
  for (const row of state) {
    if (row.status === 'differs')
      add('state-differs', 'blocking', {
        state: row.key,
        baseline: row.baseline ?? '',
        candidate: row.candidate ?? '',
      });
    if (row.status === 'unknown' && (row.baseline === null) !== (row.candidate === null))
      add('state-on-one-side', 'info', { state: row.key });
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
    baseline: a,
    candidate: b,
    difference,
    warnAt: 3,
    blockingAt: null,
    status: difference === null ? 'unknown' : Math.abs(difference) >= 3 ? 'warning' : 'ok',
  });
}

type Add = <Code extends ConditionFindingCode>(
  code: Code,
  severity: ConditionFinding['severity'],
  parameters: ConditionFindingParameters[Code],
) => void;

/** What one side has and the other lacks. */
function sideFindings(input: GateInput, base: readonly GatedPull[], other: readonly GatedPull[], add: Add): void {
  // A side without any pull has nothing to compare yet; that is too few pulls, not a difference.
  if (base.length === 0 || other.length === 0) return;
  const { job } = input;
  const weather = (group: readonly GatedPull[]) => group.length > 0 && group.every((p) => p.hasWeather);
  if (job.method.correction !== 'none') {
    if (weather(base) !== weather(other)) add('weather-one-side', 'blocking', {});
    else if (!weather(base)) add('no-weather', 'warning', {});
  }
  const known = (group: readonly GatedPull[]) => group.filter((p) => p.pull.numberState.kind !== 'unknown').length;
  const used = base.length + other.length;
  const knownCount = known(base) + known(other);
  if (knownCount === 0 && used > 0) add('unknown-numbers', 'warning', {});
  else if (knownCount < used) add('unknown-one-side', 'blocking', {});
  const { baseline, candidate } = input.settle;
  if ((baseline === 0) !== (candidate === 0)) add('settle-one-side', 'blocking', {});
  else if (baseline !== candidate) add('settle-counts', 'warning', {});
  if (steady(input.windowShare) < 0.8) add('window', 'blocking', { sharedPercent: input.windowShare * 100 });
  if (!input.timesKnown) add('no-times', 'info', {});
}
