import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { denseProjection } from './denseProjection.ts';
import { answerOf } from './answer.ts';
import { fitContrast } from './fit.ts';
import { USUAL_MODEL, usualPrior, type EngineModel } from './model.ts';
import { dayParts, type EnginePull, type PrepareOptions } from './parts.ts';
import { pivotedCholesky } from './pivotedCholesky.ts';
import { prepare } from './prepare.ts';
import { allNodes } from './projection.ts';
import { timeProjection } from './timeProjection.ts';

// Fewer nodes than the usual ones, with their ends: the dense route takes its time.
const MODEL: EngineModel = {
  ...USUAL_MODEL,
  scatterNodes: [0.06, 0.45, 3],
  mountNodes: [0.0375, 0.6],
  driftNodes: [0.06, 2.04],
};

interface Made {
  readonly pulls: EnginePull[];
  readonly options: PrepareOptions;
  readonly values: Float64Array;
}

/** Days of 44 pulls and more, in which two pulls may start at once, a night may lie between rounds and blocks cross them. */
const anyDay = fc
  .record({
    rounds: fc.array(
      fc.record({
        setup: fc.nat(2),
        pulls: fc.integer({ min: 1, max: 5 }),
        gap: fc.oneof(fc.constant(0), fc.double({ min: 0.01, max: 2, noNaN: true }), fc.constant(14)),
      }),
      { minLength: 8, maxLength: 12 },
    ),
    blocks: fc.boolean(),
    known: fc.boolean(),
    unstrapped: fc.boolean(),
    walkShare: fc.constantFrom(0, 0.35, 1),
    noise: fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 200, maxLength: 200 }),
  })
  .map(({ rounds, blocks, known, unstrapped, walkShare, noise }): Made => {
    const pulls: EnginePull[] = [];
    let hours = 0;
    [{ setup: 0, pulls: 20, gap: 0 }, { setup: 1, pulls: 20, gap: 0.3 }, ...rounds].forEach((round, r) => {
      hours += round.gap;
      for (let k = 0; k < round.pulls; k += 1) {
        const startC = known ? 30 + noise[pulls.length]! : null;
        const block = blocks ? { block: pulls.length % 2 } : {};
        pulls.push({ setup: round.setup, round: r, hours, startC, ...block });
        hours += k % 3 === 2 ? 0 : 1 / 12;
      }
    });
    const values = Float64Array.from(pulls, (_, i) => noise[(i + 100) % 200]!);
    return { pulls, values, options: { unstrapped, model: { ...MODEL, walkShare } } };
  });

describe('the projection along time', () => {
  test('is the projection by decompositions, to 1e-6 (property)', () => {
    fc.assert(
      fc.property(anyDay, ({ pulls, options, values }) => {
        const day = dayParts(pulls, options);
        const [dense, time] = [denseProjection(day), timeProjection(day)!];
        expect(time.degrees).toBe(dense.degrees);
        const nodes = allNodes(day.model);
        const far = (a: ArrayLike<number>, b: ArrayLike<number>) => {
          let [off, size] = [0, 0];
          for (let i = 0; i < a.length; i += 1) {
            off = Math.max(off, Math.abs(a[i]! - b[i]!));
            size = Math.max(size, Math.abs(a[i]!));
          }
          return off / size;
        };
        expect(far(dense.halfLogWeights, time.halfLogWeights)).toBeLessThan(1e-6);
        expect(far(dense.firm, time.firm)).toBeLessThan(1e-6);
        const projected = (of: typeof dense) => {
          const all: Float64Array[] = [];
          of.through(
            nodes,
            () => values,
            (own) => all.push(own.slice()),
          );
          return all;
        };
        const other = projected(time);
        projected(dense).forEach((own, place) => expect(far(own, other[place]!)).toBeLessThan(1e-6));
      }),
      { numRuns: 25 },
    );
  });

  test('says of a day what decompositions say: the answer is the same in every digit that is shown', () => {
    const pulls = Array.from({ length: 60 }, (_, i): EnginePull => {
      const round = Math.floor(i / 10);
      return { setup: round % 2, round, hours: i / 10 + round * 0.2, startC: 40 + (i % 10) };
    });
    const y = pulls.map((p, i) => 540 + 2 * p.setup + 0.6 * Math.sin(7 * i) + 0.3 * Math.sin(p.hours));
    const usual = prepare(pulls);
    const dense = prepare(
      pulls.map((p) => ({ ...p })),
      {},
    );
    const by = (projection: typeof usual.projection) =>
      answerOf(usual, fitContrast({ ...usual, projection }, y, [-1, 1], usualPrior()), { exact: true });
    const [one, other] = [by(usual.projection), by(denseProjection(dense))];
    for (const end of ['estimate', 'low', 'high', 'low90', 'high90', 'p'] as const)
      expect(Math.abs(one[end] - other[end])).toBeLessThan(1e-6);
    expect(timeProjection(usual)).not.toBeNull();
  });

  test('is left to decompositions where another round lies within a round, and where blocks are the setups', () => {
    const pulls = Array.from({ length: 60 }, (_, i): EnginePull => {
      return { setup: Math.floor(i / 15) % 2, round: Math.floor(i / 15), hours: i / 12, startC: 30 };
    });
    expect(timeProjection(dayParts(pulls))).not.toBeNull();
    const broken = pulls.map((p, i) => (i === 20 ? { ...p, hours: 0.5 } : p));
    expect(timeProjection(dayParts(broken))).toBeNull();
    expect(prepare(broken).projection.degrees).toBe(58);
    const same = pulls.map((p) => ({ ...p, block: p.setup }));
    expect(timeProjection(dayParts(same))).toBeNull();
    expect(prepare(same).projection.degrees).toBe(58);
  });
});

test('columns of a table put it together again, and there are as many as its rank (property)', () => {
  const factors = fc.array(fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 6, maxLength: 6 }), {
    minLength: 1,
    maxLength: 3,
  });
  fc.assert(
    fc.property(factors, (rows) => {
      const table = (i: number, j: number) => rows.reduce((sum, row) => sum + row[i]! * row[j]!, 0);
      const columns = pivotedCholesky(6, table, 1e-9, 6)!;
      expect(columns.length).toBeLessThanOrEqual(rows.length);
      for (let i = 0; i < 6; i += 1)
        for (let j = 0; j < 6; j += 1)
          expect(columns.reduce((sum, c) => sum + c[i]! * c[j]!, 0)).toBeCloseTo(table(i, j), 7);
    }),
  );
  expect(pivotedCholesky(3, (i, j) => (i === j ? 1 : 0), 1e-9, 2)).toBeNull();
});
