import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { dominatedBy, frontierChances } from './frontier.ts';
import { canBeFirst, isSurelyBetter, rankIntervals, tiedRuns, type PairInterval } from './ranks.ts';

/** Pairs of made-up gains known to within half a width: what Tukey's intervals look like. */
const pairsOf = (gains: readonly number[], half: number): PairInterval[] =>
  gains.flatMap((a, i) =>
    gains.slice(i + 1).map((b, k) => {
      return { setup: String(i), against: String(i + 1 + k), low: a - b - half, high: a - b + half };
    }),
  );

describe('ranks as intervals', () => {
  const day = fc.record({
    gains: fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 2, maxLength: 11 }),
    half: fc.double({ min: 0.01, max: 4, noNaN: true }),
  });

  test('hold the place of the estimate, are whole without doubt and everything under doubt (property)', () => {
    fc.assert(
      fc.property(day, ({ gains, half }) => {
        const names = gains.map((_, i) => String(i));
        const ranks = rankIntervals(names, pairsOf(gains, half));
        const better = (i: number) => gains.filter((g) => g > gains[i]!).length;
        gains.forEach((_, i) => {
          const { from, to } = ranks.get(String(i))!;
          expect(from).toBeGreaterThanOrEqual(1);
          expect(from).toBeLessThanOrEqual(1 + better(i));
          expect(to).toBeGreaterThanOrEqual(1 + better(i));
          expect(to).toBeLessThanOrEqual(gains.length);
        });
        // Narrower intervals never make a rank wider.
        const narrower = rankIntervals(names, pairsOf(gains, half / 3));
        for (const [name, { from, to }] of narrower) {
          expect(from).toBeGreaterThanOrEqual(ranks.get(name)!.from);
          expect(to).toBeLessThanOrEqual(ranks.get(name)!.to);
        }
        for (const { to } of rankIntervals(names, pairsOf(gains, 100)).values()) expect(to).toBe(gains.length);
      }),
    );
  });

  test('a tie is a run of which no two can be told apart, as long as it can be (property)', () => {
    fc.assert(
      fc.property(day, ({ gains, half }) => {
        const sorted = [...gains].sort((a, b) => b - a);
        const pairs = pairsOf(sorted, half);
        const names = sorted.map((_, i) => String(i));
        const runs = tiedRuns(names, pairs);
        const apart = (i: number, j: number) => isSurelyBetter(pairs, String(i), String(j));
        for (const [from, to] of runs) {
          for (let i = from; i < to; i += 1) for (let j = i + 1; j <= to; j += 1) expect(apart(i, j)).toBe(false);
          if (to + 1 < sorted.length) expect(apart(from, to + 1)).toBe(true);
        }
        for (let i = 0; i + 1 < sorted.length; i += 1)
          expect(runs.some(([from, to]) => from <= i && i + 1 <= to)).toBe(!apart(i, i + 1));
        const first = canBeFirst(names, pairs);
        expect(first).toContain('0');
        expect(first).toEqual(names.filter((_, i) => !sorted.some((_g, j) => j !== i && apart(j, i))));
      }),
    );
  });
});

describe('frontier of gain against cost', () => {
  const draws = fc.record({
    costs: fc.array(fc.integer({ min: 0, max: 400 }), { minLength: 1, maxLength: 7 }),
    rows: fc.integer({ min: 1, max: 12 }),
    seed: fc.integer(),
  });

  test('of every draw the best gain is on it where it is one, and a dearer lesser gain never (property)', () => {
    fc.assert(
      fc.property(draws, ({ costs, rows, seed }) => {
        const m = costs.length;
        const values = Float64Array.from({ length: rows * m }, (_, i) => Math.round(5 * Math.sin(seed + 3 * i)));
        for (let row = 0; row < rows; row += 1) {
          const own = values.slice(row * m, (row + 1) * m);
          const on = frontierChances(costs, own);
          const best = Math.max(...own);
          expect(on.some((share, i) => share === 1 && own[i] === best)).toBe(
            best > 0 || costs.some((c, i) => c === 0 && own[i] === best),
          );
          on.forEach((share, i) => {
            const beaten = own.some((g, j) => g > own[i]! && costs[j]! <= costs[i]!);
            if (beaten) expect(share).toBe(0);
          });
        }
        const all = frontierChances(costs, values);
        const one = Array.from({ length: rows }, (_, r) => frontierChances(costs, values.slice(r * m, (r + 1) * m)));
        all.forEach((share, i) => expect(share).toBeCloseTo(one.reduce((a, own) => a + own[i]!, 0) / rows, 12));
      }),
    );
  });

  test('surely needless is what something no dearer surely equals; likely what it beats by the estimates', () => {
    const cheap = { setup: 'B', cost: 50, gain: 2 };
    const dear = { setup: 'C', cost: 90, gain: 1.5 };
    expect(dominatedBy(dear, [cheap, dear], () => 0.1)).toEqual({ how: 'surely', by: null });
    const known = (setup: string | null) => (setup === 'B' ? 0 : -1);
    expect(dominatedBy(dear, [cheap, dear], known)).toEqual({ how: 'surely', by: 'B' });
    expect(dominatedBy(dear, [cheap, dear], () => -0.4)).toEqual({ how: 'likely', by: 'B' });
    expect(dominatedBy(cheap, [cheap, dear], () => -0.4)).toEqual({ how: null, by: null });
    // A loss costs more than leaving the car alone.
    expect(dominatedBy({ setup: 'D', cost: 10, gain: -1 }, [], () => -0.4)).toEqual({ how: 'likely', by: null });
  });
});
