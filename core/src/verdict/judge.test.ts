import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { declared } from '../job/changes.ts';
import { newJob, newSetup } from '../job/defaults.ts';
import type { Job, Pull } from '../job/job.ts';
import type { DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { day, RPM, shape, verdictOf } from '../test/curveDays.ts';
import { bandEdges } from './bands.ts';
import type { ConditionFinding } from './conditionFindings.ts';
import { judgeJob } from './judge.ts';

const lost = (job: Job) =>
  verdictOf(job)
    .conditions.findings.filter((f) => f.severity === 'blocking')
    .map(nameOf);
/** Its code, or which condition or state differs. */
const nameOf = (f: ConditionFinding): string =>
  f.code === 'condition-differs' ? f.parameters.condition : 'state' in f.parameters ? f.parameters.state : f.code;

describe('the five verdicts', () => {
  test('a gain outside the interval is verified, in every band, and reads 3 % on every school', () => {
    const v = verdictOf(day(3));
    expect(v.verdict).toBe('verified-gain');
    expect(Math.abs(v.gain!.percent! - 3)).toBeLessThan(0.4);
    expect(v.bands.map((b) => [b.fromRpm, b.toRpm])).toEqual(bandEdges(2500, 7500));
    expect(v.bands.every((b) => b.verified)).toBe(true);
    for (const s of v.schools) expect(Math.abs(s.percent! - 3)).toBeLessThan(0.6);
    expect(v.pulls).toEqual({
      baseline: { counted: 5, used: 5, settle: 2, setAside: 0 },
      candidate: { counted: 3, used: 3, settle: 1, setAside: 0 },
    });
  });

  test('loss, no meaningful change, not resolved with a way out', () => {
    expect(verdictOf(day(-3)).verdict).toBe('verified-loss');
    expect(verdictOf(day(0)).verdict).toBe('no-meaningful-change');
    const open = verdictOf(day(0.6, {}, { pulls: day(0.6).pulls.filter((p) => p.setupId !== 'R') }));
    expect(open.verdict).toBe('not-resolved');
    expect(open.morePullsNeeded!.pulls).toBeGreaterThan(0);
  });

  test.each<[string, Job]>([
    ['intakeStart', day(3, { B: { pull: { intakeStartC: 46.5 } } })],
    ['air', day(3, { B: { pull: { airC: 36, intakeStartC: 46 } } })],
    ['factor', day(3, { B: { pull: { pressureHpa: 955 } } })],
    ['drifted-too-far', day(3, { R: { level: 1.025 } })],
    ['gear', day(3, { B: { pull: { gear: '3' } } })],
    ['weather-one-side', day(3, { B: { pull: { pressureHpa: null } } })],
    ['unknown-one-side', day(3, { B: { pull: { numberState: { kind: 'unknown' } } } })],
    [
      'settle-one-side',
      day(3, {}, { pulls: day(3).pulls.filter((p) => !(p.setupId === 'B' && p.status === 'settle')) }),
    ],
    ['window', day(3, { B: { rpm: RPM.filter((r) => r <= 5500) } })],
  ])('not comparable: %s', (code, job) => {
    expect(lost(job)).toContain(code);
    expect(verdictOf(job).verdict).toBe('not-comparable');
  });

  test('a differing state is lost until it is declared; unknown on one side never differs', () => {
    const states = (b: string | null, changes: string) =>
      day(
        3,
        {},
        {
          setups: [
            { ...newSetup('A', 'a'), state: { fuel: '95' } },
            { ...newSetup('B', 'b', 'A'), ...declared(changes), state: b ? { fuel: b } : {} },
            { ...newSetup('R', 'r'), returnsTo: 'A' },
          ],
        },
      );
    expect(lost(states('98', 'part fitted: fan'))).toEqual(['fuel']);
    expect(lost(states('98', 'fuel: 98 for 95'))).toEqual([]);
    expect(lost(states(null, ''))).toEqual([]);
    expect(verdictOf(states(null, '')).conditions.findings.map(nameOf)).toContain('fuel');
  });
});

describe('a measure is answered in its own words', () => {
  const asked = (measure: Omit<DeclaredMeasure, 'meaningful'>, more: Partial<Job> = {}) => {
    const cooler = Object.fromEntries([1, 2, 3, 4].map((i) => [`B${i}`, { pull: { coolantStartC: 70 + 0.4 * i } }]));
    const usual = Object.fromEntries(
      ['A1', 'A2', 'A3', 'A4', 'R1', 'R2', 'R3'].map((id) => [
        id,
        { pull: { coolantStartC: 80 + 0.3 * Number(id[1]) } },
      ]),
    );
    const question = {
      ...newJob('', '').question,
      windowRpm: [3000, 7000] as const,
      measures: [{ ...measure, meaningful: 3 }],
    };
    return day(3, { ...usual, ...cooler }, { ...more, question: { ...question, ...more.question } });
  };

  test('cooler is better, in degrees only: no per cent, bands or ribbon beside a temperature', () => {
    const job = asked({ id: 'start', channel: 'coolant_c' });
    const v = { ...verdictOf(job), reason: '' };
    expect(v.gain).toMatchObject({ unit: '°C', percent: null, lowPercent: null, high90Percent: null });
    expect(v.gain!.value).toBeCloseTo(-9.6, 0);
    expect(v.gain!.highValue).toBeLessThan(0);
    expect(v.verdict).toBe('verified-gain');
    expect(v).toMatchObject({ bands: [], ribbon: null });
    expect(v.schools.map((s) => s.percent)).toEqual([null, null, null]);
    expect(v.schools.map((s) => s.value! < -8)).toEqual([true, true, true]);
    const hotter = { ...job, question: { ...job.question, baselineSetup: 'B', candidateSetups: ['A'] } };
    expect(verdictOf(hotter)).toMatchObject({ verdict: 'verified-loss', gain: { unit: '°C', percent: null } });
  });

  test('torque is judged, banded and held against the schools in newton metres', () => {
    const v = verdictOf(asked({ id: 'windowMeanTorque' }));
    expect(v).toMatchObject({ verdict: 'verified-gain', gain: { unit: 'N·m' } });
    // 60 kW at 3000 rpm are 191 N·m; no torque of this car reaches four figures, every power does.
    for (const b of v.bands) expect(b.baseline).toBeLessThan(400);
    for (const value of v.ribbon!.baseline) expect(value).toBeLessThan(400);
    for (const s of v.schools) expect(Math.abs(s.value!)).toBeLessThan(20);
  });

  test('candidates are held against each other in degrees, not through the log scale', () => {
    const base = asked({ id: 'start', channel: 'coolant_c' });
    const more = ['C', 'D'].map((id, k) =>
      base.pulls
        .filter((p) => p.setupId === 'B')
        .map((p, i) => ({
          ...p,
          id: `${id}${i + 1}`,
          setupId: id,
          startedAt: new Date(Date.parse(p.startedAt!) + (k + 1) * 20 * 60_000).toISOString(),
          coolantStartC: p.coolantStartC! - 10 * (k + 1),
        })),
    );
    const { contrasts, simultaneous, verdicts } = judgeJob({
      ...base,
      setups: [...base.setups, newSetup('C', 'c', 'A'), newSetup('D', 'd', 'A')],
      pulls: [...base.pulls, ...more.flat()],
      question: { ...base.question, candidateSetups: ['B', 'C', 'D'] },
    });
    const pair = contrasts.find((c) => c.of.kind === 'pair' && c.of.candidate === 'D' && c.of.against === 'B')!;
    expect(pair).toMatchObject({ unit: '°C', tie: false });
    expect(pair.estimate).toBeCloseTo(-20, 1);
    simultaneous.forEach((s, i) => {
      const { value, lowValue, highValue } = verdicts[i]!.gain!;
      expect(s).toMatchObject({ unit: '°C', estimate: value });
      // Wider than each alone, and even about the estimate: an additive scale is not bent.
      expect(s.low).toBeLessThan(lowValue);
      expect(s.high).toBeGreaterThan(highValue);
      expect((s.high - s.estimate) / (s.estimate - s.low)).toBeCloseTo(1, 1);
    });
  });
});

describe('pulls on their way into the fit', () => {
  test('a set-aside pull is kept, shown, and out of the verdict', () => {
    const judgement = judgeJob(day(3, { B2: { level: 0.9, pull: { status: 'set-aside', reason: 'tyre slip' } } }));
    expect(judgement.pulls.find((p) => p.id === 'B2')).toMatchObject({
      used: false,
      notUsedBecause: { code: 'set-aside', reason: 'tyre slip' },
    });
    expect(judgement.verdicts[0]!.pulls.candidate).toMatchObject({ used: 2, setAside: 1 });
  });

  test('a pull cut short is flagged and left out', () => {
    const judged = judgeJob(day(3, { B3: { rpm: RPM.filter((r) => r <= 6200) } })).pulls.find((p) => p.id === 'B3')!;
    expect(judged.used).toBe(false);
    expect(judged.findings.map((f) => f.code)).toContain('cut-short');
  });

  test('a partial dip and a pull unlike the others are named, stay in and are weighed down', () => {
    const dip = day(3, {
      B3: { level: 1.03, shape: (r) => shape(r) * (1 - 0.045 * Math.exp(-(((r - 4500) / 500) ** 2))) },
    });
    expect(
      judgeJob(dip)
        .pulls.find((p) => p.id === 'B3')!
        .findings.map((f) => f.code),
    ).toContain('partial-dip');
    const whole = judgeJob(day(1.5, { B3: { level: 0.94 } }));
    const found = whole.pulls.find((p) => p.id === 'B3')!.findings.find((f) => f.code === 'unlike-the-others')!;
    expect(found).toMatchObject({ severity: 'warning' });
    const [suspected] = whole.verdicts[0]!.suspected;
    expect(suspected).toMatchObject({ pullId: 'B3' });
    expect(suspected!.likely).toBeGreaterThan(0.9);
    // Nothing is dropped, and the estimate hardly moves: six per cent on one of three pulls would be two on their mean.
    expect(whole.verdicts[0]!.pulls.candidate.used).toBe(3);
    expect(whole.verdicts[0]!.gain!.percent!).toBeGreaterThan(1);
    const [measured, ...rest] = whole.verdicts[0]!.steps;
    expect(measured!.after).toBeLessThan(0);
    expect(rest.at(-1)!.after).toBe(whole.verdicts[0]!.gain!.percent);
  });

  test('pulls that scatter by more than 3 %: nothing is resolved, whatever else is wrong', () => {
    const wild = day(3, {
      A2: { level: 0.9 },
      A3: { level: 1.12 },
      B2: { level: 1.1 },
      B4: { level: 0.88 },
      R2: { level: 1.09 },
    });
    expect(verdictOf(wild)).toMatchObject({ verdict: 'not-resolved', reason: 'scatter' });
  });

  test('corrected numbers are divided out and corrected once', () => {
    const thin = { pressureHpa: 950 };
    const plain = verdictOf(day(2, { '*': { pull: thin } })).peaks.candidate!.power.value;
    const exported = judgeJob(
      day(2, { '*': { pull: { ...thin, numberState: { kind: 'corrected', standard: 'sae-j607', factor: 1.08 } } } }),
    );
    expect(exported.verdicts[0]!.peaks.candidate!.power.value * 1.08).toBeCloseTo(plain, 6);
  });

  test('no start temperatures, no times, no window: a wider interval and a finding each', () => {
    const bare = day(
      3,
      { '*': { pull: { intakeStartC: null, startedAt: null } } },
      { question: { ...newJob('', '').question, windowRpm: null } },
    );
    const v = verdictOf(bare);
    expect(v.conditions.findings.map((f) => f.code)).toEqual(
      expect.arrayContaining(['no-start-temperature', 'no-times', 'no-window']),
    );
    const width = ({ gain }: typeof v) => gain!.highPercent! - gain!.lowPercent!;
    expect(width(v)).toBeGreaterThan(1.2 * width(verdictOf(day(3))));
  });

  test('a boosted car is judged on corrected and uncorrected power; the weaker verdict holds', () => {
    const turbo = day(
      0.3,
      { B: { level: 1.003, pull: { pressureHpa: 970 } } },
      { vehicle: { ...newJob('', '').vehicle, aspiration: 'turbo' } },
    );
    const v = verdictOf(turbo);
    expect(v.gain!.lowPercent).toBeGreaterThan(0);
    expect(v.verdict).toBe(v.uncorrected!.verdict);
    expect(v.verdict).not.toBe('verified-gain');
  });
});

test('the verdict does not change with units of time, order of rows or a common factor (property)', () => {
  const base = verdictOf(day(2));
  fc.assert(
    fc.property(
      fc.double({ min: 0.5, max: 2, noNaN: true }),
      fc.integer({ min: -400, max: 400 }),
      fc.boolean(),
      (factor, shift, reverse) => {
        const job = day(2);
        const pulls = job.pulls.map((p) => ({
          ...p,
          startedAt: new Date(Date.parse(p.startedAt!) + shift * 60_000).toISOString(),
          channels: p.channels.map((c) =>
            c.name === 'wheel_power_w' ? { ...c, values: c.values.map((w) => w * factor) } : c,
          ),
        }));
        const v = judgeJob({ ...job, pulls: reverse ? pulls.reverse() : pulls }, 'verdict').verdicts[0]!;
        expect(v.verdict).toBe(base.verdict);
        expect(v.gain!.percent).toBeCloseTo(base.gain!.percent!, 6);
        expect(v.gain!.value).toBeCloseTo(base.gain!.value * factor, 3);
      },
    ),
    { numRuns: 8 },
  );
});

test('rounds of two days that bear one number are two rounds: the return check of the second day is seen', () => {
  const base = day(3);
  const later = (p: Pull): Pull =>
    p.setupId === 'R'
      ? { ...p, setupId: 'A', startedAt: new Date(Date.parse(p.startedAt!) + 86_400_000).toISOString() }
      : p;
  const v = verdictOf({ ...base, pulls: base.pulls.map(later) });
  expect(v.returnCheck).not.toBeNull();
  expect(v.conditions.findings.map((f) => f.code)).not.toContain('no-return');
});
