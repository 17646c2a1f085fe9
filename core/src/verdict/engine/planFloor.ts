import { answerOf } from './answer.ts';
import { aimAt, fit } from './fit.ts';
import type { BayMedians } from './history.ts';
import { driftKernel, USUAL_MODEL, type NodePrior } from './model.ts';
import type { EnginePull, PrepareOptions } from './parts.ts';
import { prepare } from './prepare.ts';

/** A round of a plan: counted pulls of a setup, from this hour on. */
export interface PlannedEngineRound {
  readonly setup: number;
  readonly counted: number;
  /** Hours of its first counted pull. */
  readonly startHours: number;
}

/** What a bay is taken to be where nothing was learned of it. */
export const USUAL_MEDIANS: BayMedians = {
  scatter: USUAL_MODEL.scatterMedian,
  mount: USUAL_MODEL.mountMedian,
  drift: USUAL_MODEL.driftMedian,
};

/** Bad pulls widen a day beyond its typical one. */
const BAD_PULLS = 1.1;
/** Hours from pull to pull. */
const PULL_H = 5 / 60;
/** The quartile of a normal distribution: a typical size, half of them are larger. */
const TYPICAL = 0.674;
/** Start temperatures of a round that heats up, °C; further pulls climb by a degree each. */
const CLIMB_C = [44, 48, 51, 53.5, 55.5];

/** Start temperature of the k-th counted pull of a round on the typical day, °C. */
function climbedTo(k: number): number {
  const last = CLIMB_C.length - 1;
  return k <= last ? CLIMB_C[k]! : CLIMB_C[last]! + (k - last);
}

/**
 * Half of the 95 % interval of the plan's typical day for every contrast, log-percent: pulls that scatter as the bay usually does, later
 * rounds of a setup off by a typical mount and drift.
 */
export function typicalHalfWidths(
  rounds: readonly PlannedEngineRound[],
  contrasts: readonly (readonly number[])[],
  prior: NodePrior,
  medians: BayMedians = USUAL_MEDIANS,
  options: PrepareOptions = {},
): number[] {
  const pulls = rounds.flatMap(({ setup, counted, startHours }, round) =>
    Array.from({ length: counted }, (_, k): EnginePull => ({
      setup,
      round,
      hours: startHours + k * PULL_H,
      startC: climbedTo(k),
    })),
  );
  const prepared = prepare(pulls, options);
  const z = scattered(rounds, medians.scatter);
  const shifts = rounds.map((_, r) => typicalShift(rounds, r, medians));
  const y = pulls.map((p, i) => z[i]! + shifts[p.round]! - prepared.heatCoefficient * prepared.heat[i]!);
  const aims = contrasts.map((contrast) => aimAt(prepared, contrast));
  return fit(prepared, y, aims, prior).map((mixture) => {
    const { low, high } = answerOf(prepared, mixture);
    return (high - low) / 2;
  });
}

/** "This plan will see from about ±F %": the typical half-widths with room for a bad pull, log-percent. */
export function planFloors(...asked: Parameters<typeof typicalHalfWidths>): number[] {
  return typicalHalfWidths(...asked).map((half) => BAD_PULLS * half);
}

/** Alternating pulls, centred in their round, one scale for the whole job: their variance about the rounds is σ². */
function scattered(rounds: readonly PlannedEngineRound[], scatter: number): number[] {
  const raw = rounds.flatMap(({ counted }) => {
    const signs = Array.from({ length: counted }, (_, k) => (k % 2 === 0 ? 1 : -1));
    const mean = signs.reduce((a, b) => a + b, 0) / counted;
    return signs.map((sign) => sign - mean);
  });
  const squares = raw.reduce((a, b) => a + b * b, 0);
  const degrees = raw.length - rounds.length;
  const scale = squares > 0 ? scatter * Math.sqrt(degrees / squares) : 0;
  return raw.map((value) => value * scale);
}

/** How far a round stands off the first one of its setup on a typical day, log-percent. */
function typicalShift(rounds: readonly PlannedEngineRound[], r: number, { scatter, mount, drift }: BayMedians): number {
  const own = rounds[r]!;
  const first = rounds.find((round) => round.setup === own.setup)!;
  if (first === own) return 0;
  const middle = ({ startHours, counted }: PlannedEngineRound) => startHours + (PULL_H * (counted - 1)) / 2;
  const apart = middle(own) - middle(first);
  const variance =
    scatter ** 2 * (1 / first.counted + 1 / own.counted) +
    2 * mount ** 2 +
    2 * drift ** 2 * (driftKernel(0) - driftKernel(apart));
  return TYPICAL * Math.sqrt(variance);
}
