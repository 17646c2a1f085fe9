import { describe, expect, test } from '@jest/globals';
import { answerOf } from '../../../core/src/verdict/engine/answer.ts';
import { fitContrast } from '../../../core/src/verdict/engine/fit.ts';
import { usualPrior } from '../../../core/src/verdict/engine/model.ts';
import { prepare } from '../../../core/src/verdict/engine/prepare.ts';
import { Random } from '../random.ts';
import { worldDay, WORLDS, type World } from './worlds.ts';

/** How often the interval holds the truth, and its mean half-width, log-percent. */
function calibrated(world: World, plan: string, gain: number, days: number, seed: number) {
  const random = new Random(seed);
  const prior = usualPrior();
  let held = 0;
  let width = 0;
  for (let day = 0; day < days; day += 1) {
    const { pulls, y } = worldDay(world, plan, [gain], random);
    const prepared = prepare(pulls);
    const { low, high } = answerOf(prepared, fitContrast(prepared, y, [-1, 1], prior));
    if (low <= gain && gain <= high) held += 1;
    width += (high - low) / 2 / days;
  }
  return { held: held / days, width };
}

describe('worlds to calibrate the engine in', () => {
  test('the same seed makes the same day, and a gain moves the candidate and nothing else', () => {
    const day = (gain: number) => worldDay(WORLDS.wild, 'A3 B3 A2', [gain], new Random(5));
    expect(day(0)).toEqual(day(0));
    expect(day(2).y.map((y, i) => Math.round(1e6 * (y - day(0).y[i]!)) / 1e6)).toEqual([0, 0, 0, 2, 2, 2, 0, 0]);
  });

  // 150 days say 97 % within ±3 %; thousands are for the bench.
  test('in a usual bay the interval of A3 B3 A2 holds the truth on most days, and is narrower in a calm one', () => {
    const usual = calibrated(WORLDS.usual, 'A3 B3 A2', 1, 150, 11);
    expect(usual.held).toBeGreaterThan(0.92);
    expect(usual.width).toBeGreaterThan(0.8);
    expect(usual.width).toBeLessThan(1.05);
    expect(calibrated(WORLDS.calm, 'A3 B3 A2', 0, 50, 12).width).toBeLessThan(0.85);
  });
});
