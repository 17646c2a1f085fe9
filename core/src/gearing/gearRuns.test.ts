import { describe, expect, test } from '@jest/globals';
import type { Gearing, Job } from '../job/job.ts';
import { shootoutDay } from '../test/shootoutDay.ts';
import { judgeJob } from '../verdict/judge.ts';
import { gearRuns, type SetupRun } from './gearRuns.ts';

const gearing: Gearing = {
  ...{ ratios: [3.4, 2.1, 1.4, 1.05, 0.82], finalDrive: 3.9, circumferenceM: 1.9, limiterRpm: 7000, shiftSeconds: 0.4 },
};
const car = { massKg: 1200, rolling: 0.012, dragAreaM2: 0.62 };
const job = shootoutDay({ B: { level: 0.05 }, C: { level: (n) => (n > 5500 ? 0.05 : 0) }, D: { level: -0.05 } });
const judged = judgeJob(job);
const on = (more: object): Job => ({ ...job, ...more });
const runs = (own: Job, from = 80, to = 130) => gearRuns(own, judged, from, to) as SetupRun[];
const seconds = (list: readonly SetupRun[]) => list.map((r) => r.run!.seconds);

describe('runs through the gears, setup by setup', () => {
  test('nothing without gears or without the car', () => {
    expect(gearRuns(job, judged, 80, 120)).toBe('no-gears');
    expect(gearRuns(on({ gearing }), judged, 80, 120)).toBe('no-car');
  });

  test('more power is quicker, by about as much as it is more; power at the top helps less', () => {
    const list = runs(
      on({ gearing: { ...gearing, shiftSeconds: 0 }, road: { ...car, rolling: 0, dragAreaM2: 0.001 } }),
    );
    expect(list.map((r) => r.setupId)).toEqual(['A', 'B', 'C', 'D']);
    const [a, b, c, d] = seconds(list);
    // Without drag, time is energy over power: 5 % more power takes 1/1.05 of the time.
    expect(a! / b!).toBeCloseTo(1.05, 2);
    expect(a! / d!).toBeCloseTo(0.95, 2);
    expect(c!).toBeLessThan(a!);
    expect(c!).toBeGreaterThan(b!);
  });

  test('a heavier car, more drag and slow shifts take longer', () => {
    const [base] = seconds(runs(on({ gearing, road: car })));
    const [heavy] = seconds(runs(on({ gearing, road: { ...car, massKg: 1500 } })));
    const [bluff] = seconds(runs(on({ gearing, road: { ...car, dragAreaM2: 0.9 } })));
    const slow = runs(on({ gearing: { ...gearing, shiftSeconds: 0.9 }, road: car }))[0]!.run!;
    expect(heavy!).toBeGreaterThan(base!);
    expect(bluff!).toBeGreaterThan(base!);
    expect(slow.seconds).toBeGreaterThan(base!);
    expect(slow.shiftSeconds).toBeCloseTo(0.9 * (slow.gears.length - 1), 9);
    // A drag area that is not known stands at 0.65 m² for all.
    expect(seconds(runs(on({ gearing, road: { ...car, dragAreaM2: null } })))).toEqual(
      seconds(runs(on({ gearing, road: { ...car, dragAreaM2: 0.65 } }))),
    );
  });

  test('a correction for weather is taken out again: the car drives in the air of the day', () => {
    const corrected = { ...judged, pulls: judged.pulls.map((p) => ({ ...p, factor: 1.05 })) };
    const own = on({ gearing, road: car });
    const driven = gearRuns(own, corrected, 80, 130) as SetupRun[];
    for (const [i, s] of seconds(driven).entries()) expect(s).toBeGreaterThan(seconds(runs(own))[i]!);
  });

  test('a setup without a curve and a speed out of reach have no run', () => {
    const own = on({ gearing, road: car });
    const one = { ...judged, setups: judged.setups.filter((s) => s.setupId !== 'C') };
    expect((gearRuns(own, one, 80, 130) as SetupRun[]).map((r) => r.run === null)).toEqual([false, false, true, false]);
    expect(runs(own, 80, 600).every((r) => r.run === null)).toBe(true);
  });
});
