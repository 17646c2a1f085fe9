import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { faultSearchesOf, searchStanding, suspectsLeft, type FaultSearch, type SearchLook } from './faultSearch.ts';
import { cheapestFirst, COMPLAINTS, learnedChance, suspectsFor, type Suspect } from './suspects.ts';

describe('the order of suspects', () => {
  const orders = <T>(list: T[]): T[][] =>
    list.length < 2 ? [list] : list.flatMap((x, i) => orders(list.filter((_, j) => j !== i)).map((o) => [x, ...o]));
  const expectedMinutes = (order: readonly Suspect[]) => {
    let spent = 0;
    return order.reduce((sum, s) => sum + s.likelihood * (spent += s.minutes), 0);
  };

  test('no other order finds the culprit sooner on average (property)', () => {
    const one = fc.record({
      minutes: fc.integer({ min: 1, max: 60 }),
      likelihood: fc.double({ min: 0.01, max: 0.5, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(one, { minLength: 2, maxLength: 5 }), (list) => {
        const suspects = list.map((s, i) => ({ ...s, key: String(i), label: '' }));
        const best = Math.min(...orders(suspects).map(expectedMinutes));
        expect(expectedMinutes(cheapestFirst(suspects))).toBeLessThanOrEqual(best + 1e-9);
      }),
    );
  });

  test('every complaint has suspects, and a boost leak is looked for on boosted cars only', () => {
    for (const complaint of COMPLAINTS)
      expect(suspectsFor({ aspiration: 'natural' }, complaint).length).toBeGreaterThan(2);
    const keys = (aspiration: 'natural' | 'turbo') => suspectsFor({ aspiration }).map((s) => s.key);
    expect(keys('natural')).not.toContain('boost');
    expect(keys('turbo')).toContain('boost');
  });

  test('a chance follows what was found: own model first, others at a quarter, and never leaves 0 to 1 (property)', () => {
    expect(learnedChance(0.2, undefined)).toBe(0.2);
    const none = { looks: 0, cures: 0 };
    // (4 · 0.25 + 3)/(4 + 4), and with four looks elsewhere (1 + 0.25 · 3)/(4 + 0.25 · 4).
    expect(learnedChance(0.25, { suspect: 'x', own: { looks: 4, cures: 3 }, others: none })).toBeCloseTo(0.5, 12);
    expect(learnedChance(0.25, { suspect: 'x', own: none, others: { looks: 4, cures: 3 } })).toBeCloseTo(0.35, 12);
    const counts = fc.nat(40).chain((looks) => fc.record({ looks: fc.constant(looks), cures: fc.nat(looks) }));
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), counts, counts, (prior, own, others) => {
        const chance = learnedChance(prior, { suspect: 'x', own, others });
        expect(chance).toBeGreaterThanOrEqual(0);
        expect(chance).toBeLessThanOrEqual(1);
      }),
    );
  });

  test('what cured cars of a model comes first on the next one', () => {
    const first = (looks: number) =>
      suspectsFor({ aspiration: 'natural' }, 'reads-low', [
        { suspect: 'fuel', own: { looks, cures: looks }, others: { looks: 0, cures: 0 } },
      ])[0]!.key;
    expect([first(0), first(1), first(6)]).toEqual(['aids', 'aids', 'fuel']);
  });
});

describe('where a search stands', () => {
  const car = { aspiration: 'natural' } as const;
  const look = (suspect: string, result: SearchLook['result'], minutes: number | null = null): SearchLook => ({
    ...{ suspect, result, minutes, pull: null, who: 'Ines R.', at: '' },
  });
  const search = (looks: SearchLook[], more: Partial<FaultSearch> = {}): FaultSearch => ({
    ...{ complaint: 'reads-low', words: '', budgetMinutes: 30, openedAt: '', openedBy: 'Ines R.', closedAt: null },
    ...{ looks, ...more },
  });
  const standing = (looks: SearchLook[], inside: boolean | null = null, more: Partial<FaultSearch> = {}) =>
    searchStanding(car, search(looks, more), [], inside);

  test('who was cleared leaves, and the next is cheapest per chance', () => {
    const keys = suspectsFor(car).map((s) => s.key);
    expect(standing([]).next!.key).toBe(keys[0]);
    expect(standing([look(keys[0]!, 'fine')]).next!.key).toBe(keys[1]);
    expect(suspectsLeft(car, search([look('tyres', 'found')]))).toEqual([]);
  });

  test('it stops when the culprit is found or cured, when the car is inside its range, and when the minutes are spent', () => {
    expect(standing([look('tyres', 'found')]).state).toBe('found');
    expect(standing([look('tyres', 'cured')]).state).toBe('cured');
    expect(standing([look('tyres', 'fine')], true).state).toBe('inside');
    // What is inside before anybody looked is no reason to stop: the words may say something else.
    expect(standing([], true).state).toBe('open');
    const spent = standing([look('tyres', 'fine', 31)]);
    expect([spent.state, spent.spentMinutes, spent.next]).toEqual(['budget', 31, null]);
    expect(spent.left.length).toBeGreaterThan(3);
    expect(standing([], null, { closedAt: 'x' }).state).toBe('closed');
    const all = suspectsFor(car).map((s) => look(s.key, 'fine', 0));
    expect(standing(all).state).toBe('all');
  });

  test('what a look took by itself counts, else what its suspect says', () => {
    expect(standing([look('tyres', 'fine'), look('gear', 'fine', 2)]).spentMinutes).toBe(7);
  });
});

test('searches of a package: older lists of looks become one, and what is no search is left out (property)', () => {
  const old = [{ suspect: 'straps', result: 'found', who: 'Ines R.', at: '2026-05-02T09:00:00Z' }];
  expect(faultSearchesOf(undefined, old)).toMatchObject([
    { complaint: 'reads-low', openedBy: 'Ines R.', looks: [{ suspect: 'straps', result: 'found', pull: null }] },
  ]);
  fc.assert(
    fc.property(fc.anything(), fc.anything(), (searches, older) => {
      for (const s of faultSearchesOf(searches, older)) expect(COMPLAINTS).toContain(s.complaint);
    }),
  );
});
