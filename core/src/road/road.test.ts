import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newJob } from '../job/defaults.ts';
import type { Job, RoadPass } from '../job/job.ts';
import { day } from '../test/curveDays.ts';
import { fit, aimAt } from '../verdict/engine/fit.ts';
import { nodeAt, USUAL_MODEL, usualPrior } from '../verdict/engine/model.ts';
import { weighedDay } from '../verdict/engine/plugIn.ts';
import { prepare } from '../verdict/engine/prepare.ts';
import { judgeJob } from '../verdict/judge.ts';
import { agreementOf, engineSpeedAt, roadForecast } from './roadForecast.ts';
import { roadDistance, roadRun, rotatingShare } from './roadRun.ts';
import { compassPoint, findPasses, type SpeedLog } from './speedLog.ts';

describe('a run on the road', () => {
  test('without losses: kinetic energy over power', () => {
    const bare = { massKg: 1200, rotating: 1, dragAreaM2: 0, rolling: 0, airDensity: 1.2, slope: 0 };
    expect(roadRun(() => 100e3, 60 / 3.6, 120 / 3.6, bare)!.seconds).toBeCloseTo(5, 6);
  });

  test('with losses, and three per cent more power', () => {
    const load = { massKg: 1250, rotating: 1.08, dragAreaM2: 0.65, rolling: 0.012, airDensity: 1.2, slope: 0 };
    const run = (watts: number) => roadRun(() => watts, 80 / 3.6, 120 / 3.6, load)!;
    expect(run(120e3).seconds).toBeCloseTo(3.904314, 5);
    expect(run(123.6e3).seconds).toBeCloseTo(3.776784, 5);
    // Losses stay as they are: acceleration gains more than power does.
    expect(run(123.6e3).meanAcceleration / run(120e3).meanAcceleration).toBeGreaterThan(1.03);
    expect(roadRun(() => 5e3, 80 / 3.6, 120 / 3.6, load)).toBeNull();
    expect(rotatingShare(8)).toBeCloseTo(1.2, 9);
  });

  test('over a distance without losses: v³ rises by 3P·x/m, the time by the kinetic energy', () => {
    // Closed form of m·v·dv/dx = P/v and of m·v·dv/dt = P.
    const bare = { massKg: 1200, rotating: 1.1, dragAreaM2: 0, rolling: 0, airDensity: 1.2, slope: 0 };
    for (const metres of [50, 200, 400]) {
      const run = roadDistance(() => 110e3, 20, metres, bare)!;
      const end = Math.cbrt(20 ** 3 + (3 * 110e3 * metres) / 1320);
      expect(run.endSpeed).toBeCloseTo(end, 6);
      expect(run.seconds).toBeCloseTo((1320 * (end ** 2 - 20 ** 2)) / (2 * 110e3), 6);
      // From there to its end speed it is the same run.
      expect(roadRun(() => 110e3, 20, run.endSpeed, bare)!.metres).toBeCloseTo(metres, 3);
    }
    // A curve that ends before is no forecast.
    expect(roadDistance((v) => (v < 30 ? 110e3 : NaN), 20, 400, bare)).toBeNull();
  });
});

describe('passes in a log of speed', () => {
  /** Falling acceleration, as of a car against the air: v = top·(1 − e^(−t/τ)), after a stretch at a steady 70 km/h. */
  const log = (hz: number, noise: (i: number) => number = () => 0, dip = 0): SpeedLog => {
    const [top, tau] = [240, 16];
    const own = Float64Array.from({ length: 26 * hz }, (_, i) => i / hz);
    const before = -tau * Math.log(1 - 70 / top);
    const lost = (t: number) => (dip > 0 && t > 8 ? dip * Math.min(1, t - 8) : 0);
    const speed = own.map((t, i) => (t < 4 ? 70 : top * (1 - Math.exp(-(t - 4 + before) / tau))) - lost(t) + noise(i));
    return { timeS: own, speedKmH: speed, courseDeg: own.map((_, i) => (i % 2 ? 359 : 1)) };
  };
  const truth = -16 * Math.log((240 - 120) / (240 - 80));

  test('the crossings are where they are, at ten and at one sample a second, with a receiver’s noise', () => {
    const seconds = (own: SpeedLog) => findPasses(own, 80, 120).map((p) => p.seconds);
    expect(seconds(log(100))).toHaveLength(1);
    expect(seconds(log(100))[0]).toBeCloseTo(truth, 3);
    expect(seconds(log(10))[0]).toBeCloseTo(truth, 2);
    expect(seconds(log(1))[0]).toBeCloseTo(truth, 1);
    expect(seconds(log(10, (i) => 0.1 * Math.sin(2.9 * i)))[0]).toBeCloseTo(truth, 1);
  });

  test('a lift in the middle is told, a fall is no pass, and a gap ends what was going on', () => {
    const [plain] = findPasses(log(10), 80, 120);
    expect([plain!.broken, compassPoint(plain!.courseDeg)]).toEqual([false, 'north']);
    expect(findPasses(log(10, undefined, 9), 80, 120)[0]!.broken).toBe(true);
    const { timeS, speedKmH } = log(10);
    expect(findPasses({ timeS, speedKmH: speedKmH.toReversed(), courseDeg: null }, 80, 120)).toEqual([]);
    const torn = timeS.map((t) => (t > 7 ? t + 5 : t));
    expect(findPasses({ timeS: torn, speedKmH, courseDeg: null }, 80, 120)).toEqual([]);
  });
});

describe('directions in the engine', () => {
  test('at every node the estimate is that of generalised least squares with the direction as a column', () => {
    const passes = fc.array(
      fc.record({
        setup: fc.nat(1),
        block: fc.nat(1),
        round: fc.nat(2),
        noise: fc.double({ min: -2, max: 2, noNaN: true }),
      }),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(passes, (more) => {
        const fixed = [0, 1].flatMap((setup) =>
          [0, 1].map((block) => ({ setup, block, round: setup, noise: 0.3 * setup - block })),
        );
        const all = [...fixed, ...more];
        const pulls = all.map(({ setup, block, round }, i) => ({ setup, block, round, hours: i / 15, startC: null }));
        const y = all.map(({ setup, block, noise }) => 150 - setup + 7 * block + noise);
        const prepared = prepare(pulls, { meantToChange: true });
        expect(prepared.projection.degrees).toBe(all.length - 3);
        const { means, variances, cases } = fit(prepared, y, [aimAt(prepared, [-1, 1])], usualPrior())[0]!;
        for (const [t, s, k] of [
          [0, 0, 0],
          [2, 3, 7],
          [4, 6, 15],
        ] as const) {
          const node = {
            scatter: USUAL_MODEL.scatterNodes[k]!,
            mount: USUAL_MODEL.mountNodes[t]!,
            drift: USUAL_MODEL.driftNodes[s]!,
          };
          const { weights, variance } = weighedDay(prepared, [-1, 1], node);
          const at = nodeAt(USUAL_MODEL, t, s, k) * cases;
          expect(means[at]).toBeCloseTo(
            weights.reduce((sum, w, i) => sum + w * y[i]!, 0),
            6,
          );
          expect(variances[at]! / variance).toBeCloseTo(1, 6);
        }
      }),
      { numRuns: 25 },
    );
  });
});

const MEASURE = { id: 'roadTime', fromKmH: 80, toKmH: 120, meaningful: 1 } as const;

/** Passes of A, then of B: eastwards 0.4 s quicker than westwards. */
function passes(gainPercent: number, ways: Record<'A' | 'B', string> = { A: 'ewew', B: 'ewew' }): RoadPass[] {
  const wobble = [0.004, -0.003, 0.001, -0.002, 0.003, -0.004];
  return (['A', 'B'] as const).flatMap((setupId, s) =>
    [...ways[setupId]].map((way, i) => ({
      ...{ setupId, at: new Date(Date.UTC(2026, 4, 2, 15 + s, 4 * i)).toISOString(), fromKmH: 80, toKmH: 120 },
      direction: way === 'e' ? 'east' : 'west',
      seconds:
        (6 + (way === 'e' ? 0 : 0.4)) * (setupId === 'B' ? 1 - gainPercent / 100 : 1) * (1 + wobble[(i + 2 * s) % 6]!),
    })),
  );
}
const roadJob = (roadPasses: RoadPass[], more: Partial<Job> = {}): Job => ({
  ...day(3, {}, { vehicle: { ...newJob('', '').vehicle, massKg: 1250 } }),
  ...{ roadPasses, ...more },
  question: {
    ...newJob('', '').question,
    windowRpm: [3000, 7000],
    measures: [{ id: 'windowMeanPower', meaningful: 1 }, MEASURE],
  },
});
const roadVerdict = (job: Job) => judgeJob(job).verdicts.find((v) => v.measure === 'roadTime(80-120)')!;

describe('a verdict on the road', () => {
  test('quicker is better, in per cent and seconds, whichever way was driven how often', () => {
    const even = roadVerdict(roadJob(passes(4)));
    expect([even.verdict, even.gain!.unit]).toEqual(['verified-gain', 's']);
    expect(even.gain!.percent).toBeCloseTo(-4, 0);
    expect(even.gain!.value).toBeCloseTo(-0.25, 1);
    expect(even.pulls.baseline).toMatchObject({ counted: 4, used: 4 });
    // Crossed ways: plain means would find 0.13 s more, of a wind that has nothing to do with the part.
    const crossed = roadVerdict(roadJob(passes(4, { A: 'wweww', B: 'eewee' })));
    expect(Math.abs(crossed.gain!.percent! - even.gain!.percent!)).toBeLessThan(0.6);
    expect(roadVerdict(roadJob(passes(0))).verdict).not.toBe('verified-gain');
    const codes = even.conditions.findings.map((f) => f.code);
    expect(codes).not.toContain('no-weather');
    expect(codes).not.toContain('drift-not-known');
  });

  test('one way only is told; a way that only one setup went is left out; without passes nothing is said', () => {
    const codes = (job: Job) => roadVerdict(job).conditions.findings.map((f) => f.code);
    expect(codes(roadJob(passes(4, { A: 'ee', B: 'ee' })))).toContain('one-direction');
    const alone = roadVerdict(roadJob(passes(4, { A: 'eee', B: 'www' })));
    expect([alone.verdict, alone.reason, alone.gain]).toEqual(['not-resolved', 'too-few-pulls', null]);
    expect(alone.conditions.findings.map((f) => f.code)).toContain('direction-alone');
    expect(codes(roadJob(passes(4, { A: 'ew', B: 'ew' })))).toContain('few-passes');
    expect(roadVerdict(roadJob([])).gain).toBeNull();
    // What was driven between other speeds is of another measure.
    expect(roadVerdict(roadJob(passes(4).map((p) => ({ ...p, toKmH: 130 })))).gain).toBeNull();
  });
});

describe('the forecast from the rollers', () => {
  const road = { massKg: 1250, overallRatio: 5, tyreRadiusM: 0.31, dragAreaM2: 0.65, rolling: 0.012 };

  test('engine speed goes through gear, final drive and tyre', () => {
    expect(engineSpeedAt(100 / 3.6, { overallRatio: 4.1, tyreRadiusM: 0.3 })).toBeCloseTo(
      (100 / 3.6 / (0.6 * Math.PI)) * 4.1 * 60,
      9,
    );
  });

  test('of three per cent more power it says what the road would, with an interval and whether it is felt', () => {
    const job = roadJob(passes(4), { road });
    const forecast = roadForecast(job, judgeJob(job), 'B', MEASURE);
    if (typeof forecast === 'string') throw new Error(forecast);
    expect(forecast.percent).toBeLessThan(-3);
    expect(forecast.percent).toBeGreaterThan(-5);
    expect(forecast.lowPercent!).toBeLessThan(forecast.percent);
    expect(forecast.highPercent!).toBeGreaterThan(forecast.percent);
    expect([forecast.fitted, forecast.felt]).toEqual([false, false]);
    expect(forecast.distances.length).toBeGreaterThan(0);
    for (const d of forecast.distances) {
      const change = d.candidateS - d.baselineS;
      expect(change).toBeLessThan(0);
      expect(d.lowS!).toBeLessThan(change);
      expect(d.highS!).toBeGreaterThan(change);
      expect(d.candidateEnd).toBeGreaterThan(d.baselineEnd);
    }
    const fitted = roadForecast(
      roadJob(passes(4), { road: { ...road, dragAreaM2: null } }),
      judgeJob(job),
      'B',
      MEASURE,
    );
    if (typeof fitted === 'string') throw new Error(fitted);
    // Its own run then takes as long as the baseline's passes did.
    expect(fitted.baselineS).toBeCloseTo(6.2, 2);
  });

  test('says why there is none', () => {
    const of = (more: Partial<Job>) => {
      const job = roadJob(passes(4), more);
      return roadForecast(job, judgeJob(job), 'B', MEASURE);
    };
    expect(of({})).toBe('no-car');
    expect(of({ road, pulls: [] })).toBe('no-curves');
    expect(of({ road: { ...road, overallRatio: 30 } })).toBe('outside-curve');
    expect(of({ road: { ...road, dragAreaM2: null }, roadPasses: [] })).toBe('drag-not-fitted');
  });

  test('road and rollers agree, differ, or nobody can tell', () => {
    const of = (percent: number, half: number) => ({
      percent,
      lowPercent: percent - half,
      highPercent: percent + half,
    });
    expect(agreementOf(of(-3, 0.3), of(-2.9, 0.5), 1)).toBe('agree');
    expect(agreementOf(of(-3, 0.3), of(1, 0.5), 1)).toBe('differ');
    expect(agreementOf(of(-3, 2), of(-2, 2), 1)).toBe('cannot-tell');
    expect(agreementOf(of(-3, 2), { percent: -3, lowPercent: null, highPercent: null }, 1)).toBe('cannot-tell');
  });
});
