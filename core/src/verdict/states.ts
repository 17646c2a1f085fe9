import { statesDeclared, type DeclarableState } from '../job/changes.ts';
import { repeatedSetup, STATE_FIELDS, type Job, type Pull, type StateField } from '../job/job.ts';

/** A recorded state of baseline and candidate beside each other. */
export interface StateRow {
  readonly key: DeclarableState;
  readonly baseline: string | null;
  readonly candidate: string | null;
  readonly status: 'same' | 'declared' | 'differs' | 'unknown';
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

/**
 * State of baseline and candidate side by side: what is the same, declared, different, or not recorded.
 * @example stateRows(newJob('1', 'x'), 'B', [], [])[0].status // 'unknown'
 */
export function stateRows(
  job: Job,
  candidateId: string,
  baselinePulls: readonly Pull[],
  candidatePulls: readonly Pull[],
): StateRow[] {
  const { baselineSetup } = job.question;
  const members = (id: string) => job.setups.filter((s) => s.id === id || repeatedSetup(job.setups, s.id) === id);
  const onPurpose = members(candidateId).flatMap((s) => statesDeclared(job.setups, s.id, baselineSetup));
  const row = (key: StateRow['key'], base: string[], other: string[]): StateRow => {
    const baseline = joined(base);
    const candidate = joined(other);
    return {
      key,
      baseline,
      candidate,
      status: compare(key, base, other, onPurpose.includes(key)),
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

/**
 * Tyre pressures within 5 kPa count as the same (judgement); everything else must read the same.
 * @example alike('tyrePressureKpa', '220', '224') // true
 */
export function alike(key: StateRow['key'], a: string, b: string): boolean {
  if (key === 'tyrePressureKpa' && Number.isFinite(Number(a)) && Number.isFinite(Number(b)))
    return Math.abs(Number(a) - Number(b)) <= 5;
  return plain(a) === plain(b);
}
