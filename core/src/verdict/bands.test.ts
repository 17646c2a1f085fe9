import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { V1, V10, V2, V5, V6 } from '../test/engineDays.ts';
import { heavyNodes } from './bands.ts';
import { merged, mixtureMean, mixtureQuantile } from './engine/answer.ts';
import { aimAt, fit } from './engine/fit.ts';
import { BAND_SCATTER, usualPrior } from './engine/model.ts';
import { prepare } from './engine/prepare.ts';

describe('points of the ribbon', () => {
  const days = { V1, V2, V5, V6, V10 };
  const prior = usualPrior(undefined, BAND_SCATTER);

  test('with the light nodes of their band left out the ends agree with the full sum to 1 % of the half-width (property)', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...(Object.keys(days) as (keyof typeof days)[])),
        // A point of the ribbon is an average over 250 rpm of the band's 500: alike, not the same.
        fc.array(fc.double({ min: -0.15, max: 0.15, noNaN: true }), { minLength: 11, maxLength: 11 }),
        (name, off) => {
          const { pulls, y } = days[name];
          const prepared = prepare(pulls);
          const aims = [aimAt(prepared, [-1, 1])];
          const among = heavyNodes(fit(prepared, y, aims, prior)[0]!);
          const point = y.map((value, i) => value + off[i]!);
          const [quick, full] = [fit(prepared, point, aims, prior, among)[0]!, fit(prepared, point, aims, prior)[0]!];
          const ends = (m: typeof full) => [mixtureQuantile(m, 0.025), mixtureQuantile(m, 0.975)] as const;
          const [low, high] = ends(full);
          const [quickLow, quickHigh] = ends(merged(quick, true));
          const allowed = (0.01 * (high - low)) / 2;
          expect(Math.abs(quickLow - low)).toBeLessThan(allowed);
          expect(Math.abs(quickHigh - high)).toBeLessThan(allowed);
          expect(Math.abs(mixtureMean(quick) - mixtureMean(full))).toBeLessThan(allowed);
        },
      ),
      { numRuns: 60 },
    );
  });
});
