import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { localPolynomial } from './localPolynomial.ts';
import { localSlopes } from './localSlopes.ts';

test('slopes of all samples are those of one local quadratic after the other, with jitter, holes and any window (property)', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.record({
          step: fc.double({ min: 0.002, max: 0.02, noNaN: true }),
          noise: fc.double({ min: -0.1, max: 0.1, noNaN: true }),
          hole: fc.integer({ min: 0, max: 40 }),
          half: fc.integer({ min: 5, max: 90 }),
        }),
        { minLength: 12, maxLength: 300 },
      ),
      fc.double({ min: 0, max: 3000, noNaN: true }),
      (samples, start) => {
        let at = start;
        const x = Float64Array.from(samples, ({ step }) => (at += step));
        const y = Float64Array.from(samples, ({ noise, hole }, i) => {
          const t = x[i]! - start;
          return hole === 0 ? NaN : 40 + 18 * t - 2 * t * t + noise;
        });
        const half = samples.map((s) => s.half);
        const slopes = localSlopes(x, y, half);
        slopes.forEach((slope, i) => {
          const [low, high] = [Math.max(0, i - half[i]!), Math.min(x.length, i + half[i]! + 1)];
          const one = localPolynomial(x, y, low, high, x[i]!, 2).slope;
          // Where hardly a sample is left, a line and a parabola may change places in the last digit.
          if (y.subarray(low, high).filter(Number.isFinite).length < 5) return;
          expect(Math.abs(slope - one)).toBeLessThan(1e-6 * Math.max(1, Math.abs(one)));
        });
      },
    ),
    { numRuns: 60 },
  );
});
