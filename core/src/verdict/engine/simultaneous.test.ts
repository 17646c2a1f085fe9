import { describe, expect, test } from '@jest/globals';
import { pointwiseLevel, simultaneousCritical, tukeyCritical } from './simultaneous.ts';

describe('intervals that hold together', () => {
  test.each([
    [1, 0, 1.959964],
    [2, 0.5, 2.212128],
    [9, 0.5, 2.686223],
    [9, 0, 2.76553],
  ])('%d estimates that correlate %d: c∞ %d', (m, rho, wanted) => {
    expect(simultaneousCritical(m, rho)).toBeCloseTo(wanted, 5);
  });

  test('uncorrelated estimates are Šidák’s: (2Φ(c) − 1)^m is the confidence', () => {
    const c = simultaneousCritical(5, 0);
    expect((1 - pointwiseLevel(c)) ** 5).toBeCloseTo(0.95, 7);
    expect(() => simultaneousCritical(0, 0)).toThrow(RangeError);
  });

  // Studentised range at infinite degrees of freedom, upper 5 % (Harter 1960), in two decimals.
  test.each([
    [2, 2.77],
    [3, 3.31],
    [4, 3.63],
    [5, 3.86],
    [6, 4.03],
    [7, 4.17],
    [8, 4.29],
  ])('the range of %d means: q %d', (k, q) => {
    expect(tukeyCritical(k) * Math.SQRT2).toBeCloseTo(q, 2);
  });

  // The same tables in three decimals; values from memory.
  test.each([
    [3, 3.314],
    [5, 3.858],
    [8, 4.286],
  ])('the range of %d means to three decimals: q %d', (k, q) => {
    expect(Math.abs(tukeyCritical(k) * Math.SQRT2 - q)).toBeLessThan(0.001);
  });
});
