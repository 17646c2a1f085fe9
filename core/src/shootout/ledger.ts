import type { Change } from '../job/changes.ts';
import { repeatedSetup, type Job, type Setup } from '../job/job.ts';
import type { Difference, Judgement, Verdict } from '../verdict/outcome.ts';
import { differenceBetween } from './crossed.ts';
import { costOfStep, type RecordedPart, type SetupCost } from './costs.ts';

/** What a step is: a part or parts, a tune alone, or something that put the car right. */
export type StepKind = 'part' | 'retune' | 'cure';

/** One step of a build. */
export interface LedgerStep {
  readonly setup: Setup;
  readonly parent: string;
  readonly kind: StepKind;
  readonly changes: readonly Change[];
  /** Against its parent. */
  readonly gain: Difference | null;
  /** Against the baseline. */
  readonly total: Difference | null;
  readonly verdict: Verdict | null;
  readonly cost: SetupCost | null;
  /** Hours to here, and cost to here; null once something is not known. */
  readonly hoursToHere: number | null;
  readonly costToHere: number | null;
  /** Several changes in one step have one gain; those of them that were run alone or as steps elsewhere in the job. */
  readonly bundle: { readonly of: number; readonly measuredElsewhere: readonly string[] } | null;
  /** It was pulled on another day than its parent. */
  readonly anotherDay: boolean;
}

/** A build: each step from the one before. */
export interface Ledger {
  readonly measure: string;
  readonly steps: readonly LedgerStep[];
}

const kindOf = (setup: Setup): StepKind => {
  if (setup.cure) return 'cure';
  const real = setup.changes.filter((c) => c.text.trim() !== '');
  return real.length > 0 && real.every((c) => c.kind === 'tune') ? 'retune' : 'part';
};

/** The longest line of setups that follow each other from the baseline; ties by the order of the job. */
function longestLine(job: Job): Setup[] {
  const { baselineSetup } = job.question;
  const own = job.setups.filter((s) => s.returnsTo === null);
  const lineFrom = (id: string, seen: readonly string[]): Setup[] =>
    own
      .filter((s) => s.parentId === id && s.id !== id && !seen.includes(s.id))
      .map((s) => [s, ...lineFrom(s.id, [...seen, s.id])])
      .reduce<Setup[]>((best, line) => (line.length > best.length ? line : best), []);
  return lineFrom(baselineSetup, [baselineSetup]);
}

const dayOf = (job: Job, id: string): string | null => {
  const first = job.pulls.find((p) => repeatedSetup(job.setups, p.setupId) === id && p.startedAt !== null)?.startedAt;
  return first ? first.slice(0, 10) : null;
};

/**
 * The build of a job: at least two steps, each from the one before; null where no setup follows another than the baseline.
 * @example ledgerOf(newJob('1', 'x'), judgeJob(newJob('1', 'x')), 'windowMeanPower') // null
 */
export function ledgerOf(
  job: Job,
  judgement: Judgement,
  measure: string,
  recorded: readonly RecordedPart[] = [],
): Ledger | null {
  const line = longestLine(job);
  if (line.length < 2) return null;
  const { baselineSetup } = job.question;
  let [hours, cost]: (number | null)[] = [0, 0];
  const steps = line.map((setup, i): LedgerStep => {
    const parent = i === 0 ? baselineSetup : line[i - 1]!.id;
    const own = costOfStep(job, setup.id, recorded);
    hours = hours === null || own?.hours == null ? null : hours! + own.hours;
    cost = cost === null || own?.total == null ? null : cost! + own.total;
    const changes = setup.changes.filter((c) => c.text.trim() !== '');
    // What comes off to make room is no change of its own.
    const parts = changes.filter((c) => c.kind !== 'part-removed');
    const days = [dayOf(job, parent), dayOf(job, setup.id)];
    return {
      ...{ setup, parent, kind: kindOf(setup), changes, cost: own },
      gain: differenceBetween(job, judgement, measure, setup.id, parent),
      total: differenceBetween(job, judgement, measure, setup.id, baselineSetup),
      verdict: judgement.verdicts.find((v) => v.candidate === setup.id && v.measure === measure)?.verdict ?? null,
      ...{ hoursToHere: hours, costToHere: cost },
      bundle: parts.length > 1 ? { of: parts.length, measuredElsewhere: measuredElsewhere(job, setup) } : null,
      anotherDay: days[0] !== null && days[1] !== null && days[0] !== days[1],
    };
  });
  return { measure, steps };
}

/** Members of a bundle that another setup of the job has as its only change. */
function measuredElsewhere(job: Job, bundle: Setup): string[] {
  const key = (c: Change) => c.text.trim().toLowerCase();
  const alone = job.setups
    .filter((s) => s.id !== bundle.id && s.returnsTo === null && job.pulls.some((p) => p.setupId === s.id))
    .map((s) => s.changes.filter((c) => c.text.trim() !== ''))
    .filter((changes) => changes.length === 1)
    .map(([only]) => key(only!));
  return bundle.changes.filter((c) => alone.includes(key(c))).map((c) => c.text.trim());
}
