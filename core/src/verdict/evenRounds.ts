import { mean, median, steady } from '../statistics/summary.ts';
import type { PullStatus } from '../job/job.ts';
import { finding, type PullFinding } from '../pull/findings.ts';
import { conditionFinding, type ConditionFinding } from './conditionFindings.ts';

/** What the checks on a round look at: every pull of the job, settle pulls and those set aside included. */
export interface RoundPull {
  readonly setupId: string;
  readonly round: number;
  readonly position: number;
  readonly status: PullStatus;
  /** 0 baseline, 1… candidates, null outside the question. */
  readonly side: number | null;
  readonly used: boolean;
  readonly hours: number;
  /** Start of the intake air above the bay's air, °C. */
  readonly startC: number | null;
}

/** Mean places in the round that are this far apart: a round that ended early, not one pull set aside. Judgement. */
const ODD_PLACES = 0.5;
/** Pulls further apart than this belong to different days. Judgement. */
const NIGHT_H = 6;
/** A pause is odd when it is more than twice its peers' and at least so many minutes longer. Judgement. */
const ODD_PAUSE_TIMES = 2;
const ODD_PAUSE_MIN = 3;
/** Difference of the rise from pull to pull, °C, that a fan which stood elsewhere makes. Judgement. */
const ODD_RISE_C = 1.5;

/**
 * What makes two sets of pulls unequal although every single pull is sound: places in the round, the fan, a night between
 * them. Each is a mistake seen again and again (common practice, no source).
 */
export function unevenRounds(
  pulls: readonly RoundPull[],
  side: number,
  { timesKnown, meantToChange }: { readonly timesKnown: boolean; readonly meantToChange: boolean },
): ConditionFinding[] {
  const used = pulls.filter((p) => p.used);
  const [base, other] = [used.filter((p) => p.side === 0), used.filter((p) => p.side === side)];
  if (base.length === 0 || other.length === 0) return [];
  return [
    ...placeFindings(base, other),
    ...(meantToChange ? [] : riseFindings(pulls, side)),
    ...(timesKnown ? nightFindings(used, side) : []),
  ];
}

/** The same place in the round on both sides, or the two cannot be told from it. */
function placeFindings(base: readonly RoundPull[], other: readonly RoundPull[]): ConditionFinding[] {
  const places = { baselinePlaces: placesOf(base), candidatePlaces: placesOf(other) };
  if (!places.baselinePlaces.some((place) => places.candidatePlaces.includes(place)))
    return [conditionFinding('place-crossed', 'warning', places)];
  const meanPlace = (pulls: readonly RoundPull[]) => mean(pulls.map((p) => p.position));
  if (steady(Math.abs(meanPlace(base) - meanPlace(other))) < ODD_PLACES) return [];
  return [conditionFinding('places-differ', 'info', places)];
}

function placesOf(pulls: readonly RoundPull[]): number[] {
  return [...new Set(pulls.map((p) => p.position))].sort((a, b) => a - b);
}

/** A fan that was off, or stood elsewhere, shows in how the intake climbs from pull to pull. */
function riseFindings(pulls: readonly RoundPull[], side: number): ConditionFinding[] {
  const [a, b] = [riseOf(pulls.filter((p) => p.side === 0)), riseOf(pulls.filter((p) => p.side === side))];
  if (a === null || b === null || steady(Math.abs(b - a)) < ODD_RISE_C) return [];
  return [conditionFinding('rise', 'warning', { baselineC: a, candidateC: b })];
}

/** Mean rise of the start temperature from a pull to the next of its round, °C; null on fewer than two steps. */
function riseOf(pulls: readonly RoundPull[]): number | null {
  const steps = roundsOf(pulls).flatMap((round) =>
    round.slice(1).flatMap((p, i) => {
      const before = round[i]!;
      return p.startC === null || before.startC === null ? [] : [p.startC - before.startC];
    }),
  );
  return steps.length < 2 ? null : mean(steps);
}

/**
 * Nothing is compared across a night without a setup that was run on both days: then nobody knows what the night did.
 * Setups link days, and days link setups; the pair is comparable when a chain of both leads from one to the other.
 */
function nightFindings(used: readonly RoundPull[], side: number): ConditionFinding[] {
  const inTime = [...used].sort((a, b) => a.hours - b.hours);
  const days: Set<number>[] = [];
  inTime.forEach((p, i) => {
    const before = inTime[i - 1];
    if (!before || steady(p.hours - before.hours) >= NIGHT_H) days.push(new Set());
    if (p.side !== null) days.at(-1)!.add(p.side);
  });
  if (days.length < 2) return [];
  const reached = new Set([0]);
  for (let grown = true; grown;) {
    grown = false;
    for (const day of days) {
      if (![...day].some((s) => reached.has(s))) continue;
      for (const s of day)
        if (!reached.has(s)) {
          reached.add(s);
          grown = true;
        }
    }
  }
  if (reached.has(side)) return [];
  return [conditionFinding('night', 'blocking', {})];
}

/** Pulls of a round in their order of time. */
function roundsOf<T extends Pick<RoundPull, 'setupId' | 'round' | 'hours' | 'position'>>(pulls: readonly T[]): T[][] {
  const rounds = new Map<string, T[]>();
  for (const p of pulls) {
    const key = `${p.setupId}#${p.round}`;
    rounds.set(key, [...(rounds.get(key) ?? []), p]);
  }
  return [...rounds.values()].map((own) => own.sort((a, b) => a.hours - b.hours || a.position - b.position));
}

/**
 * Findings of single pulls that only show beside their peers: a pause before one pull of the round, which cools it, and a
 * first pull after a change that counts on a boosted car.
 */
export function pullsOutOfStep(
  pulls: readonly RoundPull[],
  { timesKnown, boosted }: { readonly timesKnown: boolean; readonly boosted: boolean },
): Map<RoundPull, PullFinding[]> {
  const found = new Map<RoundPull, PullFinding[]>();
  const add = (p: RoundPull, what: PullFinding) => found.set(p, [...(found.get(p) ?? []), what]);
  if (timesKnown)
    for (const round of roundsOf(pulls)) {
      const gaps = round.slice(1).map((p, i) => ({ p, minutes: 60 * (p.hours - round[i]!.hours) }));
      for (const { p, minutes } of gaps) {
        const peers = gaps.filter((g) => g.p !== p && Number.isFinite(g.minutes)).map((g) => g.minutes);
        if (peers.length < 2 || p.status !== 'counted') continue;
        const usual = median(peers);
        if (minutes > ODD_PAUSE_TIMES * usual && minutes - usual >= ODD_PAUSE_MIN)
          add(p, finding('long-pause', 'warning', { minutes, usualMinutes: usual }));
      }
    }
  if (boosted)
    for (const p of pulls) {
      const afterChange = pulls.some((q) => q.hours < p.hours && q.setupId !== p.setupId);
      if (p.status === 'counted' && p.position === 1 && afterChange)
        add(p, finding('first-after-change', 'warning', {}));
    }
  return found;
}
