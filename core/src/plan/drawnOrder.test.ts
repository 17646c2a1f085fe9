import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { USUAL_DAY } from '../bay/jobDay.ts';
import { newJob, newPull } from '../job/defaults.ts';
import type { Job } from '../job/job.ts';
import { drawOrder, drawStands, inDrawnOrder, orderedCandidates, plannedRoundsLeft } from './drawnOrder.ts';

const step = (setup: string, settle = 2, counted = 3) => ({ setup, settle, counted });

describe('the order of setups is drawn, not chosen', () => {
  test('a draw is one of exactly the candidates, and its seed repeats it however they were listed', () => {
    fc.assert(
      fc.property(fc.integer(), fc.uniqueArray(fc.constantFrom(...'BCDEFG'), { minLength: 1 }), (seed, candidates) => {
        const drawn = drawOrder(candidates, seed);
        expect([...drawn.candidates].sort()).toEqual([...candidates].sort());
        expect(drawOrder([...candidates].reverse(), seed)).toEqual(drawn);
        expect(drawStands(drawn, candidates)).toBe(true);
      }),
    );
  });

  test('every order of three comes up about as often as the others', () => {
    const times = new Map<string, number>();
    for (let seed = 0; seed < 6000; seed += 1) {
      const order = drawOrder(['B', 'C', 'D'], seed).candidates.join('');
      times.set(order, (times.get(order) ?? 0) + 1);
    }
    // Pearson's chi-square over six orders: 5 degrees of freedom, 99.9 % point 20.52 (NIST/SEMATECH e-Handbook, 1.3.6.7.4).
    const chi2 = [...times.values()].reduce((sum, n) => sum + (n - 1000) ** 2 / 1000, 0);
    expect(times.size).toBe(6);
    expect(chi2).toBeLessThan(20.52);
  });

  test('rounds keep their places and return checks; only the candidates change places', () => {
    const steps = [step('A'), step('B'), step('A2', 2, 2), step('C'), step('A3', 2, 2)];
    const drawn = inDrawnOrder(steps, { seed: 1, candidates: ['C', 'B'] });
    expect(drawn.map((s) => s.setup)).toEqual(['A', 'C', 'A2', 'B', 'A3']);
    expect(drawn.map((s) => s.counted)).toEqual([3, 3, 2, 3, 2]);
  });

  test('a draw that was made for other candidates does not count', () => {
    const job: Job = {
      ...newJob('1', 'which of two'),
      question: { ...newJob('', '').question, candidateSetups: ['B', 'C'] },
      day: {
        ...USUAL_DAY,
        plan: { ...USUAL_DAY.plan, order: 'randomised', drawn: { seed: 1, candidates: ['C', 'B'] } },
      },
    };
    expect(orderedCandidates(job)).toEqual(['C', 'B']);
    const more = { ...job, question: { ...job.question, candidateSetups: ['B', 'C', 'D'] } };
    expect(orderedCandidates(more)).toEqual(['B', 'C', 'D']);
    const fixed = { ...job, day: { ...job.day!, plan: { ...job.day!.plan, order: 'fixed' as const } } };
    expect(orderedCandidates(fixed)).toEqual(['B', 'C']);
  });
});

describe('the rounds of the plan that are left', () => {
  test('are those that nobody has begun, a second round of one setup included', () => {
    const job = newJob('1', 'hold plan');
    const planned: Job = {
      ...job,
      question: { ...job.question, plan: [step('A'), step('A'), step('B'), step('A2')] },
    };
    const left = (...rounds: [string, number][]) =>
      plannedRoundsLeft({
        ...planned,
        pulls: rounds.map(([setup, round], i) => ({ ...newPull(`${i}`, setup, 1), round })),
      }).map((s) => s.setup);
    expect(left()).toEqual(['A', 'A', 'B', 'A2']);
    expect(left(['A', 1])).toEqual(['A', 'B', 'A2']);
    expect(left(['A', 1], ['A', 2])).toEqual(['B', 'A2']);
    // A return check may be made before its turn; the others stay in order.
    expect(left(['A', 1], ['A', 2], ['A2', 1])).toEqual(['B']);
    expect(left(['A', 1], ['A', 2], ['B', 1], ['A2', 1])).toEqual([]);
    expect(plannedRoundsLeft(job)).toEqual([]);
  });
});
