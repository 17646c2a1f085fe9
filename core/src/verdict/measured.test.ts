import { describe, expect, test } from '@jest/globals';
import type { Channel, Job } from '../job/job.ts';
import type { DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { airExplains } from '../measures/airAlone.ts';
import { day, RPM, shape } from '../test/curveDays.ts';
import { judgeJob } from './judge.ts';

/** A day whose pulls have a channel more; `of` gives its samples by setup and number of the pull. */
function dayWith(
  channel: string,
  of: (setup: string, n: number) => ((rpm: number) => number) | null,
  measures: readonly DeclaredMeasure[],
  gain = 2,
): Job {
  const job = day(gain);
  return {
    ...job,
    question: { ...job.question, measures },
    pulls: job.pulls.map((p) => {
      const values = of(p.setupId, p.position);
      const more: Channel[] = values ? [{ name: channel, values: RPM.map(values) }] : [];
      return { ...p, channels: [...p.channels, ...more] };
    }),
  };
}
const MANIFOLD: DeclaredMeasure = { id: 'mean', channel: 'manifold_kpa', meaningful: 2 };
const OIL: DeclaredMeasure = { id: 'peak', channel: 'oil_c', meaningful: 3 };
const POWER: DeclaredMeasure = { id: 'windowMeanPower', meaningful: 1 };
const wobble = (n: number) => 0.3 * Math.sin(5 * n);
const oil = (shift: number) => (setup: string, n: number) => (rpm: number) =>
  90 + rpm / 1000 + wobble(n) + (setup === 'B' ? shift : 0);
const codes = (job: Job, at = 0) =>
  judgeJob(job, 'verdict').verdicts[at]!.conditions.findings.map((f) => `${f.severity} ${f.code}`);

describe('each measure has a verdict of its own', () => {
  test('power and a temperature of one day, in their order, in their own units; power reads as if it were alone', () => {
    const both = dayWith('oil_c', oil(-12), [POWER, OIL]);
    const [power, temperature] = judgeJob(both).verdicts;
    expect([power!.measure, temperature!.measure]).toEqual(['windowMeanPower', 'peak(oil_c)']);
    const alone = judgeJob({ ...both, question: { ...both.question, measures: [POWER] } }).verdicts[0]!;
    expect(power!.gain).toEqual(alone.gain);
    expect(power!.bands).toEqual(alone.bands);
    expect(temperature).toMatchObject({
      verdict: 'verified-gain',
      bands: [],
      ribbon: null,
      gain: { unit: '°C', percent: null },
    });
    expect(temperature!.gain!.value).toBeCloseTo(-12, 0);
    // Above the bay's air of 25 °C, at the hot end of the sweep.
    expect(temperature!.levels.baseline).toBeCloseTo(90 + 7.5 - 25, 0);
    const swapped = judgeJob({ ...both, question: { ...both.question, measures: [OIL, POWER] } }).verdicts;
    expect(swapped.map((v) => v.gain)).toEqual([temperature!.gain, power!.gain]);
  });

  test('a measure that has no better is told as a difference, whichever way it goes', () => {
    for (const shift of [9, -9]) {
      const job = dayWith('manifold_kpa', (s, n) => (rpm) => 180 + rpm / 1000 + wobble(n) + (s === 'B' ? shift : 0), [
        MANIFOLD,
      ]);
      const v = judgeJob(job).verdicts[0]!;
      expect(v.gain!.value).toBeCloseTo(shift, 0);
      expect(v.verdict).toBe(shift > 0 ? 'verified-gain' : 'verified-loss');
      expect(v.schools.map((s) => s.id)).toEqual(['samePosition', 'mean']);
    }
  });

  test('a fade is a slope a round: what shifts a setup as a whole does not fade', () => {
    const job = day(2);
    const fading: Job = {
      ...job,
      question: { ...job.question, measures: [{ id: 'fade', meaningful: 0.3 }] },
      pulls: job.pulls.map((p) => {
        const level = 1 - (p.setupId === 'B' ? 0.001 : 0.012) * p.position;
        return {
          ...p,
          channels: p.channels.map((c) =>
            c.name === 'wheel_power_w' ? { ...c, values: RPM.map((r) => shape(r) * level) } : c,
          ),
        };
      }),
    };
    const v = judgeJob(fading).verdicts[0]!;
    expect(v.levels.baseline).toBeCloseTo(-1.24, 1);
    expect(v.levels.candidate).toBeCloseTo(-0.1, 1);
    expect(v.gain!.value).toBeCloseTo(1.14, 1);
    expect(v).toMatchObject({ verdict: 'verified-gain', gain: { unit: '%/pull' }, returnCheck: null });
    const short = { ...fading, pulls: fading.pulls.filter((p) => p.setupId !== 'B' || p.position < 4) };
    expect(judgeJob(short).verdicts[0]).toMatchObject({ verdict: 'not-resolved', reason: 'too-few-pulls', gain: null });
  });
});

describe('what is odd about a channel is told, and never guessed', () => {
  test('a pull without the channel counts for power and not for its measure; half of them missing compares nothing', () => {
    const one = dayWith('oil_c', (s, n) => (s === 'B' && n === 3 ? null : oil(-12)(s, n)), [POWER, OIL]);
    const [power, temperature] = judgeJob(one).verdicts;
    expect([power!.pulls.candidate.used, temperature!.pulls.candidate.used]).toEqual([3, 2]);
    expect(codes(one, 1)).toContain('warning not-read');
    expect(codes(one, 0)).not.toContain('warning not-read');
    const half = dayWith('oil_c', (s, n) => (s === 'B' ? null : oil(-12)(s, n)), [OIL]);
    expect(judgeJob(half).verdicts[0]!.gain).toBeNull();
    const most = dayWith('oil_c', (s, n) => (n > 2 ? null : oil(-12)(s, n)), [OIL]);
    expect(codes(most)).toContain('blocking not-read');
    expect(judgeJob(most).verdicts[0]!.verdict).toBe('not-comparable');
  });

  test.each([
    ['never changes', 'oil_c', () => 90, OIL, 'blocking channel-constant'],
    [
      '3,000 °C of charge air',
      'charge_c',
      (r: number) => 2900 + r / 50,
      { ...OIL, channel: 'charge_c' },
      'blocking channel-implausible',
    ],
    [
      'whole degrees',
      'oil_c',
      (r: number) => Math.round(85 + r / 900),
      { ...OIL, meaningful: 1 },
      'warning channel-coarse',
    ],
    ['whole degrees where three would matter', 'oil_c', (r: number) => Math.round(85 + r / 900), OIL, null],
  ])('a channel that reads %s', (_, channel, values, measure, code) => {
    const found = codes(dayWith(channel, () => values, [measure])).filter((c) => c.includes('channel-'));
    expect(found).toEqual(code === null ? [] : [code]);
  });
});

test('what the air alone would explain comes from the channels of both sides, or from none', () => {
  const air = (job: Job) => airExplains(job, judgeJob(job, 'verdict'), 'B');
  const hot = dayWith('intake_c', (s, n) => () => (s === 'B' ? 38 : 63) + wobble(n), [POWER]);
  expect(air(hot)).toBeNull();
  const pressed = {
    ...hot,
    pulls: hot.pulls.map((p) => ({
      ...p,
      channels: [...p.channels, { name: 'manifold_kpa', values: RPM.map(() => (p.setupId === 'B' ? 201 : 198)) }],
    })),
  };
  const own = air(pressed)!;
  // Means of pulls that wobble by 0.3 °C: the check value of the formula to a tenth.
  expect(own.logPercent).toBeCloseTo(9.232, 0);
  expect(own.candidate.pressure).toBeCloseTo(201, 9);
  expect(own.beside).toEqual({ ignition_deg: null, lambda: null });
});
