import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { betweenVariancePauleMandel, betweenVarianceReml, randomEffects, type Study } from './randomEffects.ts';

// 13 trials of a vaccine, events/total treated | control (Colditz et al. 1994, JAMA 271; table from memory). y = ln risk ratio.
const TRIALS =
  '4/123|11/139, 6/306|29/303, 3/231|11/220, 62/13598|248/12867, 33/5069|47/5808, 180/1541|372/1451, 8/2545|10/629, 505/88391|499/88391, 29/7499|45/7277, 17/1716|65/1665, 186/50634|141/27338, 5/2498|3/2341, 27/16913|29/17854';
const STUDIES: Study[] = TRIALS.split(', ').map((trial) => {
  const [[a, n1], [c, n2]] = trial.split('|').map((arm) => arm.split('/').map(Number)) as [
    [number, number],
    [number, number],
  ];
  return { estimate: Math.log(a / n1 / (c / n2)), variance: 1 / a - 1 / n1 + 1 / c - 1 / n2 };
});

describe('thirteen trials of Colditz et al. 1994', () => {
  const all = randomEffects(STUDIES);

  test('variance between trials: restricted maximum likelihood 0.313243, Paule and Mandel 0.318068', () => {
    expect(betweenVarianceReml(STUDIES)).toBeCloseTo(0.313243, 6);
    expect(betweenVariancePauleMandel(STUDIES)).toBeCloseTo(0.318068, 6);
  });

  test('average −0.714532, its standard error 0.180792, Q 152.2330, I² 92.12 %', () => {
    expect(all.mean).toBeCloseTo(-0.714532, 6);
    expect(all.standardError).toBeCloseTo(0.180792, 6);
    expect(all.q).toBeCloseTo(152.233, 4);
    expect(100 * all.inconsistency).toBeCloseTo(92.12, 2);
    const w = STUDIES.map((s) => 1 / (s.variance + all.betweenVariance));
    expect(1 / Math.sqrt(w.reduce((a, b) => a + b))).toBeCloseTo(0.179782, 6);
  });

  test('intervals: t(0.975, 12) = 2.178813 for the average, t(0.975, 11) = 2.200985 for the next (published t tables)', () => {
    expect(all.high! - all.mean).toBeCloseTo(2.178813 * 0.180792, 5);
    expect(all.nextHigh! - all.mean).toBeCloseTo(2.200985 * Math.sqrt(0.313243 + 0.180792 ** 2), 5);
  });
});

test('one study is itself; two have no interval of their average', () => {
  const one = randomEffects([{ estimate: 2, variance: 0.25 }]);
  expect([one.mean, one.standardError, one.low, one.nextLow, one.betweenVariance]).toEqual([2, 0.5, null, null, 0]);
  const two = randomEffects([
    { estimate: 1, variance: 0.1 },
    { estimate: 3, variance: 0.1 },
  ]);
  expect([two.mean, two.low, two.nextHigh]).toEqual([2, null, null]);
  expect(two.weights).toEqual([0.5, 0.5]);
  expect(() => randomEffects([])).toThrow(RangeError);
  expect(() => randomEffects([{ estimate: 1, variance: 0 }])).toThrow(RangeError);
});

const studies = fc.array(
  fc.record({
    estimate: fc.double({ min: -20, max: 20, noNaN: true }),
    variance: fc.double({ min: 0.01, max: 4, noNaN: true }),
  }),
  { minLength: 2, maxLength: 15 },
);

test('another order, another unit and another zero change nothing but order, unit and zero (property)', () => {
  fc.assert(
    fc.property(
      studies,
      fc.double({ min: 0.2, max: 5, noNaN: true }),
      fc.integer({ min: -9, max: 9 }),
      (list, unit, zero) => {
        const own = randomEffects(list);
        const moved = randomEffects(
          list.map((s) => ({ estimate: unit * s.estimate + zero, variance: unit ** 2 * s.variance })).reverse(),
        );
        expect(moved.mean).toBeCloseTo(unit * own.mean + zero, 6);
        expect(Math.sqrt(moved.betweenVariance)).toBeCloseTo(unit * Math.sqrt(own.betweenVariance), 5);
        if (own.nextHigh !== null)
          expect(moved.nextHigh! - moved.mean).toBeCloseTo(unit * (own.nextHigh - own.mean), 5);
        expect(moved.inconsistency).toBeCloseTo(own.inconsistency, 8);
        expect(own.weights.reduce((a, b) => a + b)).toBeCloseTo(1, 12);
      },
    ),
  );
});
