import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Gearing } from '../job/job.ts';
import { GRID_STEP_RPM, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { preparePulls } from '../pull/preparedPulls.ts';
import { rotatingShare } from '../road/roadRun.ts';
import { shootoutDay } from '../test/shootoutDay.ts';
import { judgeJob } from '../verdict/judge.ts';
import { bestShift, bestShifts, engineSpeedIn, gearingProblem, throughTheGears } from './gearing.ts';
import { useGains } from './useGains.ts';
import { profileFromLog, USE_PRESETS, useProblem } from './useProfile.ts';

const curve = (of: (rpm: number) => number, from = 0, to = 9000): GridCurve => {
  const first = from / GRID_STEP_RPM;
  const n = (to - from) / GRID_STEP_RPM + 1;
  return {
    first,
    values: Float64Array.from({ length: n }, (_, i) => of(from + GRID_STEP_RPM * i)),
    samples: new Uint32Array(n),
  };
};
const FIVE: Gearing = {
  ...{ ratios: [3.4, 2.1, 1.4, 1.05, 0.82], finalDrive: 3.9, circumferenceM: 1.9, limiterRpm: 7000, shiftSeconds: 0.4 },
};
const STILL = { massKg: 1200, dragAreaM2: 0, rolling: 0, airDensity: 1.2, slope: 0 };

describe('the best shift', () => {
  test('of a parabola stands where both gears drive alike', () => {
    // P = 100 − 1e−5·(n − 6000)², r = 0.75: n = 2·6000/(1 + r); the mean over the range is 100 − 1e−5·(range/2)²/3.
    const shift = bestShift(
      curve((n) => 100 - 1e-5 * (n - 6000) ** 2),
      0.75,
      8500,
    );
    expect(shift.because).toBe('curves-meet');
    expect(shift.atRpm).toBeCloseTo(6857.143, 0);
    expect(shift.intoRpm).toBeCloseTo(5142.857, 0);
    expect(shift.meanW).toBeCloseTo(97.551, 2);
  });

  test('is the limiter where power rises to it, and the end of the curve where nobody pulled further', () => {
    const rising = curve((n) => n, 2000, 8000);
    expect(bestShift(rising, 0.7, 7500)).toMatchObject({ atRpm: 7500, because: 'limiter' });
    expect(bestShift(rising, 0.7, 8500)).toMatchObject({ atRpm: 8000, because: 'curve-ends' });
  });

  test('nobody drives harder by shifting earlier or later (property)', () => {
    const shape = fc.record({
      peak: fc.double({ min: 4500, max: 6500, noNaN: true }),
      fall: fc.double({ min: 1e-6, max: 1.4e-5, noNaN: true }),
      drop: fc.double({ min: 0.55, max: 0.92, noNaN: true }),
    });
    fc.assert(
      fc.property(shape, ({ peak, fall, drop }) => {
        const power = (n: number) => 100 * (1 - fall * (n - peak) ** 2);
        const { atRpm, because } = bestShift(curve(power, 1500), drop, 7600);
        const keeps = (n: number) => power(n) - power(n * drop);
        if (because === 'limiter') expect(keeps(7600)).toBeGreaterThanOrEqual(-0.02);
        else {
          // A straight line between points h apart is off a parabola by up to h²/8 of its curvature.
          expect(Math.abs(keeps(atRpm))).toBeLessThan((100 * fall * GRID_STEP_RPM ** 2) / 4 + 1e-3);
          expect(keeps(atRpm + 60)).toBeLessThan(0);
          expect(keeps(atRpm - 60)).toBeGreaterThan(0);
        }
      }),
    );
  });
});

describe('through the gears', () => {
  test('of constant power is the closed form gear by gear, and a shift costs its time', () => {
    // m·f·(v2² − v1²)/2P in each gear: energy, no losses. Constant power never asks for an early shift: every gear ends at the limiter.
    const power = curve(() => 90e3);
    const [from, to] = [12, 40];
    const ends = FIVE.ratios.map((r) => (FIVE.limiterRpm * FIVE.circumferenceM) / (60 * r * FIVE.finalDrive));
    const parts = FIVE.ratios.map((r, i) => {
      const [low, high] = [Math.max(from, ends[i - 1] ?? 0), Math.min(to, ends[i]!)];
      return high > low ? (STILL.massKg * rotatingShare(r * FIVE.finalDrive) * (high ** 2 - low ** 2)) / (2 * 90e3) : 0;
    });
    const run = throughTheGears(power, FIVE, from, to, STILL)!;
    const shifts = run.gears.length - 1;
    expect(shifts).toBe(parts.filter((p) => p > 0).length - 1);
    expect(run.seconds).toBeCloseTo(parts.reduce((a, b) => a + b, 0) + 0.4 * shifts, 3);
    expect(run.shiftSeconds).toBeCloseTo(0.4 * shifts, 9);
    const quick = throughTheGears(power, { ...FIVE, shiftSeconds: 0 }, from, to, STILL)!;
    expect(run.seconds - quick.seconds).toBeCloseTo(0.4 * shifts, 3);
    // Drag holds it back, during the shifts too.
    const held = throughTheGears(power, FIVE, from, to, { ...STILL, dragAreaM2: 0.7, rolling: 0.012 })!;
    expect(held.seconds).toBeGreaterThan(run.seconds);
    expect(throughTheGears(power, FIVE, from, 200, STILL)).toBeNull();
    expect(
      throughTheGears(
        curve(() => 90e3, 4000),
        FIVE,
        1,
        40,
        STILL,
      ),
    ).toBeNull();
    expect(engineSpeedIn(FIVE, 1, ends[0]!)).toBeCloseTo(7000, 6);
  });

  test('ratios out of order, and what no car has, are refused in words', () => {
    expect(gearingProblem(FIVE)).toBeNull();
    expect(gearingProblem({ ...FIVE, ratios: [3.4, 1.4, 2.1] })).toContain('gear 3 (2.1) is shorter than gear 2 (1.4)');
    for (const wrong of [
      { ratios: [] },
      { ratios: [0] },
      { finalDrive: 0 },
      { circumferenceM: 190 },
      { limiterRpm: 70 },
      { shiftSeconds: NaN },
    ])
      expect(gearingProblem({ ...FIVE, ...wrong })).not.toBeNull();
    expect(
      bestShifts(
        curve((n) => n),
        FIVE,
      ).map((s) => s.gear),
    ).toEqual([1, 2, 3, 4]);
  });
});

describe('a use profile', () => {
  test('the presets add up; one that does not is named', () => {
    for (const preset of Object.values(USE_PRESETS)) expect(useProblem(preset)).toBeNull();
    expect(
      useProblem({
        name: 'mine',
        shares: [
          { fromRpm: 3000, share: 0.6 },
          { fromRpm: 3500, share: 0.2 },
        ],
      }),
    ).toContain('80 %');
    expect(useProblem({ name: 'mine', shares: [{ fromRpm: 3100, share: 1 }] })).toContain('3100');
  });

  test('counted from a log: samples at full load, a class of 500 rpm each', () => {
    const profile = profileFromLog([3100, 3400, 3600, 5000, 900], [1, 0.9, 1, 0.2, 1], 'log')!;
    expect(profile.shares).toEqual([
      { fromRpm: 500, share: 0.25 },
      { fromRpm: 3000, share: 0.5 },
      { fromRpm: 3500, share: 0.25 },
    ]);
    expect(profileFromLog([3000], [0.1], 'log')).toBeNull();
  });

  test('a part that wins the peak and loses the street is seen to, each with its interval', () => {
    const top = (n: number) => (n > 5000 ? 0.04 : -0.03);
    const job = shootoutDay({ B: { level: top }, C: { level: 0.01 } });
    const prepared = preparePulls(job.pulls, job.bay, job.vehicle);
    const [street, circuit] = [USE_PRESETS.street, USE_PRESETS.circuit].map((p) => useGains(job, prepared, p));
    expect(street![0]!.high).toBeLessThan(0);
    expect(circuit![0]!.low).toBeGreaterThan(street![0]!.high);
    for (const list of [street!, circuit!]) {
      expect(Math.abs(list[1]!.estimate - 1)).toBeLessThan(0.2);
      expect(list[1]!.low).toBeGreaterThan(0);
    }
    // Of what the pulls cover: nobody pulled below 2500 rpm.
    expect(street![0]!.covered).toBeCloseTo(0.8, 9);
    // A profile of one class reads as the mean over it.
    const only = useGains(job, prepared, { name: 'one', shares: [{ fromRpm: 6000, share: 1 }] });
    const asked = judgeJob({ ...job, question: { ...job.question, windowRpm: [6000, 6500] } }).verdicts[0]!.gain!;
    expect(only[0]!.estimate).toBeCloseTo(asked.percent!, 6);
    expect(only[0]!.low).toBeCloseTo(asked.lowPercent!, 6);
    const flat = windowMean(
      curve(() => 5),
      3000,
      3500,
    );
    expect(flat).toBe(5);
  });
});
