import { describe, expect, test } from '@jest/globals';
import { channelValues, correctionFactor, judgeJob, pullsInOrder } from '@prandel/core';
import { torqueOf } from './day/engine.ts';
import { DEMO_DAYS, Random, sampleCsvFiles, simulateDay, type DaySpec } from './index.ts';

const quiet: DaySpec = {
  ...DEMO_DAYS[4]!,
  pullSd: 0,
  driftPercentPerHour: 0,
  heatPercentPerC: 0,
  effects: {},
  rounds: [{ setup: 'A', settle: 2, counted: 2, startMinute: 0, minutesPerPull: 5 }],
};

describe('chance', () => {
  test('the same seed gives the same day, another seed another', () => {
    expect(simulateDay(quiet)).toEqual(simulateDay(quiet));
    expect(simulateDay({ ...quiet, seed: 2 }).pulls[0]!.intakeStartC).not.toBe(
      simulateDay(quiet).pulls[0]!.intakeStartC,
    );
  });

  test('normal numbers have the spread that was asked for', () => {
    const random = new Random(1);
    const values = Array.from({ length: 4000 }, () => random.normal(2));
    const mean = values.reduce((a, b) => a + b, 0) / values.length;
    const sd = Math.sqrt(values.reduce((a, b) => a + (b - mean) ** 2, 0) / values.length);
    expect(Math.abs(mean)).toBeLessThan(0.12);
    expect(sd / 2).toBeCloseTo(1, 1);
  });

  test('neighbouring seeds are unrelated', () => {
    const first = Array.from({ length: 300 }, (_, seed) => new Random(seed).normal());
    const high = first.filter((v) => v > 0).length;
    expect(Math.abs(high - 150)).toBeLessThan(45);
  });
});

describe('physics', () => {
  test('torque runs through the points of the engine', () => {
    for (const [rpm, torque] of quiet.engine.points) expect(torqueOf(quiet.engine, rpm)).toBeCloseTo(torque, 9);
  });

  test('the core finds the torque that drove the rollers, in the air of the day, within half a per cent', () => {
    const job = simulateDay({
      ...quiet,
      rounds: [{ setup: 'A', settle: 2, counted: 2, startMinute: 0, minutesPerPull: 5 }],
    });
    const pull = judgeJob({ ...job, method: { ...job.method, correction: 'none' } }, 'verdict').pulls.find(
      (p) => p.status === 'counted',
    )!;
    const own = job.pulls.find((p) => p.id === pull.id)!;
    const air = { pressureHpa: own.pressureHpa!, airC: own.airC!, relativeHumidity: own.relativeHumidity! };
    const { factor } = correctionFactor('sae-j1349', air);
    for (let rpm = 3000; rpm <= 6500; rpm += 500) {
      const expected = (torqueOf(quiet.engine, rpm) * rpm * Math.PI) / 30 / factor;
      expect(Math.abs(pull.power.values[rpm / 25 - pull.power.first]! / expected - 1)).toBeLessThan(0.012);
    }
  });

  test('heat soaks in from pull to pull and leaves during the fitting', () => {
    const job = simulateDay(DEMO_DAYS[4]!);
    const starts = pullsInOrder(job.pulls).map((p) => [p.setupId, p.intakeStartC! - p.airC!] as const);
    const a = starts.filter(([setup]) => setup === 'A').map(([, t]) => t);
    const b = starts.filter(([setup]) => setup === 'B').map(([, t]) => t);
    expect(a.at(-1)!).toBeGreaterThan(a[0]! + 3);
    expect(b[0]!).toBeLessThan(a.at(-1)! - 3);
  });

  test('slip shows in the ratio of engine and roller, a cut-short pull ends early', () => {
    const with_ = (kind: 'slip' | 'cut-short') =>
      simulateDay({ ...quiet, mishaps: [{ setup: 'A', pull: 3, kind }] }).pulls;
    const ratio = (k: number) => {
      const pull = with_('slip')[k]!;
      const roller = channelValues(pull, 'roller_rad_s')!;
      return Math.max(...channelValues(pull, 'engine_rpm')!.map((n, i) => n / roller[i]!));
    };
    expect(ratio(2) / ratio(3)).toBeGreaterThan(1.02);
    const top = (k: number) => Math.max(...channelValues(with_('cut-short')[k]!, 'engine_rpm')!);
    expect(top(3) - top(2)).toBeGreaterThan(1200);
  });
});

test('the demo has a return check, an honest nothing, a pair that cannot be compared, and no worn example', () => {
  const words = JSON.stringify(
    DEMO_DAYS.map((d) => [d.title, d.setups.map((s) => [s.label, s.changes.map((c) => c.text)])]),
  ).toLowerCase();
  for (const worn of [
    'filter',
    'throttle body',
    'turbocharger',
    'header',
    'ignition',
    'intercooler',
    'downpipe',
    'silencer',
    'cam ',
  ]) {
    expect(words).not.toContain(worn);
  }
  expect(DEMO_DAYS[0]!.setups.some((s) => s.returnsTo === 'A')).toBe(true);
  expect(sampleCsvFiles().map(([name]) => name)).toEqual(expect.arrayContaining(['roller-A-1.csv', 'sheet-B-5.csv']));
});
