import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { localPolynomial } from '../statistics/localPolynomial.ts';
import { scaled, windowMean } from './gridCurve.ts';
import { momentsCurve, momentsOf } from './moments.ts';

/** A sweep of an engine that breathes, with noise; no sample lies on a border of half cells. */
const sweepOf = (steps: readonly number[], noise: readonly number[]) => {
  let at = 2003.1;
  const rpm = Float64Array.from(steps, (step) => {
    at += step;
    return at % 12.5 < 0.01 ? at + 0.02 : at;
  });
  const values = rpm.map((n, i) => n * (12 - ((n - 4500) / 2500) ** 2) * (1 + noise[i % noise.length]!));
  return { rpm, values };
};
const sweeps = fc
  .record({
    steps: fc.array(fc.double({ min: 0.5, max: 22, noNaN: true }), { minLength: 120, maxLength: 400 }),
    noise: fc.array(fc.double({ min: -0.05, max: 0.05, noNaN: true }), { minLength: 7, maxLength: 31 }),
  })
  .map(({ steps, noise }) => sweepOf(steps, noise));

test('curves from sums are those from samples, for any width, factor and band (property)', () => {
  fc.assert(
    fc.property(
      sweeps,
      fc.integer({ min: 2, max: 24 }),
      fc.double({ min: 0.8, max: 1.2, noNaN: true }),
      ({ rpm, values }, halves, factor) => {
        const width = 25 * halves;
        const curve = scaled(momentsCurve(momentsOf(rpm, values), width), factor);
        const direct = scaled(
          { ...curve, values: curve.values.map((_, k) => fromSamples(rpm, values, 25 * (curve.first + k), width / 2)) },
          factor,
        );
        for (let k = 0; k < curve.values.length; k += 1) {
          const wanted = direct.values[k]!;
          if (!Number.isNaN(wanted)) expect(Math.abs(curve.values[k]! / wanted - 1)).toBeLessThan(1e-9);
        }
        const [low, high] = [25 * curve.first + 110, 25 * (curve.first + curve.values.length - 1) - 60];
        const mean = windowMean(direct, low, high);
        if (Number.isFinite(mean)) expect(Math.abs(windowMean(curve, low, high) / mean - 1)).toBeLessThan(1e-9);
      },
    ),
    { numRuns: 60 },
  );
});

/** Local quadratic straight from the samples; NaN where sums would read between neighbours. */
function fromSamples(rpm: Float64Array, values: Float64Array, at: number, half: number): number {
  const right = rpm.findIndex((n) => n >= at);
  if (right > 0 && rpm[right]! - rpm[right - 1]! > half) return NaN;
  const low = rpm.findIndex((n) => n >= at - half);
  const beyond = rpm.findIndex((n) => n > at + half);
  const high = beyond < 0 ? rpm.length : beyond;
  return high - low >= 4 ? localPolynomial(rpm, values, low, high, at, 2).value : NaN;
}

test('a straight line and a parabola pass through every width unchanged, on a grid of any spacing (property)', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(5, 10, 12.5, 25, 50),
      fc.constantFrom(0, 60, 100, 200, 400),
      fc.double({ min: -50, max: 50, noNaN: true }),
      (spacing, width, bend) => {
        const rpm = Float64Array.from({ length: 3000 / spacing }, (_, i) => 2000 + spacing * i);
        const line = momentsCurve(
          momentsOf(
            rpm,
            rpm.map((n) => 3 * n + 7),
          ),
          width,
        );
        line.values.forEach((value, k) => expect(value).toBeCloseTo(75 * (line.first + k) + 7, 5));
        if (width < 4 * spacing || width === 0) return;
        const bent = momentsCurve(
          momentsOf(
            rpm,
            rpm.map((n) => bend * ((n - 3500) / 1000) ** 2),
          ),
          width,
        );
        // At the ends a window holds too few samples, and a straight line is read between them.
        const edge = Math.ceil(width / 2 / 25);
        for (let k = edge; k < bent.values.length - edge; k += 1)
          expect(bent.values[k]).toBeCloseTo(bend * ((25 * (bent.first + k) - 3500) / 1000) ** 2, 6);
      },
    ),
  );
});

test('a sample on the border of two half cells counts half in each: the window stays even on both sides', () => {
  const rpm = Float64Array.from({ length: 81 }, (_, i) => 3000 + 25 * i);
  const step = rpm.map((n) => (n < 4000 ? 0 : n > 4000 ? 2 : 1));
  const curve = momentsCurve(momentsOf(rpm, step), 200);
  for (let k = 0; k <= 20; k += 1) expect(curve.values[40 - k]! + curve.values[40 + k]!).toBeCloseTo(2, 9);
  expect([...new Set(curve.samples)]).toEqual([1]);
});
