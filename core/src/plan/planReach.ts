import type { PlanShape } from '../bay/jobDay.ts';
import type { PlanStep } from '../job/job.ts';
import type { BayMedians } from '../verdict/engine/history.ts';
import { modelOf } from '../verdict/engine/model.ts';
import { dayParts } from '../verdict/engine/parts.ts';
import { USUAL_MEDIANS } from '../verdict/engine/planFloor.ts';
import { weighedDays } from '../verdict/engine/plugIn.ts';
import { isBaseline, layOut, planDay, type PlanRequest } from './dayPlan.ts';

const MOST_COUNTED = 12;

/** Of more parts no number of pulls is looked for: more baselines between them find more than more pulls do. */
const MOST_SEARCHED = 2;

/**
 * The fewest counted pulls per setup with which a plan of this shape finds the gain that would matter; null if none up to 12.
 * @example pullsFor('plain', 0.01, planRequestOf(newJob('1', 'x'))) // null
 */
export function pullsFor(shape: PlanShape, meaningfulPercent: number, request: PlanRequest): number | null {
  if (shape === 'own' || request.candidates.length > MOST_SEARCHED) return null;
  const enough = (counted: number) => planDay(shape, { ...request, counted }).findsPercent <= meaningfulPercent;
  if (!enough(MOST_COUNTED)) return null;
  let [short, found] = [1, MOST_COUNTED];
  while (found - short > 1) {
    const middle = Math.floor((short + found) / 2);
    if (enough(middle)) found = middle;
    else short = middle;
  }
  return found;
}

/**
 * Standard errors of the candidates against the baseline that rounds are planned to have, log-percent: one solve, at the noise that
 * the bay is taken to have.
 * @example plannedErrors([{ setup: 'A', settle: 2, counted: 3 }, { setup: 'B', settle: 2, counted: 3 }], planRequestOf(newJob('1', 'x'))).length // 1
 */
export function plannedErrors(
  steps: readonly PlanStep[],
  request: PlanRequest,
  noise: BayMedians = request.prior?.learned.power?.medians ?? USUAL_MEDIANS,
): number[] {
  const starts = layOut(steps, request).filter((b) => b.kind === 'pulls');
  const sideOf = (setup: string) =>
    isBaseline(setup, request) ? 0 : request.candidates.findIndex((c) => setup === c || setup === `${c}2`) + 1;
  const pulls = steps.flatMap((s, round) =>
    Array.from({ length: s.counted }, (_, k) => ({
      ...{ setup: sideOf(s.setup), round, startC: null },
      hours: starts[round]!.pullMin[s.settle + k]! / 60,
    })),
  );
  const run = request.candidates.flatMap((_, k) => (pulls.some((p) => p.setup === k + 1) ? [k + 1] : []));
  // The typical day's start temperatures are like each other: heat is no part of a plan.
  const day = dayParts(pulls, { model: modelOf(request.constants ?? {}), meantToChange: true });
  const contrasts = run.map((k) => Array.from({ length: k + 1 }, (_, i) => (i === 0 ? -1 : i === k ? 1 : 0)));
  return weighedDays(day, contrasts, noise).map((w) => Math.sqrt(w.variance));
}

/**
 * Which parts to leave for another day, those that take longest to fit first, so that what is left finds the gain that would matter;
 * empty where nothing has to be left, null where leaving does not help.
 * @example leaveOut(2, { ...planRequestOf(newJob('1', 'x')), candidates: ['B', 'C'] }) // []
 */
export function leaveOut(meaningfulPercent: number, request: PlanRequest): string[] | null {
  const { baseline, times = [], fittingMinutes } = request;
  const minutes = (c: string) => times.find((t) => t.from === baseline && t.to === c)?.minutes ?? fittingMinutes;
  const longest = [...request.candidates].sort((a, b) => minutes(b) - minutes(a));
  for (let n = 0; n < longest.length; n += 1) {
    const left = longest.slice(0, n);
    const candidates = request.candidates.filter((c) => !left.includes(c));
    const plan = planDay(candidates.length > 1 ? 'middle' : 'return', { ...request, candidates });
    if (plan.findsPercent <= meaningfulPercent) return left;
  }
  return null;
}
