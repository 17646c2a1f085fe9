import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import {
  bayLearned,
  bayRecord,
  fromSi,
  judgeJob,
  logPercent,
  newJob,
  newPull,
  newSetup,
  type Job,
} from '@prandel/core';
import { writePackage, zip } from '@prandel/formats';
import { V1, V10, V2, V3, V5, V6, type Day } from '../../core/src/test/engineDays.ts';
import { judgeCommand } from './index.ts';

// The engine's test vectors as whole packages: window means of horsepower, no correction (docs/method.md).
const SETUPS = ['A', 'B', 'C'];
const RPM = Float64Array.from({ length: 41 }, (_, i) => 3000 + 100 * i);
const W_PER_HP = 1 / fromSi(1, 'hp');

interface Change {
  readonly startC?: null;
  readonly hours?: readonly number[];
  readonly job?: Partial<Job>;
  readonly coolsIntake?: boolean;
  readonly unstrapped?: boolean;
}

/** A day of the vectors as a job: flat curves, so that the window's mean is the number itself. */
function jobOf(day: Day, { startC, hours, job, coolsIntake = false, unstrapped = false }: Change = {}): Job {
  const rounds = [...new Set(day.pulls.map((p) => p.round))];
  const candidates = SETUPS.slice(1, 1 + Math.max(...day.pulls.map((p) => p.setup)));
  const idOf = (round: number, setup: number) => (setup === 0 && round > 0 ? 'A2' : SETUPS[setup]!);
  return {
    ...newJob('v', 'A vector'),
    setups: [
      newSetup('A', 'as arrived'),
      ...candidates.map((id) => ({ ...newSetup(id, 'part', 'A'), remounted: unstrapped && id === 'B' })),
      ...(rounds.length > 1 + candidates.length ? [{ ...newSetup('A2', 'return check', 'A'), returnsTo: 'A' }] : []),
    ],
    method: { ...newJob('', '').method, correction: 'none', averagingWidthRpm: 0 },
    question: {
      ...newJob('', '').question,
      candidateSetups: candidates,
      windowRpm: [3500, 6500],
      partChangesIntakeTemperature: coolsIntake,
    },
    pulls: day.pulls.map((p, i) => {
      const watts = W_PER_HP * Math.exp(day.y[i]! / 100);
      return {
        ...newPull(
          `p${i}`,
          idOf(p.round, p.setup),
          1 + day.pulls.slice(0, i).filter((q) => q.round === p.round).length,
        ),
        startedAt: new Date(Date.UTC(2026, 4, 2, 8) + (hours?.[i] ?? p.hours) * 3_600_000).toISOString(),
        status: 'counted' as const,
        airC: 20,
        intakeStartC: startC === null ? null : 20 + p.startC!,
        channels: [
          { name: 'engine_rpm', values: RPM },
          { name: 'wheel_power_w', values: RPM.map(() => watts) },
        ],
      };
    }),
    ...job,
  };
}

interface Printed {
  readonly candidate: string;
  readonly gain: { readonly percent: number; readonly lowPercent: number; readonly highPercent: number };
}

async function judged(
  job: Job,
): Promise<{ verdicts: Printed[]; contrasts: { estimate: number; low: number; high: number }[] }> {
  const path = join(mkdtempSync(join(tmpdir(), 'prandel-vector-')), 'v.zip');
  writeFileSync(path, await zip(writePackage(job)));
  const lines: string[] = [];
  expect(await judgeCommand([path], (line) => lines.push(line))).toBe(0);
  return JSON.parse(lines[0]!) as Awaited<ReturnType<typeof judged>>;
}

describe('./prandel judge on the vectors, within 0.002 log-percent', () => {
  const late = V1.pulls.map((p, i) => (i < 3 ? p.hours : (300 + 5 * (i - 3)) / 60));
  test.each<[string, Job, readonly [number, number, number]]>([
    ['V1 A3 B3', jobOf(V1), [2.23242, 1.43041, 3.03308]],
    ['V2 A3 B3 A2', jobOf(V2), [2.29379, 1.85341, 2.73406]],
    ['V3 B lowered by 1.9', jobOf(V3), [0.393785, -0.0465939, 0.834064]],
    ['V5 a bad pull', jobOf(V5), [2.26582, 1.42749, 3.04915]],
    ['V6 a noisy day', jobOf(V6), [2.24181, -1.0006, 5.29754]],
    ['V7 meant to cool', jobOf(V1, { coolsIntake: true }), [2.11853, 0.910966, 3.47415]],
    ['V8 start temperatures missing', jobOf(V1, { startC: null }), [2.11853, 0.66486, 3.67817]],
    ['V9 B five hours later', jobOf(V1, { hours: late }), [2.23252, 0.590215, 3.871]],
    ['V10 three setups', jobOf(V10), [2.26811, 1.88376, 2.654]],
    ['V11 unstrapped', jobOf(V1, { unstrapped: true }), [2.23242, 1.26924, 3.19467]],
    ['V13 unstrapped with a return check', jobOf(V2, { unstrapped: true }), [2.2949, 1.74852, 2.84177]],
    ['V14 a return check, start temperatures missing', jobOf(V2, { startC: null }), [2.06892, 1.00925, 3.13084]],
  ])('%s', async (_, job, [estimate, low, high]) => {
    const { gain } = (await judged(job)).verdicts[0]!;
    expect(Math.abs(logPercent(gain.percent) - estimate)).toBeLessThan(0.002);
    expect(Math.abs(logPercent(gain.lowPercent) - low)).toBeLessThan(0.002);
    expect(Math.abs(logPercent(gain.highPercent) - high)).toBeLessThan(0.002);
  });

  test('V10: the second candidate, and one against the other', async () => {
    const { verdicts, contrasts } = await judged(jobOf(V10));
    expect(logPercent(verdicts[1]!.gain.percent)).toBeCloseTo(1.10204, 2);
    const pair = contrasts[0]!;
    [pair.estimate, pair.low, pair.high].forEach((value, i) =>
      expect(Math.abs(logPercent(value) - [-1.16607, -1.56829, -0.766946][i]!)).toBeLessThan(0.002),
    );
  });

  test('V12: a bay of five jobs, carried by the package', async () => {
    const jobs = [V1, V2, V5, V6, V3].map((day) => jobOf(day));
    const { prior } = bayLearned(jobs.map((job) => bayRecord(job, judgeJob(job, 'verdict'))));
    const { gain } = (await judged(jobOf(V2, { job: { bay: { ...newJob('', '').bay, prior } } }))).verdicts[0]!;
    expect(Math.abs(logPercent(gain.percent) - 2.29365)).toBeLessThan(0.002);
    expect(Math.abs(logPercent(gain.lowPercent) - 1.82953)).toBeLessThan(0.002);
    expect(Math.abs(logPercent(gain.highPercent) - 2.75685)).toBeLessThan(0.002);
  });
});
