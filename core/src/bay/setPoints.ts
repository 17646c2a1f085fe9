import { statesDeclared } from '../job/changes.ts';
import { STATE_FIELDS, type Job, type StateField } from '../job/job.ts';
import { alike, STATE_LABELS } from '../verdict/states.ts';
import type { SetPoint } from './gates.ts';

/** What is set by hand in front of every pull and always has its place on the rail. */
const ALWAYS: readonly StateField[] = ['fan', 'hood'];

/**
 * The recorded states of the setup on the car against the baseline's. Fan and hood are always told where somebody recorded
 * them; the others only when they differ without being the declared change.
 * @example setPointsOf(newJob('1', 'x'), 'A') // []
 */
export function setPointsOf(job: Job, setupId: string): SetPoint[] {
  const baseline = job.setups.find((s) => s.id === job.question.baselineSetup);
  const setup = job.setups.find((s) => s.id === setupId);
  // A return check repeats its original: nothing about it is a declared change.
  const onPurpose = setup?.returnsTo ? [] : statesDeclared(job.setups, setupId, job.question.baselineSetup);
  return [...ALWAYS, ...STATE_FIELDS.filter((key) => !ALWAYS.includes(key))].flatMap((key) => {
    const [before, now] = [baseline?.state[key] ?? null, setup?.state[key] ?? null];
    if (before === null && now === null) return [];
    const same = before !== null && now !== null && alike(key, before, now);
    const declared = onPurpose.includes(key);
    if (!ALWAYS.includes(key) && (same || declared || before === null || now === null)) return [];
    return [{ key, label: STATE_LABELS[key], baseline: before, now: same ? before : now, declared }];
  });
}

/**
 * The job after somebody set a state of a setup as the baseline had it; the same job when there is nothing to set.
 * @example setAsBaseline({ ...newJob('1', 'x'), setups: [{ ...newSetup('A', 'x'), state: { fan: '3' } }, newSetup('B', 'y', 'A')] }, 'B', 'fan').setups[1].state.fan // '3'
 */
export function setAsBaseline(job: Job, setupId: string, key: StateField): Job {
  const value = job.setups.find((s) => s.id === job.question.baselineSetup)?.state[key];
  if (value === undefined) return job;
  return {
    ...job,
    setups: job.setups.map((s) => (s.id === setupId ? { ...s, state: { ...s.state, [key]: value } } : s)),
  };
}
