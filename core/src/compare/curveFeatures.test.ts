import { describe, expect, test } from '@jest/globals';
import { GRID_STEP_RPM, type GridCurve } from '../pull/gridCurve.ts';
import { dipsOf, fallOffTogether, featuresOf, onlyReached, peakShift } from './curveFeatures.ts';

const curve = (of: (rpm: number) => number, from = 2500, to = 7000): GridCurve => {
  const n = (to - from) / GRID_STEP_RPM + 1;
  return {
    first: from / GRID_STEP_RPM,
    values: Float64Array.from({ length: n }, (_, i) => of(from + GRID_STEP_RPM * i)),
    samples: new Uint32Array(n),
  };
};
const hump = (n: number) => 200 * (1 - ((n - 4500) / 6000) ** 2);
const dipped = (percent: number) => (n: number) =>
  hump(n) * (1 - (percent / 100) * Math.exp(-(((n - 3600) / 180) ** 2)));

describe('what a curve is like', () => {
  test('a dip of 4 % is found where it is, one of 1 % is none, and a round curve has none', () => {
    const [dip, ...others] = dipsOf(curve(dipped(4)));
    expect(others).toEqual([]);
    expect(Math.abs(dip!.atRpm - 3600)).toBeLessThanOrEqual(50);
    expect(dip!.percent).toBeGreaterThan(3);
    expect(dip!.percent).toBeLessThan(4.2);
    expect(dipsOf(curve(dipped(1)))).toEqual([]);
    expect(dipsOf(curve(hump))).toEqual([]);
  });

  test('the torque span is where torque is over 95 % of its peak; ripple is that of a sine', () => {
    const { torque, torqueSpan, ripplePercent } = featuresOf(
      curve((n) => n * hump(n)),
      curve(hump),
    );
    expect(torque!.rpm).toBeCloseTo(4500, 0);
    // 1 − (d/6000)² = 0.95 → d = 1341.6
    expect(torqueSpan).toEqual([3175, 5825]);
    expect(ripplePercent).toBeLessThan(0.1);
    const rippled = featuresOf(
      curve((n) => 100 * (1 + 0.01 * Math.sin((2 * Math.PI * n) / 150))),
      curve(hump),
    );
    expect(rippled.ripplePercent).toBeCloseTo(1 / Math.SQRT2, 1);
  });

  test('a peak that a spike makes moves back with the width; a real one stays', () => {
    const spike = curve((n) => hump(n) + (n === 6000 ? 60 : 0));
    const shifts = peakShift(curve(hump), spike);
    expect(shifts.map((s) => s.widthRpm)).toEqual([0, 100, 200, 400]);
    expect(shifts[0]!.rpm).toBeCloseTo(1500, -2);
    expect(Math.abs(shifts[3]!.rpm)).toBeLessThan(60);
    const moved = peakShift(
      curve(hump),
      curve((n) => hump(n - 300)),
    );
    for (const { rpm } of moved) expect(rpm).toBeCloseTo(300, -1);
  });

  test('setups that fall off at one engine speed are limited by something else; stretches that only one reaches are told', () => {
    const at = (rpm: number) => ({ rpm, value: 100, reached: true });
    expect(fallOffTogether([at(6000), at(6040), at(6100)])).toBeCloseTo(6046.7, 0);
    expect(fallOffTogether([at(6000), at(6040), at(6400)])).toBeNull();
    expect(fallOffTogether([at(6000), at(6040), { ...at(6100), reached: false }])).toBeNull();
    const [own, ...none] = onlyReached([
      { setupId: 'A', power: curve(hump) },
      { setupId: 'B', power: curve(hump, 2500, 7400) },
    ]);
    expect(none).toEqual([]);
    expect(own).toMatchObject({ setupId: 'B', fromRpm: 7000, toRpm: 7400 });
    expect(own!.mean).toBeCloseTo(hump(7200), 0);
  });
});
