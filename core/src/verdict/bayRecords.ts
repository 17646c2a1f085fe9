import { pullsInOrder, repeatedSetup, type Job, type Pull } from '../job/job.ts';
import { mean, median, standardDeviation } from '../statistics/summary.ts';
import { bayAllowances, bayPrior, type RepeatGroup, type ReturnCheck } from './bayHistory.ts';
import { DEFAULT_CONSTANTS, type VerdictConstants } from './constants.ts';
import type { Judgement } from './outcome.ts';

/** What one finished job tells about its bay. */
export interface BayRecord {
  readonly groups: readonly RepeatGroup[];
  readonly checks: readonly ReturnCheck[];
  /** Minutes from pull to pull within its rounds, settle pulls included. */
  readonly intervalsMin: readonly number[];
}

/** Counted pulls of one setup in one round, as heat-adjusted window means in log-percent, with their mean time in hours. */
interface Round {
  readonly side: string;
  readonly values: readonly number[];
  readonly hours: number;
}

/**
 * Repeat groups (one setup, one round, heat-adjusted by h0) and return checks of a job: what the bay learns of itself.
 * Pulls that were marked (a gate overridden) or left out say nothing about how the bay repeats.
 * @example bayRecord(newJob('1', 'x'), judgeJob(newJob('1', 'x'))).groups // []
 */
export function bayRecord(job: Job, judgement: Judgement): BayRecord {
  const rounds = roundsOf(job, judgement);
  const groups = rounds
    .filter((r) => r.values.length >= 2)
    .map((r) => ({ variance: standardDeviation(r.values) ** 2, df: r.values.length - 1 }));
  const checks: ReturnCheck[] = [];
  for (let later = 2; later < rounds.length; later += 1) {
    const end = rounds[later]!;
    const start = rounds.findLastIndex((r, i) => i < later - 1 && r.side === end.side);
    // A return check has another setup in between.
    if (start < 0 || rounds.slice(start + 1, later).every((r) => r.side === end.side)) continue;
    const begin = rounds[start]!;
    checks.push({
      drift: mean(end.values) - mean(begin.values),
      n1: begin.values.length,
      n2: end.values.length,
      hours: end.hours - begin.hours,
    });
  }
  return { groups, checks, intervalsMin: intervalsOf(job) };
}

function roundsOf(job: Job, judgement: Judgement): Round[] {
  const judged = new Map(judgement.pulls.map((p) => [p.id, p]));
  const clean = (p: Pull) => p.status === 'counted' && !p.marks?.length && judged.get(p.id)?.used === true;
  const keys = new Map<string, Pull[]>();
  for (const p of pullsInOrder(job.pulls).filter(clean)) {
    const key = `${p.setupId}#${p.round}`;
    keys.set(key, [...(keys.get(key) ?? []), p]);
  }
  return [...keys.values()].map((pulls) => {
    const own = pulls.map((p) => judged.get(p.id)!);
    return {
      side: repeatedSetup(job.setups, pulls[0]!.setupId),
      values: own.map((p) => 100 * Math.log(p.windowMeanW) + DEFAULT_CONSTANTS.h0 * (p.startAboveAirC ?? 0)),
      hours: mean(own.map((p) => p.hours)),
    };
  });
}

function intervalsOf(job: Job): number[] {
  const pulls = pullsInOrder(job.pulls);
  return pulls.slice(1).flatMap((pull, i) => {
    const before = pulls[i]!;
    if (pull.setupId !== before.setupId || pull.round !== before.round || !pull.startedAt || !before.startedAt)
      return [];
    return [(Date.parse(pull.startedAt) - Date.parse(before.startedAt)) / 60_000];
  });
}

/** What a bay has learned: the constants that replace the defaults, and from how much. */
export interface BayLearned {
  readonly constants: Partial<VerdictConstants>;
  readonly groups: number;
  readonly checks: number;
  /** Median minutes from pull to pull: what a plan should reckon with. Null as long as the bay has no prior of its own. */
  readonly minutesPerPull: number | null;
}

/**
 * Pull-to-pull SD and interval from six repeat groups on, round and drift allowances from eight return checks on.
 * @example bayLearned([]).groups // 0
 */
export function bayLearned(records: readonly BayRecord[]): BayLearned {
  const groups = records.flatMap((r) => r.groups);
  const checks = records.flatMap((r) => r.checks);
  const prior = bayPrior(groups);
  const allowances = bayAllowances(checks, prior?.s0 ?? DEFAULT_CONSTANTS.s0, {});
  const intervals = records.flatMap((r) => r.intervalsMin);
  return {
    constants: { ...prior, ...allowances },
    groups: groups.length,
    checks: checks.length,
    minutesPerPull: prior && intervals.length > 0 ? median(intervals) : null,
  };
}
