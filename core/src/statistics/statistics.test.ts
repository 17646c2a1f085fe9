import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { studentT } from './distributions.ts';
import { slopeWithin } from '../measures/slopeWithin.ts';
import { localPolynomial } from './localPolynomial.ts';
import { analysisOfVariance, mean, median, mediansOfOthers, quantile, standardDeviation, steady } from './summary.ts';

describe('published tables', () => {
  // Student-t table, two-sided 95 % and 90 % (any statistics textbook).
  test.each([
    [0.975, 1, 12.7062],
    [0.975, 5, 2.57058],
    [0.975, 10, 2.22814],
    [0.975, 30, 2.04227],
    [0.95, 4, 2.13185],
    [0.95, 20, 1.72472],
  ])('t(%d, %d) is %d', (p, df, value) => {
    expect(studentT(p, df)).toBeCloseTo(value, 4);
  });

  test('Savitzky & Golay 1964: five-point quadratic −3, 12, 17, 12, −3 over 35; slope −2 … 2 over 10', () => {
    const x = [-2, -1, 0, 1, 2];
    const weights = x.map((_, k) =>
      localPolynomial(
        x,
        x.map((_, i) => (i === k ? 1 : 0)),
        0,
        5,
        0,
        2,
      ),
    );
    [-3, 12, 17, 12, -3].forEach((c, k) => expect(weights[k]!.value).toBeCloseTo(c / 35, 12));
    [-2, -1, 0, 1, 2].forEach((c, k) => expect(weights[k]!.slope).toBeCloseTo(c / 10, 12));
  });
});

// Data and certified values from memory; that the certified digits come out confirms both.
describe('NIST Statistical Reference Datasets', () => {
  test('NumAcc1 and NumAcc4: mean and standard deviation', () => {
    expect(mean([10000001, 10000003, 10000002])).toBe(10000002);
    expect(standardDeviation([10000001, 10000003, 10000002])).toBe(1);
    const numAcc4 = [10000000.2, ...Array.from({ length: 1000 }, (_, i) => (i % 2 === 0 ? 10000000.1 : 10000000.3))];
    expect(mean(numAcc4)).toBeCloseTo(10000000.2, 8);
    expect(standardDeviation(numAcc4)).toBeCloseTo(0.1, 8);
  });

  test('Norris: linear regression, certified intercept, slope and residual SD', () => {
    const y = [
      0.1, 338.8, 118.1, 888, 9.2, 228.1, 668.5, 998.5, 449.1, 778.9, 559.2, 0.3, 0.1, 778.1, 668.8, 339.3, 448.9, 10.8,
      557.7, 228.3, 998, 888.8, 119.6, 0.3, 0.6, 557.6, 339.3, 888, 998.5, 778.9, 10.2, 117.6, 228.9, 668.4, 449.2, 0.2,
    ];
    const x = [
      0.2, 337.4, 118.2, 884.6, 10.1, 226.5, 666.3, 996.3, 448.6, 777, 558.2, 0.4, 0.6, 775.5, 666.9, 338, 447.5, 11.6,
      556, 228.1, 995.8, 887.6, 120.2, 0.3, 0.3, 556.8, 339.1, 887.2, 999, 779, 11.1, 118.3, 229.2, 669.1, 448.9, 0.5,
    ];
    const fit = localPolynomial(x, y, 0, 36, 0, 1);
    expect(fit.value).toBeCloseTo(-0.262323073774029, 11);
    expect(fit.slope).toBeCloseTo(1.00211681802045, 13);
    const residuals = x.map((at, i) => y[i]! - fit.value - fit.slope * at);
    expect(Math.sqrt(residuals.reduce((s, r) => s + r * r, 0) / 34)).toBeCloseTo(0.884796396144373, 11);
    // The same by the regression within rounds, with the certified standard deviation of the slope.
    const within = slopeWithin([{ x, y }]);
    expect(within.slope).toBeCloseTo(1.00211681802045, 12);
    expect(Math.sqrt(within.residual / 34 / within.spread)).toBeCloseTo(0.429796848199937e-3, 14);
  });

  test('SmLs01: analysis of variance, F 21, residual SD 0.1', () => {
    const centres = [1.4, 1.3, 1.5, 1.3, 1.5, 1.3, 1.5, 1.3, 1.5];
    const groups = centres.map((c) => [c, ...Array.from({ length: 20 }, (_, i) => c + (i % 2 === 0 ? -0.1 : 0.1))]);
    const table = analysisOfVariance(groups);
    expect(table.f).toBeCloseTo(21, 9);
    expect([table.between.df, table.within.df]).toEqual([8, 180]);
    expect(table.residualSd).toBeCloseTo(0.1, 12);
  });
});

test('quantiles interpolate (Hyndman & Fan type 7) and thresholds see 1e-9', () => {
  expect(quantile([1, 2, 3, 4], 0.6)).toBeCloseTo(2.8, 12);
  expect(steady(0.1 + 0.2)).toBe(0.3);
  expect(steady(-1e-12)).toBe(0);
});

test('the median of all others is the median without the value itself, ties and holes and all (property)', () => {
  const value = fc.oneof(
    fc.integer({ min: -3, max: 3 }),
    fc.double({ noNaN: true, min: -9, max: 9 }),
    fc.constant(NaN),
  );
  fc.assert(
    fc.property(fc.array(value, { minLength: 1, maxLength: 12 }), (values) => {
      const apart = values.map((_, i) => median(values.filter((v, j) => j !== i && Number.isFinite(v))));
      expect([...mediansOfOthers(values)]).toEqual(apart);
    }),
  );
});
