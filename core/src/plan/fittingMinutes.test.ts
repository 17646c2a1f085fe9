import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newJob, newSetup } from '../job/defaults.ts';
import type { Setup } from '../job/job.ts';
import { changeTime, fittingTable } from './fittingMinutes.ts';

/** Setups B … in a tree over A: each made from A or from one before it, with whole quarters of hours. */
const trees = fc
  .array(fc.tuple(fc.nat(20), fc.integer({ min: 0, max: 16 })), { minLength: 1, maxLength: 7 })
  .map((list): Setup[] => [
    newSetup('A', 'as arrived'),
    ...list.map(([parent, quarters], i) => ({
      ...newSetup(idOf(i + 1), `part ${i}`, idOf(parent % (i + 1))),
      labourHours: quarters / 4,
    })),
  ]);
const idOf = (i: number) => String.fromCharCode(65 + i);
const minutes = (setups: readonly Setup[], from: string, to: string, typed: Parameters<typeof changeTime>[1] = []) =>
  changeTime({ setups, baseline: 'A' }, typed, 50, from, to);

describe('minutes from one setup to another', () => {
  test('what comes off and goes on: as long back as there, no way round is quicker, and nothing for no change (property)', () => {
    fc.assert(
      fc.property(trees, (setups) => {
        const ids = setups.map((s) => s.id);
        for (const a of ids) {
          expect(minutes(setups, a, a).minutes).toBe(0);
          for (const b of ids) {
            const there = minutes(setups, a, b);
            expect(there.minutes).toBe(minutes(setups, b, a).minutes);
            for (const c of ids)
              expect(there.minutes).toBeLessThanOrEqual(minutes(setups, a, c).minutes + minutes(setups, c, b).minutes);
          }
        }
      }),
      { numRuns: 60 },
    );
  });

  test('a step on top of another leaves the one below on the car', () => {
    const hours = (id: string, parent: string, labourHours: number) => ({ ...newSetup(id, id, parent), labourHours });
    const setups = [newSetup('A', 'a'), hours('B', 'A', 1), hours('C', 'B', 0.5), hours('D', 'A', 0.25)];
    expect(minutes(setups, 'B', 'C')).toEqual({ from: 'B', to: 'C', minutes: 30, source: 'parts' });
    expect(minutes(setups, 'A', 'C').minutes).toBe(90);
    expect(minutes(setups, 'C', 'D').minutes).toBe(105);
  });

  test('typed before the parts, the parts before the plan; the ways there and back are typed apart', () => {
    const setups = [newSetup('A', 'a'), { ...newSetup('B', 'b', 'A'), labourHours: 1 }, newSetup('C', 'c', 'A')];
    const typed = [{ from: 'A', to: 'B', minutes: 12 }];
    expect(minutes(setups, 'A', 'B', typed)).toMatchObject({ minutes: 12, source: 'typed' });
    expect(minutes(setups, 'B', 'A', typed)).toMatchObject({ minutes: 60, source: 'parts' });
    expect(minutes(setups, 'A', 'C', typed)).toMatchObject({ minutes: 50, source: 'plan' });
    // One part of two without hours: nobody knows the sum.
    expect(minutes(setups, 'B', 'C', typed)).toMatchObject({ minutes: 50, source: 'plan' });
    const check = { ...newSetup('A2', 'check', 'A'), returnsTo: 'A' };
    expect(minutes([...setups, check], 'A2', 'B', typed)).toMatchObject({ from: 'A', minutes: 12, source: 'typed' });
  });

  test('the table holds every ordered pair of the question once', () => {
    const base = newJob('1', 'x');
    const job = {
      ...base,
      setups: ['A', 'B', 'C', 'D'].map((id) => newSetup(id, id, id === 'A' ? undefined : 'A')),
      question: { ...base.question, candidateSetups: ['B', 'D'] },
    };
    const pairs = fittingTable(job, [], 50).map((t) => t.from + t.to);
    expect(pairs.sort()).toEqual(['AB', 'AD', 'BA', 'BD', 'DA', 'DB']);
  });
});
