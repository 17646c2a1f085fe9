import { repeatedSetup, type Job } from '../job/job.ts';
import { slopeWithin, type RoundPairs } from '../measures/slopeWithin.ts';
import { studentT } from '../statistics/distributions.ts';
import type { Judgement } from '../verdict/outcome.ts';

/** What a car loses of its mean power over the window per °C of start temperature above the bay's air. */
export interface HeatCoefficient {
  /** Per cent per °C; above zero: heat costs power. */
  readonly percentPerC: number;
  readonly low: number;
  readonly high: number;
  readonly pulls: number;
  readonly rounds: number;
}

/** Under so many degrees between the coolest and the hottest pull of every round nothing is said. */
const LEAST_SPREAD_C = 2;

/**
 * The car's own heat coefficient: regression of 100·ln(mean power) on the start temperature within the rounds of a job, with its 95 %
 * interval (least squares; t on pulls − rounds − 1). It explains and helps to plan pauses; the verdict does not use it.
 * @returns null with fewer than two degrees of freedom, or where the start temperatures hardly differ
 * @example heatCoefficient(newJob('1', 'x'), judgeJob(newJob('1', 'x'))) // null
 */
export function heatCoefficient(job: Job, { pulls }: Pick<Judgement, 'pulls'>): HeatCoefficient | null {
  const rounds = new Map<string, { x: number[]; y: number[] }>();
  const roundOf = new Map(job.pulls.map((p) => [p.id, p.round]));
  const setups = [job.question.baselineSetup, ...job.question.candidateSetups];
  for (const p of pulls) {
    if (!p.used || p.startAboveAirC === null || !(p.windowMeanW > 0)) continue;
    if (!setups.includes(repeatedSetup(job.setups, p.setupId))) continue;
    const key = `${p.setupId}#${roundOf.get(p.id)}`;
    const own = rounds.get(key) ?? { x: [], y: [] };
    own.x.push(p.startAboveAirC);
    own.y.push(100 * Math.log(p.windowMeanW));
    rounds.set(key, own);
  }
  const usable: RoundPairs[] = [...rounds.values()].filter(({ x }) => x.length > 1);
  const { slope, spread, residual, count } = slopeWithin(usable);
  const degrees = count - usable.length - 1;
  const widest = Math.max(0, ...usable.map(({ x }) => Math.max(...x) - Math.min(...x)));
  if (degrees < 2 || widest < LEAST_SPREAD_C) return null;
  const half = studentT(0.975, degrees) * Math.sqrt(residual / degrees / spread);
  return { percentPerC: -slope, low: -slope - half, high: -slope + half, pulls: count, rounds: usable.length };
}
