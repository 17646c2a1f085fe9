import { studentT } from '../statistics/distributions.ts';
import { logPercent, type VerdictConstants } from './constants.ts';
import { effectiveDegrees } from './contrast.ts';
import { covarianceOf, designOf, variancesOf, type Design } from './fit.ts';
import type { EnginePull } from './rounds.ts';

/** A round of a plan: which side, how many counted pulls. */
export interface PlannedRound {
  readonly side: number;
  readonly counted: number;
}

export interface PlanTimes {
  readonly minutesPerPull: number;
  readonly minutesPerChange: number;
  readonly settlePulls: number;
}

/** Five minutes a pull, 50 min a change, two settle pulls: the times of the planning table (docs/method.md, planning). */
export const DEFAULT_TIMES: PlanTimes = { minutesPerPull: 5, minutesPerChange: 50, settlePulls: 2 };

/**
 * Minutes from the last counted pull of a round to the first counted pull of the next.
 * @example minutesBetweenRounds(DEFAULT_TIMES) // 65
 */
export function minutesBetweenRounds(times: PlanTimes): number {
  return times.minutesPerChange + (times.settlePulls + 1) * times.minutesPerPull;
}

/**
 * Start temperature gained from pull to pull in a planned round, °C. Common practice, no source: a rise in every round is
 * why a longer round cannot tell heat from drift.
 */
const RISE_PER_PULL_C = 3;

/**
 * The counted pulls of a plan, laid out in time, each round warming alike.
 * @example plannedPulls([{ side: 0, counted: 3 }, { side: 1, counted: 3 }]).length // 6
 */
export function plannedPulls(
  rounds: readonly PlannedRound[],
  times: PlanTimes = DEFAULT_TIMES,
  startHours = 0,
  firstRound = 0,
): EnginePull[] {
  const pulls: EnginePull[] = [];
  let minutes = 0;
  rounds.forEach((round, r) => {
    if (r > 0) minutes += minutesBetweenRounds(times);
    for (let k = 0; k < round.counted; k += 1) {
      if (k > 0) minutes += times.minutesPerPull;
      pulls.push({
        id: `planned ${r}.${k}`,
        side: round.side,
        roundKey: `planned ${firstRound + r}`,
        hours: startHours + minutes / 60,
        startC: k * RISE_PER_PULL_C,
      });
    }
  });
  return pulls;
}

/**
 * Standard error and degrees of freedom a design will have at pull-to-pull SD `s` (%). Unless today's bracket difference
 * is given, its expected square stands in: s²(1/n_i + 1/n_j) + 2τ² + (s_d·Δt)², the largest over the brackets.
 */
export function plannedError(
  design: Design,
  side: number,
  s: number,
  nu: number,
  observedDrift?: number,
): { se: number; df: number } {
  const place = 1 + design.candidates.indexOf(side);
  const weights = design.prior.map((_, i) => (i === place ? 1 : 0));
  const { v, vn } = variancesOf(design, covarianceOf(design, s * s), s * s, weights);
  const drift2 = observedDrift === undefined ? expectedDriftSquare(design, s) : observedDrift ** 2;
  const shape = design.disjoint > 0 ? (design.constants.kappa ** 2 * drift2) / design.disjoint : 0;
  const vt = v + shape + (design.heat === 'missing' ? design.constants.missingHeat ** 2 : 0);
  return { se: Math.sqrt(vt), df: effectiveDegrees(vn / vt, nu, design.constants.nuA) };
}

function expectedDriftSquare(design: Design, s: number): number {
  return Math.max(
    0,
    ...design.brackets.map(({ earlier, later }) => {
      const a = design.rounds[earlier]!;
      const b = design.rounds[later]!;
      const hours = b.meanHours - a.meanHours;
      return s * s * (1 / a.members.length + 1 / b.members.length) + 2 * design.tau ** 2 + (design.sd * hours) ** 2;
    }),
  );
}

/**
 * Smallest gain (log-percent) of candidate `side` that a plan finds on 80 % of days: (t.975 + t.80)·SE.
 * @example smallestGainFound([{ side: 0, counted: 3 }, { side: 1, counted: 3 }, { side: 0, counted: 2 }], 0.5, DEFAULT_CONSTANTS) // 1.48862
 */
export function smallestGainFound(
  rounds: readonly PlannedRound[],
  s: number,
  constants: VerdictConstants,
  times: PlanTimes = DEFAULT_TIMES,
  side = 1,
): number {
  const pulls = plannedPulls(rounds, times);
  const design = designOf(pulls, constants, { heat: 'adjusted' });
  const nu = constants.d0 + pulls.length - design.rounds.length;
  const { se, df } = plannedError(design, side, s, nu);
  return (studentT(0.975, df) + studentT(0.8, df)) * se;
}

/** What the day would need to be settled. */
export interface MorePulls {
  /** Counted pulls to add; null when no plan within reach would help. */
  readonly pulls: number | null;
  readonly rounds: readonly PlannedRound[];
  /** Half-width of the 95 % interval that the plan is expected to reach, log-percent. */
  readonly halfWidth: number | null;
}

/** What is known of today when looking for the pulls that would settle it. */
export interface Today {
  readonly design: Design;
  readonly side: number;
  readonly estimate: number;
  readonly s: number;
  readonly drift: number;
  readonly meaningfulPercent: number;
  readonly remounted: boolean;
  /** Of the interval that must exclude zero; 0.97 where an extension was declared. 0.95 unless said otherwise. */
  readonly confidence?: number;
  readonly times?: PlanTimes;
}

/**
 * Searches +A, +B, +B and A for the fewest counted pulls whose planned interval would exclude zero at today's
 * estimate, or fit inside ±δ. Other candidates' rounds stay in the design.
 */
export function morePullsNeeded(today: Today): MorePulls {
  const { design } = today;
  const times = today.times ?? DEFAULT_TIMES;
  const tail = (1 + (today.confidence ?? 0.95)) / 2;
  const lastHours = Math.max(...design.pulls.map((p) => p.hours));
  const nextHours = lastHours + minutesBetweenRounds(times) / 60;
  const usual = Math.max(3, ...design.rounds.map((round) => round.members.length));
  const shapes: number[][] = [[0], [today.side], [today.side, 0]];
  const margin = Math.min(logPercent(today.meaningfulPercent), -logPercent(-today.meaningfulPercent));
  const lastRound = design.rounds.findLast((round) => round.side === today.side)?.members ?? [];
  // The rounds to come are taken to start as warm, pull by pull, as the candidate's last round did.
  const starts = (p: EnginePull): number | null => {
    const position = Math.min(Number(p.id.split('.')[1]), lastRound.length - 1);
    return design.heat === 'adjusted' ? (design.pulls[lastRound[position] ?? 0]?.startC ?? null) : null;
  };
  const plans: PlannedRound[][] = [];
  for (let n = usual; n <= Math.max(8, usual); n += 1) {
    for (const shape of shapes) plans.push(shape.map((side) => ({ side, counted: n })));
  }
  plans.sort((a, b) => countOf(a) - countOf(b));
  for (const rounds of plans) {
    const added = plannedPulls(rounds, times, nextHours).map((p) => ({ ...p, startC: starts(p) }));
    const relevant = [...design.pulls, ...added];
    const longer = designOf(relevant, design.constants, { heat: design.heat, remounted: today.remounted });
    const nu = design.constants.d0 + relevant.length - longer.rounds.length;
    const { se, df } = plannedError(longer, today.side, today.s, nu, today.drift);
    const settled =
      studentT(tail, df) * se <= Math.abs(today.estimate) ||
      Math.abs(today.estimate) + studentT(0.95, df) * se <= margin;
    if (settled) return { pulls: countOf(rounds), rounds, halfWidth: studentT(tail, df) * se };
  }
  return { pulls: null, rounds: [], halfWidth: null };
}

function countOf(rounds: readonly PlannedRound[]): number {
  return rounds.reduce((acc, round) => acc + round.counted, 0);
}
