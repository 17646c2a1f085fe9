import { expect, test } from '@jest/globals';
import { usualPrior } from './model.ts';
import { planFloors, typicalHalfWidths, type PlannedEngineRound } from './planFloor.ts';

/** Rounds 55 min and two settle pulls apart, as the check values of docs/method.md have them. */
function plan(text: string): PlannedEngineRound[] {
  let startHours = 0;
  return text.split(' ').map((step) => {
    const counted = Number(step.slice(1));
    const round = { setup: step.startsWith('A') ? 0 : 1, counted, startHours };
    startHours += ((counted - 1) * 5 + 55 + 2 * 5) / 60;
    return round;
  });
}
const half = (text: string) => typicalHalfWidths(plan(text), [[-1, 1]], usualPrior())[0]!;

test.each([
  ['A3 B3', 1.528],
  ['A3 B3 A2', 0.949],
  ['A5 B5 A3', 0.827],
])('%s sees from about ±%d %% without history, before room is left for a bad pull', (text, wanted) => {
  expect(half(text)).toBeCloseTo(wanted, 2);
  expect(planFloors(plan(text), [[-1, 1]], usualPrior())[0]! / half(text)).toBeCloseTo(1.1, 9);
});

test('more rounds see more than more pulls, and a calm bay more than a wild one', () => {
  expect(half('A3 B3 A3 B3')).toBeLessThan(half('A6 B6'));
  const bay = (scatter: number, mount: number, drift: number) =>
    typicalHalfWidths(plan('A3 B3 A2'), [[-1, 1]], usualPrior(), { scatter, mount, drift })[0]!;
  expect(bay(0.25, 0.07, 0.1)).toBeLessThan(bay(0.7, 0.3, 0.6));
});
