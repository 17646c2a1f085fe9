import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { pullsOutOfStep, unevenRounds, type RoundPull } from './evenRounds.ts';

interface Block {
  readonly setup: string;
  readonly side: number | null;
  readonly atMin: number;
  readonly places: readonly number[];
  readonly round?: number;
  readonly everyMin?: number;
  readonly startC?: (k: number) => number | null;
  readonly settle?: number;
}

/** Rounds as they are pulled, five minutes apart, two settle pulls ahead unless said otherwise. */
const day = (...blocks: Block[]): RoundPull[] =>
  blocks.flatMap(({ setup, side, atMin, places, round = 1, everyMin = 5, startC = (k) => 12 + k, settle = 2 }) =>
    places.map((position, k): RoundPull => {
      const status = k < settle ? 'settle' : 'counted';
      return {
        setupId: setup,
        round,
        position,
        status,
        side,
        used: status === 'counted',
        hours: (atMin + k * everyMin) / 60,
        startC: startC(k),
      };
    }),
  );
const FIVE = [1, 2, 3, 4, 5];
const a = { setup: 'A', side: 0, atMin: 0, places: FIVE } as const;
const b = { setup: 'B', side: 1, atMin: 80, places: FIVE } as const;
const codes = (pulls: RoundPull[], more: { timesKnown?: boolean; meantToChange?: boolean } = {}) =>
  unevenRounds(pulls, 1, { timesKnown: true, meantToChange: false, ...more }).map((f) => `${f.severity}:${f.code}`);

describe('two sets of pulls that were not made alike', () => {
  test('rounds that are made alike say nothing, with a return check one pull shorter too', () => {
    expect(codes(day(a, b))).toEqual([]);
    expect(codes(day(a, b, { setup: 'A2', side: 0, atMin: 160, places: [1, 2, 3, 4] }))).toEqual([]);
  });

  test('an open hood that is always third in its round cannot be told from being third', () => {
    expect(codes(day({ ...a, places: [1, 2], settle: 0 }, { ...b, places: [3], settle: 0 }))).toEqual([
      'warning:place-crossed',
    ]);
  });

  test('a round that ended early leaves other places than its partner', () => {
    expect(codes(day(a, { ...b, places: [1, 2, 3, 4] }))).toEqual(['info:places-differ']);
    // One of six that was set aside in the middle is not worth a word.
    const six = { ...b, places: [1, 2, 3, 4, 5, 6, 7, 8] };
    const one = day(six).map((p) => ({ ...p, used: p.used && p.position !== 6 }));
    expect(codes([...day({ ...a, places: six.places }), ...one])).toEqual([]);
  });

  test('a fan that was off shows in how the intake climbs, unless the part is meant to change that', () => {
    const hot = { ...b, startC: (k: number) => 12 + 3 * k };
    expect(codes(day(a, hot))).toEqual(['warning:rise']);
    expect(codes(day(a, hot), { meantToChange: true })).toEqual([]);
    expect(codes(day(a, { ...b, startC: (k) => 12 + 2.4 * k }))).toEqual([]);
    expect(codes(day(a, { ...b, startC: () => null }))).toEqual([]);
  });

  test('nothing is compared across a night, unless a setup was run on both of its sides', () => {
    const tomorrow = { ...b, atMin: 24 * 60 };
    expect(codes(day(a, tomorrow))).toEqual(['blocking:night']);
    expect(codes(day(a, { ...a, setup: 'A2', atMin: 23 * 60 }, tomorrow))).toEqual([]);
    // C was run on both days, so it carries A over the night to B.
    const c = { setup: 'C', side: 2, atMin: 80, places: FIVE };
    expect(codes(day(a, c, { ...c, round: 2, atMin: 23 * 60 }, tomorrow))).toEqual([]);
    expect(codes(day(a, c, tomorrow))).toEqual(['blocking:night']);
    // Nobody knows when these were made.
    expect(codes(day(a, tomorrow), { timesKnown: false })).toEqual([]);
  });

  test('five hours are a long day, not a night; the order in which pulls are listed changes nothing', () => {
    expect(codes(day(a, { ...b, atMin: 20 + 5 * 60 }))).toEqual([]);
    const pulls = day(a, { ...b, atMin: 24 * 60, places: [1, 2, 3, 4] });
    fc.assert(
      fc.property(fc.shuffledSubarray(pulls, { minLength: pulls.length }), (shuffled) => {
        expect(codes(shuffled)).toEqual(['info:places-differ', 'blocking:night']);
      }),
    );
  });
});

describe('a pull that is out of step with its round', () => {
  const found = (pulls: RoundPull[], boosted = false, timesKnown = true) =>
    [...pullsOutOfStep(pulls, { timesKnown, boosted })].map(
      ([p, findings]) => `${p.setupId}${p.position} ${findings.map((f) => f.code).join(' ')}`,
    );
  const late = (pulls: RoundPull[], place: number, minutes: number) =>
    pulls.map((p) => (p.position >= place ? { ...p, hours: p.hours + minutes / 60 } : p));

  test('a pause before one of three makes it cooler than its peers', () => {
    expect(found(late(day(a), 5, 9))).toEqual(['A5 long-pause']);
    expect(found(late(day(a), 5, 4))).toEqual([]);
    expect(found(late(day(a), 5, 9), false, false)).toEqual([]);
  });

  test('a pause before a settle pull, or in a round too short to have peers, is none', () => {
    expect(found(late(day(a), 2, 20))).toEqual([]);
    expect(found(late(day({ ...a, places: [1, 2, 3] }), 3, 20))).toEqual([]);
  });

  test('on a boosted car the first pull after a change should not count; the day’s first is no such pull', () => {
    const unsettled = day({ ...a, settle: 0 }, { ...b, settle: 0 });
    expect(found(unsettled, true)).toEqual(['B1 first-after-change']);
    expect(found(unsettled, false)).toEqual([]);
    expect(found(day(a, b), true)).toEqual([]);
  });
});
