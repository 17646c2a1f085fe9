import { repeatedSetup, STATE_FIELDS, type Job, type Pull, type Setup, type StateField } from '../job/job.ts';

/** A recorded state of baseline and candidate beside each other. */
export interface StateRow {
  readonly key: StateField | 'averagingRpm';
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

/**
 * The items of a setup's changes along its parents, down to but without the baseline.
 * @example declaredChanges([newSetup('A', 'x'), { ...newSetup('B', 'y', 'A'), changes: 'part fitted: pump; tune 4' }], 'B', 'A') // ['part fitted: pump', 'tune 4']
 */
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

/**
 * Whether one of the declared changes names a state. A fitted part that happens to bear the word does not.
 * @example isDeclared('fuel', ['fuel: 98 for 95']) // true
 */
export function isDeclared(key: StateRow['key'], items: readonly string[]): boolean {
  return items.some((item) => !/^\s*part\b/i.test(item) && NAMED_BY[key].test(item));
}

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
  const items = members(candidateId).flatMap((s) => declaredChanges(job.setups, s.id, baselineSetup));
  const row = (key: StateRow['key'], base: string[], other: string[]): StateRow => {
    const baseline = joined(base);
    const candidate = joined(other);
    return {
      key,
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

/**
 * Tyre pressures within 5 kPa count as the same (judgement); everything else must read the same.
 * @example alike('tyrePressureKpa', '220', '224') // true
 */
export function alike(key: StateRow['key'], a: string, b: string): boolean {
  if (key === 'tyrePressureKpa' && Number.isFinite(Number(a)) && Number.isFinite(Number(b)))
    return Math.abs(Number(a) - Number(b)) <= 5;
  return plain(a) === plain(b);
}
