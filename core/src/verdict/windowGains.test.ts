import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Job } from '../job/job.ts';
import { preparePulls } from '../pull/preparedPulls.ts';
import { shootoutDay } from '../test/shootoutDay.ts';
import type { Mixture } from './engine/fit.ts';
import { intervalAt, pairLevel } from './engine/pairs.ts';
import { judgeJob } from './judge.ts';
import { windowGains } from './windowGains.ts';

const step = (n: number) => (n > 5000 ? 0.04 : -0.03);
const job = shootoutDay({ B: { level: step }, C: { level: 0.01 } });
const preparedOf = (own: Job) => preparePulls(own.pulls, own.bay, own.vehicle);
const asked = (window: readonly [number, number]): Job => ({
  ...job,
  question: { ...job.question, windowRpm: [window[0], window[1]] },
});

describe('gains over other windows', () => {
  test('are those of a job that asks that window', () => {
    const windows = [
      [3000, 7000],
      [3000, 4500],
      [5500, 7000],
    ] as const;
    const gains = windowGains(job, preparedOf(job), windows);
    for (const [i, window] of windows.entries()) {
      const own = judgeJob(asked(window)).verdicts;
      expect(gains[i]!.windowRpm).toBe(window);
      expect(gains[i]!.gains.map((g) => g.candidate)).toEqual(['B', 'C']);
      for (const [k, { gain }] of gains[i]!.gains.entries()) {
        expect(gain.value).toBeCloseTo(own[k]!.gain!.value, 3);
        expect(gain.lowValue).toBeCloseTo(own[k]!.gain!.lowValue, 2);
        expect(gain.highValue).toBeCloseTo(own[k]!.gain!.highValue, 2);
      }
    }
    expect(gains[1]!.gains[0]!.gain.highValue).toBeLessThan(0);
    expect(gains[2]!.gains[0]!.gain.lowValue).toBeGreaterThan(0);
  });

  test('a window that is empty, turned round or not pulled all over has none', () => {
    const gains = windowGains(job, preparedOf(job), [
      [4000, 4000],
      [6000, 5000],
      [1000, 4000],
      [5000, 12000],
    ]);
    expect(gains.map((g) => g.gains)).toEqual([[], [], [], []]);
  });

  test('of torque where torque was asked', () => {
    const [torque] = judgeJob({
      ...job,
      question: { ...job.question, measures: [{ id: 'windowMeanTorque', meaningful: 1 }] },
    }).verdicts;
    const own = {
      ...job,
      question: { ...job.question, measures: [{ id: 'windowMeanTorque' as const, meaningful: 1 }] },
    };
    const [gains] = windowGains(own, preparedOf(own), [[3000, 7000]]);
    expect(gains!.gains[0]!.gain.unit).toBe('N·m');
    expect(gains!.gains[0]!.gain.value).toBeCloseTo(torque!.gain!.value, 6);
  });
});

describe('intervals of all pairs at once', () => {
  test('the level falls as setups are added; of two setups it is that of one interval', () => {
    expect(pairLevel(2)).toBeCloseTo(0.05, 6);
    // Studentised range at infinite degrees of freedom, q(0.05; 3) = 3.314, q(0.05; 10) = 4.474 (tables of Tukey’s range, values from memory).
    expect(pairLevel(3)).toBeCloseTo(2 * (1 - normal(3.314 / Math.SQRT2)), 3);
    expect(pairLevel(10)).toBeCloseTo(2 * (1 - normal(4.474 / Math.SQRT2)), 4);
    for (let k = 3; k < 13; k += 1) expect(pairLevel(k)).toBeLessThan(pairLevel(k - 1));
    expect(pairLevel(4, 0.9)).toBeGreaterThan(pairLevel(4));
  });

  test('an interval holds its share of the mixture and grows with what it must hold (property)', () => {
    const cell = fc.tuple(
      fc.double({ min: -5, max: 5, noNaN: true }),
      fc.double({ min: 0.05, max: 3, noNaN: true }),
      fc.double({ min: 0.05, max: 1, noNaN: true }),
    );
    fc.assert(
      fc.property(
        fc.array(cell, { minLength: 1, maxLength: 6 }),
        fc.double({ min: 0.01, max: 0.4, noNaN: true }),
        (cells, level) => {
          const all = cells.reduce((sum, [, , w]) => sum + w, 0);
          const mixture = {
            means: Float64Array.from(cells, ([m]) => m),
            variances: Float64Array.from(cells, ([, sd]) => sd * sd),
            weights: Float64Array.from(cells, ([, , w]) => w / all),
          };
          const { low, high } = intervalAt(mixture as Mixture, level);
          const below = (x: number) => cells.reduce((sum, [m, sd, w]) => sum + (w / all) * normal((x - m) / sd), 0);
          expect(below(high) - below(low)).toBeCloseTo(1 - level, 2);
          const wider = intervalAt(mixture as Mixture, level / 4);
          expect(wider.low).toBeLessThan(low);
          expect(wider.high).toBeGreaterThan(high);
        },
      ),
      { numRuns: 100 },
    );
  });
});

/** Φ by the series of the error function (Abramowitz & Stegun 7.1.6), apart from the code under test. */
function normal(z: number): number {
  if (Math.abs(z) > 7) return z > 0 ? 1 : 0;
  const x = z / Math.SQRT2;
  let [term, sum] = [x, x];
  for (let n = 1; n < 200; n += 1) {
    term *= (2 * x * x) / (2 * n + 1);
    sum += term;
  }
  return 0.5 + (sum * Math.exp(-x * x)) / Math.sqrt(Math.PI);
}
