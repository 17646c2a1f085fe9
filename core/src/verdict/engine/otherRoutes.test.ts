import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { inverse, Matrix } from 'ml-matrix';
import { normalDistribution } from '../../statistics/distributions.ts';
import { type Day, V1, V2, V5, V6 } from '../../test/engineDays.ts';
import { answerOf, merged, mixtureBelow, mixtureQuantile } from './answer.ts';
import { fitContrast } from './fit.ts';
import { driftKernel, nodeAt, USUAL_MODEL, usualPrior, type EngineModel } from './model.ts';
import type { EnginePull } from './parts.ts';
import { prepare } from './prepare.ts';

describe('the engine against other routes', () => {
  const anyDay = fc
    .record({
      rounds: fc.array(
        fc.record({
          setup: fc.nat(1),
          pulls: fc.integer({ min: 1, max: 4 }),
          gap: fc.double({ min: 0.3, max: 3, noNaN: true }),
        }),
        { minLength: 1, maxLength: 4 },
      ),
      noise: fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 40, maxLength: 40 }),
    })
    .map(({ rounds, noise }): Day => {
      let hours = 0;
      const pulls: EnginePull[] = [];
      [{ setup: 0, pulls: 2, gap: 0 }, { setup: 1, pulls: 2, gap: 1 }, ...rounds].forEach((round, r) => {
        hours += round.gap;
        for (let k = 0; k < round.pulls; k += 1) {
          pulls.push({ setup: round.setup, round: r, hours, startC: 30 + 3 * k + noise[pulls.length + 20]! });
          hours += 1 / 12;
        }
      });
      return { pulls, y: pulls.map((p, i) => 540 + 2 * p.setup + noise[i]!) };
    });

  /** Generalised least squares by dense matrices, with the heat as a column of the design that has a prior of its own. */
  function dense({ pulls, y }: Day, [mount, drift, sigma]: readonly [number, number, number]) {
    const n = pulls.length;
    const meanC = pulls.reduce((a, p) => a + p.startC!, 0) / n;
    const v = new Matrix(n, n);
    for (let i = 0; i < n; i += 1)
      for (let j = 0; j < n; j += 1) {
        const [a, b] = [pulls[i]!, pulls[j]!];
        v.set(
          i,
          j,
          (i === j ? sigma ** 2 : 0) +
            (a.round === b.round ? mount ** 2 : 0) +
            drift ** 2 * driftKernel(a.hours - b.hours),
        );
      }
    const x = new Matrix(pulls.map((p) => [p.setup === 0 ? 1 : 0, p.setup === 1 ? 1 : 0, p.startC! - meanC]));
    const precise = inverse(v);
    const information = x.transpose().mmul(precise).mmul(x);
    // h ~ N(0.10, 0.06²) stands in the design as −h, with mean −0.10.
    const { heatCoefficientSpread: spread, heatCoefficientPercentPerC: usual } = USUAL_MODEL;
    information.set(2, 2, information.get(2, 2) + 1 / spread ** 2);
    const right = x
      .transpose()
      .mmul(precise)
      .mmul(Matrix.columnVector([...y]));
    right.set(2, 0, right.get(2, 0) - usual / spread ** 2);
    const covariance = inverse(information);
    const solution = covariance.mmul(right);
    const c = [-1, 1, 0];
    return {
      mean: solution.get(1, 0) - solution.get(0, 0),
      variance: c.reduce((sum, a, i) => sum + c.reduce((own, b, j) => own + a * b * covariance.get(i, j), 0), 0),
    };
  }

  test('a node without a bad pull is dense generalised least squares, for any order of rounds', () => {
    fc.assert(
      fc.property(anyDay, fc.nat(4), fc.nat(6), fc.nat(15), (one, t, s, k) => {
        const prepared = prepare(one.pulls);
        const { means, variances, cases } = fitContrast(prepared, one.y, [-1, 1], usualPrior());
        const at = nodeAt(USUAL_MODEL, t, s, k) * cases;
        const { mountNodes, driftNodes, scatterNodes } = USUAL_MODEL;
        const other = dense(one, [mountNodes[t]!, driftNodes[s]!, scatterNodes[k]!]);
        expect(Math.abs(means[at]! - other.mean)).toBeLessThan(1e-6);
        expect(Math.abs(variances[at]! / other.variance - 1)).toBeLessThan(1e-6);
      }),
      { numRuns: 60 },
    );
  });

  test('with one node, no drift, no mounts and no bad pull it is the textbook difference of two means', () => {
    const plain: EngineModel = {
      ...USUAL_MODEL,
      ...{ scatterNodes: [0.4], mountNodes: [1e-9], driftNodes: [1e-9], badPullOdds: 1e-15 },
    };
    const prepared = prepare(V1.pulls, { meantToChange: true, model: plain });
    const a = answerOf(prepared, fitContrast(prepared, V1.y, [-1, 1], Float64Array.of(1)), { exact: true });
    const mean = (from: number) => (V1.y[from]! + V1.y[from + 1]! + V1.y[from + 2]!) / 3;
    expect(a.estimate).toBeCloseTo(mean(3) - mean(0), 9);
    expect((a.high - a.low) / 2).toBeCloseTo(1.959963984540054 * 0.4 * Math.sqrt(2 / 3), 6);
  });

  test('intervals turn with the sign, move with a shift, and hold more the surer they have to be', () => {
    fc.assert(
      fc.property(anyDay, fc.double({ min: -5, max: 5, noNaN: true }), (one, shift) => {
        const prepared = prepare(one.pulls);
        const forth = answerOf(prepared, fitContrast(prepared, one.y, [-1, 1], usualPrior()), { exact: true });
        const back = answerOf(prepared, fitContrast(prepared, one.y, [1, -1], usualPrior()), { exact: true });
        const moved = one.y.map((y, i) => y + (one.pulls[i]!.setup === 1 ? shift : 0));
        const shifted = answerOf(prepared, fitContrast(prepared, moved, [-1, 1], usualPrior()), { exact: true });
        expect(back.estimate).toBeCloseTo(-forth.estimate, 7);
        expect(back.low).toBeCloseTo(-forth.high, 5);
        expect(shifted.low - forth.low).toBeCloseTo(shift, 5);
        expect(forth.low).toBeLessThan(forth.low90);
        expect(forth.high90).toBeLessThan(forth.high);
      }),
      { numRuns: 15 },
    );
  });

  test('putting components together moves no end by more than 3e-4', () => {
    for (const { pulls, y } of [V1, V2, V5, V6]) {
      const mixture = fitContrast(prepare(pulls), y, [-1, 1], usualPrior());
      const small = merged(mixture);
      expect(small.weights.length).toBeLessThan(1000);
      for (const p of [0.025, 0.05, 0.95, 0.975])
        expect(Math.abs(mixtureQuantile(small, p) - mixtureQuantile(mixture, p))).toBeLessThan(3e-4);
    }
  });

  test('a quantile is where the distribution function says so, and Φ is good to 1e-12 (Abramowitz & Stegun 26.2, table 26.1)', () => {
    const mixture = fitContrast(prepare(V2.pulls), V2.y, [-1, 1], usualPrior());
    for (const p of [0.015, 0.3, 0.985]) expect(mixtureBelow(mixture, mixtureQuantile(mixture, p))).toBeCloseTo(p, 8);
    expect(Math.abs(normalDistribution(1) - 0.841344746068543)).toBeLessThan(1e-12);
    expect(Math.abs(normalDistribution(-3) - 0.00134989803163009)).toBeLessThan(1e-12);
  });
});
