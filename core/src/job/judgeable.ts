import { dayProblem } from '../bay/dayShape.ts';
import { gearingProblem } from '../gearing/gearing.ts';
import { useProblem } from '../gearing/useProfile.ts';
import { channelValues, type Job, type Pull } from './job.ts';
import { measuresProblem } from '../measures/measureFacts.ts';
import {
  implausible,
  implausibleInstant,
  implausibleTimeZone,
  implausibleWindow,
  LIMITS,
  PLAUSIBLE,
} from './plausible.ts';

/** What keeps a job from being judged. */
export type JobProblemCode =
  'window' | 'measures' | 'time-zone' | 'instant' | 'day' | 'setups' | 'pulls' | 'samples' | 'numbers' | 'failed';

export interface JobProblem {
  readonly code: JobProblemCode;
  /** One sentence that names the place. */
  readonly text: string;
}

/**
 * Why a job cannot be judged, or null. Readers and requests refuse such jobs; this stands between the engine and what an older
 * version stored, so that one row can neither stop a list nor end the process.
 * @example jobProblem(newJob('1', 'x')) // null
 */
export function jobProblem(job: Job): JobProblem | null {
  const { question, method, bay, vehicle } = job;
  return (
    problem('window', question.windowRpm && prefixed('the declared window', implausibleWindow(question.windowRpm))) ??
    problem('time-zone', job.timeZone && implausibleTimeZone(job.timeZone)) ??
    problem('instant', job.openedAt && implausibleInstant(job.openedAt)) ??
    problem('day', job.day === undefined ? null : dayProblem(job.day)) ??
    problem('setups', job.setups.length > LIMITS.setupsPerJob ? `${job.setups.length} setups` : null) ??
    problem('setups', circleOfParents(job)) ??
    problem('numbers', job.gearing ? prefixed('the gearing', gearingProblem(job.gearing)) : null) ??
    problem('numbers', job.use ? prefixed('the use', useProblem(job.use)) : null) ??
    problem('pulls', job.pulls.length > LIMITS.pullsPerJob ? `${job.pulls.length} pulls` : null) ??
    problem('numbers', implausible('averagingRpm', method.averagingWidthRpm)) ??
    problem('measures', measuresProblem(question.measures)) ??
    problem(
      'numbers',
      maybe(bay.rollerInertiaKgM2, (v) => implausible('rollerInertiaKgM2', v)),
    ) ??
    problem(
      'numbers',
      maybe(vehicle.engineToRollerRatio, (v) => implausible('engineToRollerRatio', v)),
    ) ??
    first(job.pulls, (pull) => pullProblem(pull)) ??
    first(job.weather, ({ at }) => problem('instant', implausibleInstant(at)))
  );
}

/**
 * Why a job is not judged although it can be kept, or null: what `jobProblem` finds, or more counted pulls than are judged together.
 * @example judgingProblem({ ...newJob('1', 'x'), pulls: [{ ...newPull('p', 'A', 1), status: 'counted' }] }, 0)?.code // 'pulls'
 */
export function judgingProblem(job: Job, most: number = LIMITS.countedPullsJudged): JobProblem | null {
  const counted = job.pulls.filter((p) => p.status === 'counted').length;
  const tooMany = `${counted} counted pulls; at most ${most} are judged together. Take the rest into another job.`;
  return jobProblem(job) ?? problem('pulls', counted > most ? tooMany : null);
}

/**
 * Why the samples of a pull cannot be judged, or null. Missing samples are no reason.
 * @example pullProblem({ ...newPull('p', 'A', 1), startedAt: 'yesterday' })?.code // 'instant'
 */
export function pullProblem(pull: Pull): JobProblem | null {
  const at = `pull ${pull.id}`;
  const when = pull.startedAt && implausibleInstant(pull.startedAt);
  if (when) return { code: 'instant', text: `${at}: ${when}.` };
  const rows = pull.channels[0]?.values.length ?? 0;
  if (pull.channels.length > LIMITS.channelsPerPull || rows > LIMITS.rowsPerPull)
    return { code: 'samples', text: `${at} has ${pull.channels.length} channels of ${rows} rows.` };
  // A bad pickup throws single readings anywhere, and those are left out; a column of them is no engine speed.
  const known = channelValues(pull, 'engine_rpm')?.filter((v) => !Number.isNaN(v)) ?? [];
  const wrong = known.filter((v) => v > PLAUSIBLE.engineRpm.high);
  return wrong.length > known.length / 2 ? problem('samples', `${at}: ${implausible('engineRpm', wrong[0]!)}`) : null;
}

/** Setups whose parents lead back to themselves. */
function circleOfParents({ setups }: Job): string | null {
  for (const { id } of setups) {
    const seen = [id];
    for (let at = setups.find((s) => s.id === id)?.parentId ?? null; at !== null;) {
      if (at === id) return `setups ${[...seen, id].join(' from ')} go in a circle; each is made from one before it`;
      if (seen.includes(at)) break;
      seen.push(at);
      at = setups.find((s) => s.id === at)?.parentId ?? null;
    }
  }
  return null;
}

function problem(code: JobProblemCode, text: string | null | undefined): JobProblem | null {
  return text ? { code, text: `${text[0]!.toUpperCase()}${text.slice(1)}.` } : null;
}

function prefixed(place: string, wrong: string | null): string | null {
  return wrong && `${place}: ${wrong}`;
}

function maybe(value: number | null, check: (value: number) => string | null): string | null {
  return value === null ? null : check(value);
}

function first<T>(list: readonly T[], check: (entry: T) => JobProblem | null): JobProblem | null {
  for (const entry of list) {
    const found = check(entry);
    if (found) return found;
  }
  return null;
}
