import { normalQuantile } from '../statistics/distributions.ts';
import { logPercent } from './percent.ts';
import { dayParts, type DayParts, type EnginePull } from './engine/parts.ts';
import { weighedDay, type PlugIn } from './engine/plugIn.ts';

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

/** Five minutes a pull, 50 min a change, two settle pulls: the times of the planning table (docs/method.md, Planning). */
export const DEFAULT_TIMES: PlanTimes = { minutesPerPull: 5, minutesPerChange: 50, settlePulls: 2 };

/**
 * Minutes from the last counted pull of a round to the first counted pull of the next.
 * @example minutesBetweenRounds(DEFAULT_TIMES) // 65
 */
export function minutesBetweenRounds(times: PlanTimes): number {
  return times.minutesPerChange + (times.settlePulls + 1) * times.minutesPerPull;
}

/** What the day would need to be settled. */
export interface MorePulls {
  /** Counted pulls to add; null when no plan within reach would help. */
  readonly pulls: number | null;
  readonly rounds: readonly PlannedRound[];
  /** Half-width of the interval that the plan is expected to reach, log-percent. */
  readonly halfWidth: number | null;
}

/** A way to a narrower interval and its planned half-width, in the measure's true per cent or °C. */
export type Narrower =
  | { readonly kind: 'rounds'; readonly rounds: readonly PlannedRound[]; readonly halfWidth: number }
  /** If the bay's scatter, mounts and drift were known: what commissioning days and return checks lead to. */
  | { readonly kind: 'known-bay'; readonly halfWidth: number };

/** What is known of today when looking for what would settle it. In the engine's scale, log-percent over the measure's factor. */
export interface Today {
  readonly day: DayParts;
  readonly contrast: readonly number[];
  /** The candidate's side. */
  readonly side: number;
  readonly estimate: number;
  readonly node: PlugIn;
  /** ±δ in the engine's scale, the nearer end. */
  readonly margin: number;
  readonly times?: PlanTimes;
}

/** ±δ of the measure in the engine's scale, the nearer end. @param meaningful true per cent, or °C */
export function nearestMargin(meaningful: number, scale: 'log' | 'additive', factor: number): number {
  const own = scale === 'log' ? Math.min(logPercent(meaningful), -logPercent(-meaningful)) : meaningful;
  return own / factor;
}

/**
 * √V that today's pulls would have with these rounds after them, at the plug-in node: as warm, pull by pull, as the candidate's last
 * round was.
 */
export function plannedSpread(today: Today, rounds: readonly PlannedRound[]): number {
  const { day, side, times = DEFAULT_TIMES } = today;
  const { pulls } = day;
  const own = pulls.filter((p) => p.setup === side);
  const lastRound = own.filter((p) => p.round === own.at(-1)?.round);
  const known = pulls.every((p) => p.startC !== null);
  let hours = Math.max(...pulls.map((p) => p.hours));
  const added = rounds.flatMap(({ side: setup, counted }, r) => {
    hours += minutesBetweenRounds(times) / 60;
    return Array.from({ length: counted }, (_, k): EnginePull => {
      if (k > 0) hours += times.minutesPerPull / 60;
      const like = lastRound[Math.min(k, lastRound.length - 1)];
      return { setup, round: 1000 + r, hours, startC: known ? (like?.startC ?? null) : null };
    });
  });
  const longer = dayParts([...pulls, ...added], {
    model: day.model,
    unstrapped: day.mountFactor > 1,
    meantToChange: day.heatCoefficient === 0 && day.heatMissing === 0,
  });
  return Math.sqrt(weighedDay(longer, today.contrast, today.node.node).variance);
}

/** Counted pulls a planned round has: as many as the fullest round of the day. */
function usualCount({ day }: Today): number {
  const rounds = [...new Set(day.pulls.map((p) => p.round))];
  return Math.max(3, ...rounds.map((round) => day.pulls.filter((p) => p.round === round).length));
}

/**
 * Searches +A, +B, +B and A once or twice for the fewest counted pulls whose planned interval would exclude zero at today's
 * estimate, or fit inside ±δ. Other candidates' rounds stay in the day.
 */
export function morePullsNeeded(today: Today): MorePulls {
  const { q95, q90 } = today.node;
  const usual = usualCount(today);
  const plans: PlannedRound[][] = [];
  for (let n = usual; n <= Math.max(8, usual); n += 1)
    for (const shape of [[0], [today.side], [today.side, 0], [today.side, 0, today.side, 0]])
      plans.push(shape.map((side) => ({ side, counted: n })));
  plans.sort((a, b) => countOf(a) - countOf(b));
  for (const rounds of plans) {
    const spread = plannedSpread(today, rounds);
    const size = Math.abs(today.estimate);
    if (q95 * spread <= size || size + q90 * spread <= today.margin)
      return { pulls: countOf(rounds), rounds, halfWidth: q95 * spread };
  }
  return { pulls: null, rounds: [], halfWidth: null };
}

function countOf(rounds: readonly PlannedRound[]): number {
  return rounds.reduce((acc, round) => acc + round.counted, 0);
}

/**
 * What would make the interval narrower: another round of the candidate, of the baseline, both, both twice, and a bay whose ways are
 * known. Only what helps by a twentieth is named.
 * @param shown half-width in the measure's own figures from one in the engine's scale
 * @param bayKnown the bay has a prior of its own already
 */
export function waysToNarrow(today: Today, shown: (half: number) => number, bayKnown: boolean): Narrower[] {
  const { q95, variance } = today.node;
  const now = q95 * Math.sqrt(variance);
  const counted = usualCount(today);
  const round = (side: number): PlannedRound => ({ side, counted });
  const b = round(today.side);
  const a = round(0);
  const ways: { readonly half: number; readonly rounds: readonly PlannedRound[] | null }[] = [
    ...[[b], [a], [b, a], [b, a, b, a]].map((rounds) => ({ rounds, half: q95 * plannedSpread(today, rounds) })),
    ...(bayKnown ? [] : [{ rounds: null, half: normalQuantile(0.975) * Math.sqrt(variance) }]),
  ];
  return ways
    .filter(({ half }) => half < 0.95 * now)
    .map(({ half, rounds }) =>
      rounds ? { kind: 'rounds', rounds, halfWidth: shown(half) } : { kind: 'known-bay', halfWidth: shown(half) },
    );
}
