import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boostControlFindings } from './boostControl.ts';

const N = 800;
const rpm = Float64Array.from({ length: N }, (_, i) => 2500 + 5 * i);
const seconds = (i: number) => i / 100;
const channel = (name: string, value: (i: number) => number) => ({
  name,
  values: Float64Array.from(rpm, (_, i) => value(i)),
});
const codes = (...channels: ReturnType<typeof channel>[]) =>
  boostControlFindings(channels, rpm, { from: 0, to: N }).map((f) => f.code);
/** Boost that builds within a second and then falls off slowly towards the limiter, as a small turbocharger's does. */
const built = (i: number) => (100 + 80 * (1 - Math.exp(-seconds(i) / 0.3))) * (1 - 0.15 * (i / N) ** 2);

describe('what the controller did during the sweep', () => {
  test('boost that builds and falls off towards the limiter is as it should be, sensor noise and all', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: N, maxLength: N }), (noise) => {
        expect(codes(channel('manifold_kpa', (i) => built(i) + noise[i]!))).toEqual([]);
      }),
      { numRuns: 30 },
    );
  });

  test('boost that overshoots, falls and climbs again is hunted for, and the place is named', () => {
    const after = (i: number) => Math.max(0, seconds(i) - 1);
    const hunting = (i: number) => built(i) * (1 + 0.09 * Math.exp(-after(i) / 2) * Math.sin(7 * after(i)));
    const [found] = boostControlFindings([channel('manifold_kpa', hunting)], rpm, { from: 0, to: N });
    expect(found?.code).toBe('hunting');
    // The first trough of the sine lies at 3π/2 over 7 rad/s, a second after the start.
    expect(Math.abs(found!.fromRpm! - (2500 + 500 * (1 + (1.5 * Math.PI) / 7)))).toBeLessThan(75);
  });

  test('an overshoot that settles without coming back is none; a single bad reading is none', () => {
    expect(
      codes(channel('boost_bar', (i) => built(i) * (1 + 0.09 * Math.exp(-((seconds(i) - 1) ** 2) / 0.1)))),
    ).toEqual([]);
    expect(codes(channel('manifold_kpa', (i) => (i === 400 ? 20 : built(i))))).toEqual([]);
  });

  test('a throttle that the controller closed and opened again; closing for good at the end is the lift', () => {
    const open = (i: number) => Math.min(1, 0.2 + i / 25);
    expect(codes(channel('throttle_fraction', (i) => (i > 300 && i < 330 ? 0.7 : open(i))))).toEqual([
      'throttle-closes',
    ]);
    expect(codes(channel('throttle_fraction', (i) => (i > 780 ? 0 : open(i))))).toEqual([]);
  });
});
