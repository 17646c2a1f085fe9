import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newPull } from './defaults.ts';
import { pullsInOrder, type Pull } from './job.ts';

const pull = (setupId: string, round: number, position: number, minute: number | null): Pull => ({
  ...newPull(`${setupId}${round}-${position}`, setupId, position),
  round,
  startedAt: minute === null ? null : new Date(Date.UTC(2026, 10, 26, 8, minute)).toISOString(),
});
const names = (pulls: readonly Pull[]) => pullsInOrder(pulls).map((p) => p.id);

test('by time across setups and rounds, without any times by round and place', () => {
  expect(names([pull('B', 1, 1, 40), pull('A', 2, 1, 80), pull('A', 1, 2, 5), pull('A', 1, 1, 0)])).toEqual(
    'A1-1 A1-2 B1-1 A2-1'.split(' '),
  );
  expect(names([pull('A', 2, 1, null), pull('A', 1, 2, null), pull('A', 1, 1, null)])).toEqual(
    'A1-1 A1-2 A2-1'.split(' '),
  );
});

test('a pull without a time stands in its own round, a round without times comes last', () => {
  const day = [
    pull('A', 1, 1, 0),
    pull('A', 1, 2, null),
    pull('A', 1, 3, 9),
    pull('B', 1, 1, null),
    pull('A', 2, 1, 60),
  ];
  expect(names(day)).toEqual('A1-1 A1-2 A1-3 A2-1 B1-1'.split(' '));
});

test('the order does not depend on the order in which pulls are given', () => {
  const place = fc.record({
    setup: fc.constantFrom('A', 'B'),
    round: fc.integer({ min: 1, max: 2 }),
    position: fc.integer({ min: 1, max: 6 }),
    minute: fc.option(fc.integer({ min: 0, max: 59 })),
  });
  // One pull at a place, and no two at one minute.
  const places = fc
    .uniqueArray(place, { selector: ({ setup, round, position }) => `${setup}${round}${position}`, maxLength: 12 })
    .map((list) =>
      list.filter(
        (p, i) => list.findIndex((q) => q.minute !== null && q.minute === p.minute) >= i || p.minute === null,
      ),
    );
  const shuffled = places.chain((list) =>
    fc.tuple(fc.constant(list), fc.shuffledSubarray(list, { minLength: list.length })),
  );
  fc.assert(
    fc.property(shuffled, ([given, other]) => {
      const of = (list: typeof given) => list.map((p) => pull(p.setup, p.round, p.position, p.minute));
      const order = pullsInOrder(of(given));
      // Of untimed pulls at one place of two setups nothing tells which was first; their setups tell them apart here.
      expect(order.filter((p) => p.startedAt).map((p) => p.id)).toEqual(
        pullsInOrder(of(other))
          .filter((p) => p.startedAt)
          .map((p) => p.id),
      );
      expect([...order].sort((a, b) => a.id.localeCompare(b.id)).map((p) => p.id)).toEqual(
        of(given)
          .map((p) => p.id)
          .sort((a, b) => a.localeCompare(b)),
      );
      for (const [i, p] of order.entries())
        for (const q of order.slice(i + 1))
          if (p.startedAt && q.startedAt) expect(Date.parse(p.startedAt)).toBeLessThan(Date.parse(q.startedAt));
    }),
  );
});
