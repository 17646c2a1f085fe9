import { changesText } from '../job/changes.ts';
import { repeatedSetup, type Job } from '../job/job.ts';
import { factsNamed } from '../measures/measureFacts.ts';
import { differenceBetween } from '../shootout/crossed.ts';
import { normalQuantile } from '../statistics/distributions.ts';
import type { Judgement, Verdict } from '../verdict/outcome.ts';
import { logPercent } from '../verdict/percent.ts';

/** What a judged job says of the parts that one step fitted: a declared candidate against the setup that it was made from. */
export interface PartStep {
  readonly setup: string;
  readonly against: string;
  /** Parts that the step fitted, as they were named. */
  readonly parts: readonly string[];
  /** One part and nothing else was changed. */
  readonly alone: boolean;
  readonly changes: string;
  readonly measure: string;
  /** Against the baseline: the verdict; against another setup: what its interval says. */
  readonly verdict: Verdict;
  /** Log-percent, or the measure's unit; null where there is none. */
  readonly estimate: number | null;
  /** Half of the interval over the normal quantile of its level: the standard error that a normal of this width would have. */
  readonly standardError: number | null;
}

/**
 * Whether steps are made from other setups than the baseline, so that only the full judgement tells of them.
 * @example stepsBeyondBaseline(newJob('1', 'x')) // false
 */
export function stepsBeyondBaseline(job: Pick<Job, 'setups' | 'question'>): boolean {
  const { baselineSetup, candidateSetups } = job.question;
  return job.setups.some(
    (s) =>
      candidateSetups.includes(s.id) &&
      s.parentId !== null &&
      repeatedSetup(job.setups, s.parentId) !== baselineSetup &&
      s.changes.some((c) => c.part !== null),
  );
}

/**
 * The steps of a job that fitted parts, a row a measure of the question. A setup that nobody declared a candidate is none.
 * @example partSteps(newJob('1', 'x'), judgeJob(newJob('1', 'x'))) // []
 */
export function partSteps(job: Job, judgement: Judgement): PartStep[] {
  const { baselineSetup, candidateSetups } = job.question;
  return candidateSetups.flatMap((id): PartStep[] => {
    const setup = job.setups.find((s) => s.id === id);
    const real = setup?.changes.filter((c) => c.text.trim() !== '') ?? [];
    const parts = real.flatMap((c) => (c.kind === 'part-fitted' && c.part !== null ? [c.part] : []));
    if (!setup || parts.length === 0) return [];
    const against = setup.parentId === null ? baselineSetup : repeatedSetup(job.setups, setup.parentId);
    return judgement.verdicts
      .filter((v) => v.candidate === id)
      .flatMap((v): PartStep[] => {
        const difference = differenceBetween(job, judgement, v.measure, id, against);
        if (against !== baselineSetup && difference === null) return [];
        const log = factsNamed(v.measure).scale === 'log';
        const on = (value: number) => (log ? logPercent(value) : value);
        const { confidence } = job.question;
        const half = difference && (on(difference.high) - on(difference.low)) / 2;
        return [
          {
            ...{ setup: id, against, parts, alone: real.length === 1, changes: changesText(real), measure: v.measure },
            verdict: against === baselineSetup ? v.verdict : verdictOf(difference!, v.verdict, v.measure),
            estimate: difference && on(difference.estimate),
            standardError: half && half / normalQuantile((1 + confidence) / 2),
          },
        ];
      });
  });
}

/** What the interval of a step says by itself; conditions that are not comparable stay so. */
function verdictOf({ low, high }: { low: number; high: number }, own: Verdict, measure: string): Verdict {
  if (own === 'not-comparable') return own;
  const { better } = factsNamed(measure);
  if (low > 0) return better === 'lower' ? 'verified-loss' : 'verified-gain';
  if (high < 0) return better === 'lower' ? 'verified-gain' : 'verified-loss';
  return 'not-resolved';
}
