import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { V1, V2 } from '../test/engineDays.ts';
import { answerOf } from './engine/answer.ts';
import { fitContrast } from './engine/fit.ts';
import { usualPrior } from './engine/model.ts';
import { plugIn, weighedDay, type NoiseNode } from './engine/plugIn.ts';
import { dayParts, type EnginePull } from './engine/parts.ts';
import { prepare } from './engine/prepare.ts';
import { morePullsNeeded, nearestMargin, plannedSpread, waysToNarrow, type Today } from './planning.ts';

function today({ pulls, y }: typeof V1, shift: number): Today {
  const prepared = prepare(pulls);
  const moved = y.map((value, i) => (pulls[i]!.setup === 1 ? value + shift : value));
  const answer = answerOf(prepared, fitContrast(prepared, moved, [-1, 1], usualPrior()));
  const node = plugIn(prepared, [-1, 1], answer);
  return { day: prepared, contrast: [-1, 1], side: 1, estimate: answer.estimate, node, margin: 0.1 };
}

/** Largest standard error of any part against A, for an order of one-letter setups: 3 counted and 2 settle pulls a round. */
function worstError(order: string, fittingMin: number, counted = 3): number {
  const letters = [...new Set(order)].sort();
  const pulls: EnginePull[] = [];
  let minutes = 0;
  [...order].forEach((letter, round) => {
    minutes += 2 * 5;
    for (let k = 0; k < counted; k += 1)
      pulls.push({ setup: letters.indexOf(letter), round, hours: (minutes + 5 * k) / 60, startC: 44 + 3 * k });
    minutes += 5 * counted + fittingMin;
  });
  const node: NoiseNode = { scatter: 0.45, mount: 0.12, drift: 0.25 };
  const day = dayParts(pulls);
  return Math.max(
    ...letters.slice(1).map((_, i) => {
      const contrast = letters.map((__, k) => (k === 0 ? -1 : k === i + 1 ? 1 : 0));
      return Math.sqrt(weighedDay(day, contrast, node).variance);
    }),
  );
}

describe('planned widths', () => {
  // docs/method.md, Orders for several parts: largest standard error at σ 0.45, τ 0.12, s 0.25, fitting 45 min, ± 0.02.
  test.each([
    ['ABCDEFG', 0.97],
    ['ABCDEFGA', 0.65],
    ['ABCDEFAG', 0.59],
    ['ABCDAEFGA', 0.46],
    ['ABCADEAFGA', 0.4],
  ])('order %s sees its worst part with a standard error of %d', (order, wanted) => {
    expect(Math.abs(worstError(order, 45) - wanted)).toBeLessThan(0.02);
  });

  test('another round is worth more than more pulls in every round', () => {
    expect(worstError('ABCDAEFGA', 45)).toBeLessThan(worstError('ABCDEFGA', 45, 5));
  });

  test('rounds never widen the interval (property)', () => {
    const now = today(V1, -1.9);
    const round = fc.record({ side: fc.integer({ min: 0, max: 1 }), counted: fc.integer({ min: 1, max: 6 }) });
    fc.assert(
      fc.property(fc.array(round, { maxLength: 3 }), round, (rounds, one) => {
        expect(plannedSpread(now, [...rounds, one])).toBeLessThanOrEqual(plannedSpread(now, rounds) + 1e-9);
      }),
      { numRuns: 40 },
    );
  });

  test('today without anything added is the plug-in node’s own variance', () => {
    const now = today(V2, 0);
    expect(plannedSpread(now, []) ** 2).toBeCloseTo(now.node.variance, 12);
  });
});

describe('what would settle an open question', () => {
  test('the fewest pulls whose planned interval excludes zero at today’s estimate', () => {
    const found = morePullsNeeded(today(V2, -1.95));
    expect(found.pulls).toBeGreaterThan(0);
    expect(found.halfWidth!).toBeLessThanOrEqual(0.4);
    expect(found.rounds.reduce((sum, r) => sum + r.counted, 0)).toBe(found.pulls);
  });

  test('an estimate of nothing with a margin of nothing is settled by no pulls', () => {
    expect(morePullsNeeded({ ...today(V1, -2.23), margin: 0.01 })).toEqual({
      pulls: null,
      rounds: [],
      halfWidth: null,
    });
  });

  test('a return check is the first thing that a plain before and after lacks', () => {
    const ways = waysToNarrow(today(V1, 0), (half) => half, false);
    const rounds = ways.flatMap((w) => (w.kind === 'rounds' ? [w] : []));
    const a = rounds.find((w) => w.rounds.map((r) => r.side).join() === '0')!;
    const b = rounds.find((w) => w.rounds.map((r) => r.side).join() === '1');
    expect(a.halfWidth).toBeLessThan(0.8);
    expect(a.halfWidth).toBeLessThan(b?.halfWidth ?? Infinity);
    expect(ways.some((w) => w.kind === 'known-bay')).toBe(true);
    expect(waysToNarrow(today(V1, 0), (half) => half, true).some((w) => w.kind === 'known-bay')).toBe(false);
  });

  test('±δ is the nearer end, over the measure’s factor', () => {
    expect(nearestMargin(1, 'log', 1)).toBeCloseTo(0.995033, 6);
    expect(nearestMargin(3, 'additive', 2)).toBe(1.5);
  });
});
