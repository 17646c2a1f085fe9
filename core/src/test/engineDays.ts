import { answerOf, type Answer } from '../verdict/engine/answer.ts';
import { fitContrast } from '../verdict/engine/fit.ts';
import { usualPrior } from '../verdict/engine/model.ts';
import type { EnginePull, PrepareOptions } from '../verdict/engine/parts.ts';
import { prepare } from '../verdict/engine/prepare.ts';

// Test vectors of the second engine (docs/method.md): V1–V12 agreed on by three independent implementations, V13–V16 by one.
export interface Day {
  readonly pulls: readonly EnginePull[];
  readonly y: readonly number[];
}
const HP = [238.2, 237.1, 236.6, 243.1, 241.9, 241.6, 237.9, 236.5];
const START_C = [44, 48, 51, 46, 50, 53, 45, 49];
const MINUTES = [0, 5, 10, 75, 80, 85, 150, 155];
const SETUP = [0, 0, 0, 1, 1, 1, 0, 0];
const ROUND = [0, 0, 0, 1, 1, 1, 2, 2];

/** The first so many pulls of the day, changed. */
export function day(
  n: number,
  change: (y: number, i: number) => number = (y) => y,
  more: Partial<EnginePull>[] = [],
): Day {
  return {
    pulls: Array.from({ length: n }, (_, i) => ({
      setup: SETUP[i]!,
      round: ROUND[i]!,
      hours: MINUTES[i]! / 60,
      startC: START_C[i]!,
      ...more[i],
    })),
    y: Array.from({ length: n }, (_, i) => change(100 * Math.log(HP[i]!), i)),
  };
}
export const without = Array.from({ length: 8 }, () => ({ startC: null }));
export const V1 = day(6);
export const V2 = day(8);
export const lowered = (by: number) => day(8, (y, i) => (i >= 3 && i < 6 ? y - by : y));
export const V3 = lowered(1.9);
export const V5 = day(8, (y, i) => (i === 4 ? y - 3 : y));
export const V6: Day = { pulls: V1.pulls, y: [238.2, 234, 240.1, 243.1, 239.5, 246].map((hp) => 100 * Math.log(hp)) };
export const V10: Day = {
  pulls: [
    ...V2.pulls.slice(0, 6),
    ...[150, 155, 160].map((m, i) => ({ setup: 2, round: 2, hours: m / 60, startC: [45, 48, 52][i]! })),
    ...[225, 230].map((m, i) => ({ setup: 0, round: 3, hours: m / 60, startC: [45, 49][i]! })),
  ],
  y: [...V2.y.slice(0, 6), ...[240.3, 239.6, 239.0].map((hp) => 100 * Math.log(hp)), ...V2.y.slice(6)],
};

/** The answer of a day, off the unmerged mixture. */
export function judged(
  { pulls, y }: Day,
  options: PrepareOptions = {},
  contrast = [-1, 1],
  prior = usualPrior(),
): Answer {
  const prepared = prepare(pulls, options);
  return answerOf(prepared, fitContrast(prepared, y, contrast, prior), { exact: true });
}
