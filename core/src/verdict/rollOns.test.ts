import { describe, expect, test } from '@jest/globals';
import { newJob, newPull, newSetup } from '../job/defaults.ts';
import type { Job, Pull } from '../job/job.ts';
import type { DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { frameBytes, frameFrom } from '../pull/frameBytes.ts';
import { PreparedPulls } from '../pull/preparedPulls.ts';
import { detectedKind } from '../pull/pullKind.ts';
import { judgeJob } from './judge.ts';

const PEAK = 300;
const HZ = 50;

/** A throttle step at one second, torque in first order. */
function rollOn(setup: string, n: number, minute: number, tau: number, peak = PEAK, seconds = 8): Pull {
  const t = Array.from({ length: seconds * HZ }, (_, i) => i / HZ);
  const of = (name: string, f: (s: number) => number) => ({ name, values: Float64Array.from(t, f) });
  return {
    ...newPull(`${setup}${n}`, setup, n),
    kind: 'roll-on',
    startedAt: new Date(Date.UTC(2026, 4, 2, 8) + minute * 60_000).toISOString(),
    status: n === 1 ? 'settle' : 'counted',
    channels: [
      of('time_s', (s) => s),
      of('engine_rpm', () => 2400),
      of('throttle_fraction', (s) => (s < 1 ? 0.1 : 1)),
      of('wheel_torque_nm', (s) =>
        s < 1 ? 0 : peak * (1 - Math.exp(-(s - 1) / (tau * (1 + 0.006 * Math.sin(7 * n))))),
      ),
    ],
  };
}

function day(tauB: number, measures: readonly DeclaredMeasure[], change: (p: Pull) => Pull = (p) => p): Job {
  const round = (setup: string, from: number, count: number, tau: number) =>
    Array.from({ length: count }, (_, i) => rollOn(setup, i + 1, from + 4 * i, tau));
  return {
    ...newJob('j', 'Does it answer sooner?'),
    setups: [newSetup('A', 'as arrived'), newSetup('B', 'spring', 'A'), { ...newSetup('R', 'return'), returnsTo: 'A' }],
    pulls: [...round('A', 0, 4, 1), ...round('B', 70, 4, tauB), ...round('R', 140, 3, 1)].map(change),
    question: { ...newJob('', '').question, measures },
  };
}
const TIME: DeclaredMeasure = { id: 'rollOnTime', meaningful: 5 };
const DEFICIT: DeclaredMeasure = { id: 'responseDeficit', meaningful: 5 };

describe('roll-ons', () => {
  test('a fifth off the time constant is a fifth off the time and off the torque that is not there; less is better', () => {
    const [time, deficit] = judgeJob(day(0.8, [TIME, DEFICIT])).verdicts;
    for (const v of [time!, deficit!]) {
      expect(v).toMatchObject({ verdict: 'verified-gain', bands: [], ribbon: null, gain: { unit: 's' } });
      expect(v.gain!.percent).toBeCloseTo(-20, 0);
    }
    // The target is 90 % of the baseline's peak, which is its torque after seven seconds.
    const target = 0.9 * PEAK * (1 - Math.exp(-7));
    expect(time!.method.targetNm!).toBeCloseTo(target, 0);
    expect(time!.levels.baseline).toBeCloseTo(-Math.log(1 - target / PEAK), 1);
    expect(deficit!.levels.baseline).toBeLessThan(time!.levels.baseline!);
    const declared = judgeJob(day(0.8, [{ ...TIME, target: 150 }])).verdicts[0]!;
    expect(declared.levels.baseline).toBeCloseTo(Math.LN2, 1);
  });

  test('one that never gets there takes the time of its side with it, and is named', () => {
    const weak = (p: Pull) => (p.id === 'B3' ? rollOn('B', 3, 78, 0.8, 200) : p);
    const v = judgeJob(day(0.8, [TIME], weak)).verdicts[0]!;
    expect(v).toMatchObject({ verdict: 'not-resolved', reason: 'too-few-pulls', gain: null });
    expect(v.conditions.findings.find((f) => f.code === 'target-not-reached')?.parameters).toMatchObject({
      pulls: ['B·3'],
      recordedS: expect.closeTo(7, 1) as unknown,
    });
  });

  test('a throttle that never opens is left out by name; a pull of another kind is never averaged in', () => {
    const shut = (p: Pull): Pull =>
      p.id === 'B2' ? { ...p, channels: p.channels.map((c) => ({ ...c, values: c.values.map(() => 1) })) } : p;
    const judged = judgeJob(day(0.8, [TIME], shut));
    expect(judged.pulls.find((p) => p.id === 'B2')!.findings.map((f) => f.code)).toContain('no-throttle-step');
    expect(judged.verdicts[0]!.pulls.candidate.used).toBe(2);
    const power = judgeJob(day(0.8, [{ id: 'windowMeanPower', meaningful: 1 }]));
    expect(power.pulls.every((p) => !p.used)).toBe(true);
    expect(power.pulls.find((p) => p.id === 'A2')!.notUsedBecause).toEqual({ code: 'other-kind' });
  });

  test('the finder tells kinds apart; what is kept of a roll-on in place of its samples gives the same answer', () => {
    const job = day(0.8, [TIME]);
    const [first] = job.pulls;
    expect(detectedKind(first!)).toBe('roll-on');
    const speeds = (f: (i: number) => number) => ({
      channels: first!.channels.map((c) =>
        c.name === 'engine_rpm' ? { ...c, values: c.values.map((_, i) => f(i)) } : c,
      ),
    });
    expect(detectedKind(speeds((i) => 2000 + 8 * i))).toBe('sweep');
    expect(detectedKind(rollOn('A', 1, 0, 1, PEAK, 90))).toBe('hold');
    expect(detectedKind({ channels: first!.channels.slice(0, 2) })).toBe('sweep');
    const whole = new PreparedPulls();
    whole.of(job);
    const kept = new PreparedPulls();
    kept.take([...whole.frames].map(([id, frame]) => [id, frameFrom(frameBytes(frame))!] as const));
    const bare = { ...job, pulls: job.pulls.map((p) => ({ ...p, channels: [] })) };
    expect(kept.missing(bare)).toEqual([]);
    expect(kept.of(bare).map((p) => p.readings)).toEqual(whole.of(job).map((p) => p.readings));
    // A person who corrects the kind has it prepared anew.
    expect(kept.missing({ ...bare, pulls: bare.pulls.map(({ kind: _, ...p }) => p) })).toHaveLength(bare.pulls.length);
  });
});
