import { median } from '../statistics/summary.ts';
import { repeatedSetup, type Job, type PlanStep } from '../job/job.ts';
import { tolerance } from '../bay/houseMethod.ts';
import { orderedCandidates } from './drawnOrder.ts';

/** A pull of a day that came as files. */
export interface DayPull {
  readonly id: string;
  /** Start, ms; null: nobody knows. */
  readonly startedMs: number | null;
  /** What its file says of the round it belongs to; null: nothing. */
  readonly round: string | null;
}

/** A pause so many times the usual one ends a round: fitting a part takes longer than cooling down. Common practice, no source. */
export const ROUND_PAUSE = 2.5;

/**
 * Pulls in the order of their times; those without one keep their place in the list behind the others.
 * @example inDayOrder([{ id: 'b', startedMs: 2, round: null }, { id: 'a', startedMs: 1, round: null }]).map((p) => p.id) // ['a', 'b']
 */
export function inDayOrder<P extends DayPull>(pulls: readonly P[]): P[] {
  return [...pulls].sort((a, b) => (a.startedMs ?? Infinity) - (b.startedMs ?? Infinity) || 0);
}

/**
 * Splits a day into rounds: where files name their rounds, at every other name; else where the pause is longer than 2.5 times the median pause.
 * Without times all pulls are one round.
 * @returns ids of each round, in order of time
 * @example roundsOfDay([0, 3, 6, 30, 33].map((m) => ({ id: `${m}`, startedMs: m * 6e4, round: null }))) // [['0', '3', '6'], ['30', '33']]
 */
export function roundsOfDay(pulls: readonly DayPull[]): string[][] {
  const ordered = inDayOrder(pulls);
  const pauses = ordered.slice(1).map((pull, i) => pauseMs(ordered[i]!, pull));
  const known = pauses.filter((p) => p !== null);
  const longest = known.length > 0 ? ROUND_PAUSE * median(known) : Infinity;
  const rounds: string[][] = [];
  ordered.forEach((pull, i) => {
    const before = ordered[i - 1];
    const named = pull.round !== null && before?.round != null;
    const pause = pauses[i - 1] ?? null;
    const begins = !before || (named ? pull.round !== before.round : pause !== null && pause > longest);
    if (begins) rounds.push([]);
    rounds.at(-1)!.push(pull.id);
  });
  return rounds;
}

function pauseMs(a: DayPull, b: DayPull): number | null {
  return a.startedMs === null || b.startedMs === null ? null : b.startedMs - a.startedMs;
}

/**
 * Setups of so many rounds in the planned order: the rounds that the plan still asks for, then the baseline and the candidates in turn.
 * Return checks stand where the plan has them, or take the place of the baseline's later rounds.
 * @example plannedRounds(newJob('1', 'x'), 3).map((r) => r.setup) // ['A', 'B', 'A']
 */
export function plannedRounds(job: Job, count: number): PlanStep[] {
  const begun = new Map<string, number>();
  for (const { setupId, round } of job.pulls) begun.set(setupId, Math.max(begun.get(setupId) ?? 0, round));
  const settle = tolerance(job.method, 'settlePulls');
  const counted = tolerance(job.method, 'countedPulls');
  const step = (setup: string): PlanStep => ({ setup, settle, counted });
  const { baselineSetup } = job.question;
  const returns = job.setups
    .filter((s) => s.returnsTo !== null && repeatedSetup(job.setups, s.id) === baselineSetup)
    .map((s) => s.id);
  const cycle = [baselineSetup, ...orderedCandidates(job)];
  const seen = new Map<string, number>();
  const planned = job.question.plan.length > 0 ? job.question.plan : [...cycle.map(step), ...returns.map(step)];
  const left = planned.filter(({ setup }) => {
    const nth = (seen.get(setup) ?? 0) + 1;
    seen.set(setup, nth);
    return nth > (begun.get(setup) ?? 0);
  });
  for (let i = planned.length; left.length < count; i += 1) {
    const last = left.at(-1)?.setup ?? job.pulls.at(-1)?.setupId;
    const at = cycle.indexOf(last === undefined ? '' : repeatedSetup(job.setups, last));
    left.push(step(cycle[(at + 1) % cycle.length]!));
  }
  return left.slice(0, count);
}

/**
 * How many pulls at the start of a round settle: as planned, but never so many that fewer than two count.
 * @example settlePullsOf(5, 2) // 2
 */
export function settlePullsOf(pulls: number, planned: number): number {
  return Math.max(0, Math.min(planned, pulls - 2));
}
