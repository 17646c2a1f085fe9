import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newJob, newSetup } from '../job/defaults.ts';
import { inDayOrder, plannedRounds, roundsOfDay, settlePullsOf } from './layDay.ts';

const at = (minutes: readonly (number | null)[], rounds: readonly (string | null)[] = []) =>
  minutes.map((m, i) => ({ id: `p${i}`, startedMs: m === null ? null : m * 60_000, round: rounds[i] ?? null }));

describe('a day that came as files', () => {
  test('every day of rounds with short pauses and long ones between them is split where it was made, in whatever order the files come', () => {
    const day = fc.record({
      rounds: fc.array(fc.integer({ min: 3, max: 9 }), { minLength: 1, maxLength: 5 }),
      pause: fc.array(fc.double({ min: 3, max: 5, noNaN: true }), { minLength: 50, maxLength: 50 }),
      fitting: fc.array(fc.double({ min: 16, max: 120, noNaN: true }), { minLength: 5, maxLength: 5 }),
      seed: fc.array(fc.nat(), { minLength: 50, maxLength: 50 }),
    });
    fc.assert(
      fc.property(day, ({ rounds, pause, fitting, seed }) => {
        let now = 0;
        const made: { id: string; startedMs: number; round: null }[] = [];
        const ids = rounds.map((n, r) =>
          Array.from({ length: n }, (_, k) => {
            now += k > 0 ? pause[made.length]! : fitting[r]!;
            made.push({ id: `${r}-${k}`, startedMs: now * 60_000, round: null });
            return `${r}-${k}`;
          }),
        );
        const shuffled = made
          .map((p, i) => [seed[i]!, p] as const)
          .sort((a, b) => a[0] - b[0])
          .map(([, p]) => p);
        expect(roundsOfDay(shuffled)).toEqual(ids);
      }),
    );
  });

  test('files that name their rounds are believed over pauses; without times there is one round, in the order of the list', () => {
    expect(roundsOfDay(at([0, 4, 60, 64], ['1', '1', '1', '2']))).toEqual([['p0', 'p1', 'p2'], ['p3']]);
    expect(roundsOfDay(at([null, null, null]))).toEqual([['p0', 'p1', 'p2']]);
    expect(inDayOrder(at([null, 5, 1])).map((p) => p.id)).toEqual(['p2', 'p1', 'p0']);
    expect(roundsOfDay(at([0, 4, 8, 12]))).toHaveLength(1);
  });

  test('rounds get the setups that the plan still asks for, then baseline and candidates in turn', () => {
    const job = newJob('1', 'x');
    const setups = [newSetup('A', 'x'), newSetup('B', 'y', 'A'), { ...newSetup('A2', 'x'), returnsTo: 'A' }];
    const order = (count: number, patch: object = {}) =>
      plannedRounds({ ...job, setups, ...patch }, count).map((r) => r.setup);
    expect(order(3)).toEqual(['A', 'B', 'A2']);
    expect(order(5)).toEqual(['A', 'B', 'A2', 'B', 'A']);
    const plan = ['A', 'B', 'A', 'B'].map((setup) => ({ setup, settle: 1, counted: 3 }));
    expect(order(4, { question: { ...job.question, plan } })).toEqual(['A', 'B', 'A', 'B']);
    expect([settlePullsOf(5, 2), settlePullsOf(3, 2), settlePullsOf(1, 2)]).toEqual([2, 1, 0]);
  });
});
