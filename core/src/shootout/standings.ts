import type { Job } from '../job/job.ts';
import { factsNamed } from '../measures/measureFacts.ts';
import type { CandidateVerdict, Difference, Judgement } from '../verdict/outcome.ts';
import { costAgainst, type RecordedPart, type SetupCost } from './costs.ts';
import { dominatedBy, type Dominated } from './frontier.ts';
import { canBeFirst, rankIntervals, tiedRuns, type PairInterval, type RankInterval } from './ranks.ts';

/** By what verified setups are put in order. A use profile brings gains of its own. */
export const RANKED_BY = ['sure', 'estimate', 'value', 'hours', 'use'] as const;
export type RankedBy = (typeof RANKED_BY)[number];

/** Why a setup has no place. */
export type Unranked = 'not-verified' | 'not-comparable' | 'too-few-pulls';

/** One setup of a shootout. */
export interface Standing {
  readonly setup: string;
  readonly verdict: CandidateVerdict;
  /** Interval that holds for all candidates at once, per cent or the measure's unit. Better is positive. */
  readonly sure: Difference | null;
  /** Lower end of it in the measure's own unit (W, N·m …); null where nothing is sure. */
  readonly sureValue: number | null;
  /** Places that it can have among all that could be compared; null of one that could not. */
  readonly rank: RankInterval | null;
  readonly unranked: Unranked | null;
  readonly cost: SetupCost | null;
  /** Cost per kW (or per unit of the measure) at the estimate and of the sure gain; null unless the gain is verified and priced. */
  readonly perUnit: number | null;
  readonly perSureUnit: number | null;
  readonly dominated: { readonly how: Dominated; readonly by: string | null };
}

/** A shootout put in order. */
export interface Standings {
  /** Verified gains first, in order, then the rest below the line. */
  readonly ranked: readonly Standing[];
  readonly unranked: readonly Standing[];
  /** Runs of `ranked` that cannot be told apart, first and last place from 0. */
  readonly ties: readonly (readonly [number, number])[];
  /** Those of `ranked` that can be the best. */
  readonly first: readonly string[];
  readonly pairs: readonly PairInterval[];
}

/** What the order rests on besides the judgement. */
export interface StandingOptions {
  readonly measure: string;
  readonly by: RankedBy;
  readonly recorded?: readonly RecordedPart[];
  /** Gain under a use profile, per cent, by setup: its estimate and lower end. */
  readonly use?: ReadonlyMap<string, { readonly estimate: number; readonly low: number }>;
}

/** The sign by which a difference of a measure is made "better is positive". */
function betterSign(measure: string): 1 | -1 {
  return factsNamed(measure).better === 'lower' ? -1 : 1;
}

/**
 * Pairs of candidates as intervals that hold at once, better is positive.
 * @example pairsOf(judgeJob(newJob('1', 'x')), 'windowMeanPower') // []
 */
export function pairsOf(judgement: Judgement, measure: string): PairInterval[] {
  const sign = betterSign(measure);
  return judgement.contrasts.flatMap(({ of, together, measure: own }) => {
    if (own !== measure || of.kind !== 'pair' || !together) return [];
    const ends = [sign * together.low, sign * together.high].sort((a, b) => a - b) as [number, number];
    return [{ setup: of.candidate, against: of.against, low: ends[0], high: ends[1] }];
  });
}

function unrankedBecause(v: CandidateVerdict): Unranked | null {
  if (v.verdict === 'not-comparable') return 'not-comparable';
  if (v.reason === 'too-few-pulls' || v.gain === null) return 'too-few-pulls';
  return v.verdict === 'verified-gain' ? null : 'not-verified';
}

/** Units of the measure's SI unit in what people reckon with: W are counted in kW. */
const KILO = 1000;

/**
 * The candidates of a job in order: verified gains by what is asked, everything else below the line. Ranks are over all that could be
 * compared, verified or not.
 * @example standings(newJob('1', 'x'), judgeJob(newJob('1', 'x')), { measure: 'windowMeanPower', by: 'sure' }).unranked[0].unranked // 'too-few-pulls'
 */
export function standings(
  job: Job,
  judgement: Judgement,
  { measure, by, recorded = [], use }: StandingOptions,
): Standings {
  const sign = betterSign(measure);
  const verdicts = judgement.verdicts.filter((v) => v.measure === measure);
  const pairs = pairsOf(judgement, measure);
  const compared = verdicts.filter((v) => v.gain !== null && v.verdict !== 'not-comparable').map((v) => v.candidate);
  const ranks = rankIntervals(compared, pairs);
  const priced = verdicts.map((v) => ({ v, cost: costAgainst(job, v.candidate, v.baseline, recorded) }));
  // The value of the estimate in the measure's own unit, better positive.
  const gainOf = (v: CandidateVerdict) => sign * (v.gain?.value ?? NaN);
  const onMap = priced.flatMap(({ v, cost }) =>
    v.gain && v.verdict !== 'not-comparable' && cost?.total != null
      ? [{ setup: v.candidate, cost: cost.total, gain: gainOf(v) }]
      : [],
  );
  const leastBetter = (setup: string | null, than: string) => {
    if (setup === null) {
      const gain = verdicts.find((v) => v.candidate === than)?.gain;
      return gain ? -(sign > 0 ? gain.highValue : -gain.lowValue) : null;
    }
    const pair = pairs.find((p) => p.setup === setup && p.against === than);
    if (pair) return pair.low;
    const other = pairs.find((p) => p.setup === than && p.against === setup);
    return other ? -other.high : null;
  };
  const all = priced.map(({ v, cost }): Standing => {
    const { candidate: setup } = v;
    const sure = sureOf(judgement, v, sign);
    const sureValue = sure && v.gain ? sureIn(v, sure.low) : null;
    const own = onMap.find((p) => p.setup === setup);
    const unit = v.gain?.unit === 'W' ? KILO : 1;
    const verified = v.verdict === 'verified-gain' && cost?.total != null;
    return {
      ...{ setup, verdict: v, sure, cost },
      sureValue: sureValue !== null && sureValue > 0 ? sureValue : null,
      rank: ranks.get(setup) ?? null,
      unranked: unrankedBecause(v),
      perUnit: verified ? (cost.total / gainOf(v)) * unit : null,
      perSureUnit: verified && sureValue !== null && sureValue > 0 ? (cost.total / sureValue) * unit : null,
      dominated: own ? dominatedBy(own, onMap, leastBetter) : { how: null, by: null },
    };
  });
  const key = (s: Standing): number => {
    switch (by) {
      case 'estimate':
        return -gainOf(s.verdict);
      case 'value':
        return s.perSureUnit ?? Infinity;
      case 'hours':
        return s.cost?.hours ?? Infinity;
      case 'use':
        return -(use?.get(s.setup)?.low ?? -Infinity);
      default:
        return -(s.sure?.low ?? -Infinity);
    }
  };
  const ranked = all
    .filter((s) => s.unranked === null)
    .sort((a, b) => inOrder(key(a), key(b)) || -(gainOf(a.verdict) - gainOf(b.verdict)));
  const names = ranked.map((s) => s.setup);
  return {
    ranked,
    unranked: all.filter((s) => s.unranked !== null).sort((a, b) => gainOf(b.verdict) - gainOf(a.verdict) || 0),
    ties: tiedRuns(names, pairs),
    first: canBeFirst(compared, pairs).filter((id) => names.includes(id)),
    pairs,
  };
}

/** Order of two keys; infinities are equal among themselves. */
function inOrder(a: number, b: number): number {
  return a === b ? 0 : a < b ? -1 : 1;
}

/** The interval that holds for all candidates, better positive; of a single candidate its own. */
function sureOf(judgement: Judgement, v: CandidateVerdict, sign: 1 | -1): Difference | null {
  const all = judgement.simultaneous.find((s) => s.candidate === v.candidate && s.measure === v.measure);
  const { gain } = v;
  const own: Difference | null =
    all ??
    (gain &&
      (gain.percent === null
        ? { estimate: gain.value, low: gain.lowValue, high: gain.highValue, unit: gain.unit }
        : { estimate: gain.percent, low: gain.lowPercent!, high: gain.highPercent!, unit: '%' }));
  if (!own || sign > 0) return own;
  return { ...own, estimate: -own.estimate, low: -own.high, high: -own.low };
}

/** A lower end in the measure's own unit. */
function sureIn({ gain }: CandidateVerdict, low: number): number | null {
  if (!gain) return null;
  if (gain.percent === null) return low;
  // Of the baseline's level, which the estimate gives away; a gain of nothing says nothing of it, and is not sure either.
  return gain.percent === 0 ? 0 : (low * gain.value) / gain.percent;
}

/**
 * The best sure gain that a budget pays for; null where none does.
 * @example withinBudget({ ranked: [], unranked: [], ties: [], first: [], pairs: [] }, 500) // null
 */
export function withinBudget({ ranked }: Standings, budget: number): Standing | null {
  const paid = ranked.filter((s) => s.cost?.total != null && s.cost.total <= budget && s.sureValue !== null);
  return paid.sort((a, b) => b.sureValue! - a.sureValue!)[0] ?? null;
}
