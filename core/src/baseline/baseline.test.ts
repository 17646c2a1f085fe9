import { describe, expect, test } from '@jest/globals';
import { newJob } from '../job/defaults.ts';
import { judgeJob } from '../verdict/judge.ts';
import { baselinePeakW, baselineStanding, modelRange } from './modelRange.ts';

describe('the baseline beside what the model has shown', () => {
  test('five cars: the factor t(0.975, 4)·√(1 + 1/5) is 3.04 (Hahn & Meeker, table A.13; value from memory)', () => {
    // Logs with mean ln 100 kW and standard deviation 0.01 exactly.
    const logs = [-1, -1, 0, 1, 1].map((k) => Math.log(100_000) + 0.01 * k);
    const range = modelRange(logs.map(Math.exp))!;
    expect(range.cars).toBe(5);
    expect(Math.log(range.highW / 100_000) / 0.01).toBeCloseTo(3.04, 2);
    expect(Math.log(100_000 / range.lowW) / 0.01).toBeCloseTo(3.04, 2);
  });

  test('two cars are no range; a figure that makes no sense is no car', () => {
    expect(modelRange([100_000, 101_000])).toBeNull();
    expect(modelRange([100_000, 101_000, NaN, 0])).toBeNull();
  });

  test('of cars of one model, about one in twenty stands outside the range that the others gave', () => {
    // A prediction interval keeps its promise over its own making: seeded normal deviates by Box and Muller (1958).
    let state = 20261125;
    const uniform = () => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      return (state + 0.5) / 4294967296;
    };
    const car = () =>
      100_000 * Math.exp(0.02 * Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform()));
    let outside = 0;
    for (let k = 0; k < 2000; k += 1) {
      const range = modelRange([car(), car(), car(), car()]);
      if (baselineStanding(car(), range).stands !== 'inside') outside += 1;
    }
    // 5 % of 2000 with a standard deviation of 9.7.
    expect(outside).toBeGreaterThan(60);
    expect(outside).toBeLessThan(140);
  });

  test('low is told, unknown is unknown, and before two counted pulls there is no figure', () => {
    const range = modelRange([118_000, 120_000, 122_000, 119_000])!;
    expect(baselineStanding(109_000, range).stands).toBe('low');
    expect(baselineStanding(119_500, range).stands).toBe('inside');
    expect(baselineStanding(140_000, range).stands).toBe('high');
    expect(baselineStanding(null, range).stands).toBe('unknown');
    expect(baselineStanding(109_000, null).stands).toBe('unknown');
    const job = newJob('1', 'x');
    expect(baselinePeakW(job, judgeJob(job))).toBeNull();
  });
});
