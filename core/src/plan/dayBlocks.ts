import type { FittingTime } from '../bay/jobDay.ts';
import type { PlanStep } from '../job/job.ts';

/** A stretch of a planned day. */
export interface DayBlock {
  readonly kind: 'pulls' | 'fitting' | 'hold' | 'cool-down' | 'night';
  /** The setup that is pulled, or that is being fitted. */
  readonly setup: string;
  /** Minutes since the first pull; nights pass too. */
  readonly fromMin: number;
  readonly toMin: number;
  /** Minutes at which pulls start, settle pulls first. */
  readonly pullMin: readonly number[];
}

/** How long everything takes. */
export interface DayTimes {
  readonly minutesPerPull: number;
  readonly fittingMinutes: number;
  readonly coolDownMinutes: number;
  /** Minutes from setup to setup that differ from `fittingMinutes`; setups as what they repeat. */
  readonly times?: readonly FittingTime[];
  /** Opening hours, where the rounds may need several days: minutes of a day, and those left of the first. */
  readonly hours?: { readonly openMin: number; readonly firstMin: number } | null;
}

/** Minutes between the two rounds of a pair of the hold plan: within the 45–60 that the plan asks for. */
const HOLD_MINUTES = 50;
const DAY_MIN = 1440;

/**
 * Rounds as stretches of time, one after the other: fitting, what is left of the cool-down, pulls. A round that would not end before
 * closing is made on the next day, its fitting too.
 * @param repeated what a return check repeats
 * @example dayBlocks([{ setup: 'A', settle: 1, counted: 2 }, { setup: 'B', settle: 1, counted: 2 }], { minutesPerPull: 5, fittingMinutes: 50, coolDownMinutes: 15 }).at(-1).toMin // 80
 */
export function dayBlocks(
  steps: readonly PlanStep[],
  { minutesPerPull, fittingMinutes, coolDownMinutes, times = [], hours = null }: DayTimes,
  repeated: (setup: string) => string = (setup) => setup,
): DayBlock[] {
  const blocks: DayBlock[] = [];
  let now = 0;
  let closes = hours ? hours.firstMin : Infinity;
  const add = (kind: DayBlock['kind'], setup: string, minutes: number, pullMin: readonly number[] = []) => {
    blocks.push({ kind, setup, fromMin: now, toMin: now + minutes, pullMin });
    now += minutes;
  };
  steps.forEach((step, i) => {
    const before = steps[i - 1];
    const [a, b] = [before?.setup ?? step.setup, step.setup];
    const same = a === b;
    const known = times.find((t) => t.from === repeated(a) && t.to === repeated(b));
    const change = !before ? 0 : same ? HOLD_MINUTES : (known?.minutes ?? fittingMinutes);
    const rest = before ? Math.max(0, coolDownMinutes - change) : 0;
    const pulling = (step.settle + step.counted) * minutesPerPull;
    if (hours && before && now + change + rest + pulling > closes && hours.openMin > 0) {
      const opens = closes + DAY_MIN - hours.openMin;
      add('night', step.setup, opens - now);
      closes = opens + hours.openMin;
    }
    if (before) add(same ? 'hold' : 'fitting', step.setup, change);
    if (rest > 0) add('cool-down', step.setup, rest);
    add('pulls', step.setup, pulling, Array.from({ length: step.settle + step.counted }, (_, k) => now + k * minutesPerPull)); // prettier-ignore
  });
  return blocks;
}

/**
 * The day, from 0, on which each round is made.
 * @example dayOfRounds([{ kind: 'pulls', setup: 'A', fromMin: 0, toMin: 20, pullMin: [0] }]) // [0]
 */
export function dayOfRounds(blocks: readonly DayBlock[]): number[] {
  let day = 0;
  return blocks.flatMap((block) => {
    if (block.kind === 'night') day += 1;
    return block.kind === 'pulls' ? [day] : [];
  });
}

/**
 * Rounds with the baseline before the first round of each later day that begins with something else: an anchor of its own.
 * @param anchor the n-th additional round of the baseline
 * @example withAnchors([{ setup: 'B', settle: 2, counted: 3 }], () => [0], (s) => s === 'A', (k) => ({ setup: `A${k}`, settle: 2, counted: 3 })).length // 1
 */
export function withAnchors(
  steps: readonly PlanStep[],
  daysOf: (steps: readonly PlanStep[]) => readonly number[],
  isBaseline: (setup: string) => boolean,
  anchor: (k: number) => PlanStep,
): PlanStep[] {
  let own = [...steps];
  // Days on which an anchor would take the place of what they were for go without one.
  const without = new Set<PlanStep>();
  for (let k = 0; k < steps.length; k += 1) {
    const days = daysOf(own);
    const at = own.findIndex((s, i) => i > 0 && days[i]! > days[i - 1]! && !isBaseline(s.setup) && !without.has(s));
    if (at < 0) break;
    const anchored = own.toSpliced(at, 0, anchor(k));
    const after = daysOf(anchored);
    if (after[at + 1] === after[at]) own = anchored;
    else without.add(own[at]!);
  }
  return own;
}
