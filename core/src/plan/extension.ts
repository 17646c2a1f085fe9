import { USUAL_DAY } from '../bay/jobDay.ts';
import { stepOf } from '../bay/roundProgress.ts';
import type { Job, PlanStep } from '../job/job.ts';
import type { CandidateVerdict, Judgement } from '../verdict/outcome.ts';
import { planRequestOf } from './dayPlan.ts';

/** Rounds that would settle what the plan left open about every second time, and what they cost. */
export interface Extension {
  readonly rounds: readonly PlanStep[];
  readonly minutes: number;
  /** Declared before the first counted pull, and not made yet. */
  readonly declared: boolean;
}

/**
 * The extension that the open question asks for; null when nothing is open, or when no rounds within reach would help.
 * Of several open candidates the one that needs most decides.
 * @example extensionOf(newJob('1', 'x'), judgeJob(newJob('1', 'x'))) // null
 */
export function extensionOf(job: Job, judgement: Judgement): Extension | null {
  const open = judgement.verdicts.filter((v) => v.morePullsNeeded?.pulls);
  const widest = open.sort((a, b) => b.morePullsNeeded!.pulls! - a.morePullsNeeded!.pulls!)[0];
  if (!widest) return null;
  const rounds = roundsOf(job, widest);
  const { minutesPerPull, fittingMinutes, coolDownMinutes } = planRequestOf(job);
  const pulls = rounds.reduce((sum, r) => sum + r.settle + r.counted, 0);
  return {
    rounds,
    minutes: pulls * minutesPerPull + rounds.length * Math.max(fittingMinutes, coolDownMinutes),
    declared: job.question.extension === 'declared' && !(job.day ?? USUAL_DAY).plan.extended,
  };
}

/** The baseline's rounds are made on its latest return check: that is what is on the car when it comes back to it. */
function roundsOf(job: Job, verdict: CandidateVerdict): PlanStep[] {
  const latest = (id: string) => job.setups.findLast((s) => s.returnsTo === id)?.id ?? id;
  return verdict.morePullsNeeded!.rounds.map(({ side, counted }) => {
    const setup = latest(side === 0 ? verdict.baseline : verdict.candidate);
    return { setup, settle: stepOf(job, setup, 1).settle, counted };
  });
}

/**
 * A job whose plan goes on with these rounds. One extension may be declared before the first counted pull; whatever is added
 * otherwise was added after the result could be seen, and the report says so.
 * @example extended(newJob('1', 'x'), [{ setup: 'B', settle: 2, counted: 3 }], '2026-05-02T08:00:00Z').day.plan.extended.declared // false
 */
export function extended(job: Job, rounds: readonly PlanStep[], at: string): Job {
  const day = job.day ?? USUAL_DAY;
  const declared = job.question.extension === 'declared' && !day.plan.extended;
  const before = job.question.plan;
  const plan =
    before.length > 0
      ? before
      : [job.question.baselineSetup, ...job.question.candidateSetups].map((setup) => stepOf(job, setup, 1));
  return {
    ...job,
    question: { ...job.question, plan: [...plan, ...rounds], extension: declared ? 'declared' : 'undeclared' },
    day: { ...day, plan: { ...day.plan, extended: { at, declared, rounds } } },
  };
}
