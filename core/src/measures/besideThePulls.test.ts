import { describe, expect, test } from '@jest/globals';
import { fixedPauseMin } from '../bay/fadeProtocol.ts';
import { gateRows } from '../bay/gates.ts';
import { DEFAULT_METHOD, newJob, newPull, newSetup } from '../job/defaults.ts';
import { planRequestOf } from '../plan/dayPlan.ts';
import { day } from '../test/curveDays.ts';
import { judgeJob } from '../verdict/judge.ts';
import { alsoSeen } from './alsoSeen.ts';
import { channelReadings } from './channelReadings.ts';
import { slopeWithin } from './slopeWithin.ts';

const channel = (name: string, values: number[]) => ({ name, values: Float64Array.from(values) });

describe('gauges read by hand', () => {
  const read = (pullId: string, value: number, moment: 'start' | 'peak' = 'peak') => ({
    pullId,
    channel: 'oil_c',
    moment,
    value,
  });
  const measured = {
    ...newJob('', '').question,
    windowRpm: [3000, 7000] as const,
    measures: [{ id: 'peak', channel: 'oil_c', meaningful: 3 }] as const,
  };
  const readings = ['A2', 'A3', 'A4']
    .map((id, i) => read(id, 104 + i))
    .concat(['B2', 'B3', 'B4'].map((id, i) => read(id, 96 + i)));

  test('are judged where no sensor recorded the quantity, and say so', () => {
    const judgement = judgeJob({ ...day(0, {}, { question: measured }), readings });
    const [v] = judgement.verdicts;
    expect([v!.gain!.value < -6, v!.gain!.unit]).toEqual([true, '°C']);
    const own = judgement.pulls.find((p) => p.id === 'A2')!.readings.channels;
    expect(own).toMatchObject([{ name: 'oil_c', byHand: true, peak: 104, start: NaN }]);
    expect(judgeJob(day(0, {}, { question: measured })).verdicts[0]!.gain).toBeNull();
  });

  test('what nobody asked is also seen, with an interval and no verdict', () => {
    const job = { ...day(0), readings };
    const [oil] = alsoSeen(job, judgeJob(job), 'B');
    // Two samples of three: s² = 1, t(0.975, 4) = 2.776445 (tables).
    expect(oil).toMatchObject({
      channel: 'oil_c',
      read: 'peak',
      baseline: 105,
      candidate: 97,
      difference: -8,
      byHand: true,
    });
    expect(oil!.half).toBeCloseTo(2.776445 * Math.sqrt(2 / 3), 5);
  });
});

describe('a hold, a cooler and the seconds of a pull', () => {
  const HZ = 10;
  const hold = (charge: (t: number) => number, more: Record<string, (t: number) => number> = {}) => {
    const t = Array.from({ length: 400 * HZ }, (_, i) => i / HZ);
    const of = (name: string, f: (s: number) => number) => channel(name, t.map(f));
    return {
      ...newPull('H-1', 'A', 1),
      channels: [
        of('time_s', (s) => s),
        of('engine_rpm', (s) => 3000 + (s >= 10 && s < 190 ? 0.5 * (s - 10) : 0)),
        of('throttle_fraction', (s) => (s >= 10 && s < 190 ? 1 : 0.1)),
        of('oil_c', charge),
        ...Object.entries(more).map(([name, f]) => of(name, f)),
      ],
    };
  };

  test('a plateau is its last half minute, and the way back ends within three degrees of the start', () => {
    const oil = (t: number) =>
      t < 10 ? 90 : t < 190 ? 120 - 30 * Math.exp(-(t - 10) / 40) : 90 + 29.67 * Math.exp(-(t - 190) / 60);
    const [own] = channelReadings(hold(oil), null).channels;
    const mean = 120 - (30 * 40 * (Math.exp(-150 / 40) - Math.exp(-180 / 40))) / 30;
    expect(own!.plateau).toBeCloseTo(mean, 1);
    expect(own!.recoveryS).toBeCloseTo(60 * Math.log(29.67 / 3), 0);
    expect(
      channelReadings(
        hold((t) => (t < 10 ? 90 : 120)),
        null,
      ).channels[0]!.recoveryS,
    ).toBeNaN();
  });

  test('the loss of pressure over a cooler is read over the last third; the seconds stand over the cells', () => {
    const own = channelReadings(
      hold(() => 90, { charge_in_kpa: (t) => (t > 120 ? 205 : 100), charge_kpa: (t) => (t > 120 ? 193 : 100) }),
      null,
    );
    expect(own.pressureDropKpa).toBeCloseTo(12, 9);
    expect(own.seconds!.first).toBe(120);
    // 25 rpm take 50 s at half a rev a second; a cell holds what is nearer to it than to the next.
    expect(own.seconds!.cells[1]).toBeCloseTo(50, 0);
    expect(channelReadings({ channels: [] }, null).pressureDropKpa).toBeNaN();
  });
});

describe('a fade is planned as such', () => {
  const fade = {
    ...newJob('1', 'x'),
    question: { ...newJob('1', 'x').question, measures: [{ id: 'fade', meaningful: 0.3 }] as const },
  };

  test('five pulls a round at a fixed pause; any other question keeps the house’s numbers', () => {
    expect([fixedPauseMin(fade), planRequestOf(fade).counted]).toEqual([5, 5]);
    expect([fixedPauseMin(newJob('1', 'x')), planRequestOf(newJob('1', 'x')).counted]).toEqual([null, 3]);
  });

  test('the first pull waits for its temperature, later ones for the clock alone', () => {
    const at = (position: number, sinceLastPullS: number | null, intake: number) =>
      Object.fromEntries(
        gateRows({
          ...{
            method: DEFAULT_METHOD,
            sensors: { intake: true, coolant: false, oil: false },
            fixedPauseMin: 3,
            position,
            sinceLastPullS,
          },
          readings: {
            airC: { value: 20, ageS: 1 },
            pressureHpa: { value: 1000, ageS: 1 },
            intakeC: { value: intake, ageS: 1 },
          },
          baseline: {
            pullName: 'A·1',
            airC: 20,
            factor: 1,
            intakeAboveAirC: 10,
            coolantC: null,
            oilC: null,
            densityAltitudeM: null,
          },
          ...{
            sinceOtherSetupS: null,
            coolDownS: 900,
            forecasts: {},
            setPoints: [],
            rollersSilent: false,
            settling: false,
            wasOpen: false,
          },
        }).map((r) => [r.key, r.state]),
      );
    expect(at(1, null, 48).intakeC).toBe('outside');
    expect(at(3, 170, 48)).toMatchObject({ intakeC: 'inside', interval: 'inside' });
    expect(at(3, 60, 48).interval).toBe('outside');
    expect(at(3, 300, 48).interval).toBe('warn');
  });
});

test('the slope within rounds is that of NIST’s Norris data: certified 1.00211681802045, residual 0.884796396144373', () => {
  // NIST StRD, linear regression, Norris; y then x.
  const norris =
    `0.1 0.2 338.8 337.4 118.1 118.2 888.0 884.6 9.2 10.1 228.1 226.5 668.5 666.3 998.5 996.3 449.1 448.6 778.9 777.0 559.2 558.2 0.3 0.4
    0.1 0.6 778.1 775.5 668.8 666.9 339.3 338.0 448.9 447.5 10.8 11.6 557.7 556.0 228.3 228.1 998.0 995.8 888.8 887.6 119.6 120.2 0.3 0.3 0.6 0.3
    557.6 556.8 339.3 339.1 888.0 887.2 998.5 999.0 778.9 779.0 10.2 11.1 117.6 118.3 228.9 229.2 668.4 669.1 449.2 448.9 0.2 0.5`
      .trim()
      .split(/\s+/)
      .map(Number);
  const of = (at: number) => norris.filter((_, i) => i % 2 === at);
  const fit = slopeWithin([{ x: of(1), y: of(0) }]);
  expect(fit.slope).toBeCloseTo(1.00211681802045, 12);
  expect(Math.sqrt(fit.residual / 34)).toBeCloseTo(0.884796396144373, 11);
  // A second round at another level changes nothing of the slope.
  const raised = { x: of(1), y: of(0).map((y) => y + 500) };
  expect(slopeWithin([{ x: of(1), y: of(0) }, raised]).slope).toBeCloseTo(1.00211681802045, 12);
});

test('load crossed with a part: what the load costs has an interval, and so has what the two do together', () => {
  const base = day(3);
  const loaded = { loadSetting: 'slow loaded sweep' };
  const again = (from: string, to: string, gain: number, hours: number) =>
    base.pulls
      .filter((p) => p.setupId === from)
      .map((p) => ({
        ...{ ...p, id: `${to}${p.id}`, setupId: to },
        startedAt: new Date(Date.parse(p.startedAt!) + hours * 3.6e6).toISOString(),
        channels: p.channels.map((c) =>
          c.name === 'wheel_power_w' ? { ...c, values: c.values.map((v) => v * (1 + gain / 100)) } : c,
        ),
      }));
  const setup = (id: string, label: string, parentId: string, state: Record<string, string>) => ({
    ...{ ...newSetup(id, label, parentId), state, declares: ['loadSetting'] as const },
  });
  const free = (s: (typeof base.setups)[number]) => ({ ...s, state: { loadSetting: 'free sweep' } });
  const job = {
    ...base,
    setups: [
      ...base.setups.map(free),
      setup('C', 'loaded', 'A', loaded),
      { ...setup('D', 'part, loaded', 'B', loaded), parentId: 'B' },
    ],
    question: { ...base.question, candidateSetups: ['B', 'C', 'D'] },
    pulls: [...base.pulls, ...again('A', 'C', -5, 4), ...again('B', 'D', -5, 5.2)],
  };
  const { verdicts } = judgeJob(job);
  const load = verdicts.find((v) => v.candidate === 'C')!;
  expect([load.verdict, load.conditions.comparable]).toEqual(['verified-loss', true]);
  expect(load.gain!.percent).toBeCloseTo(-5, 0);
  // Not declared, the same pulls compare with nothing.
  const silent = { ...job, setups: job.setups.map((s) => ({ ...s, declares: [] })) };
  expect(judgeJob(silent).verdicts.find((v) => v.candidate === 'C')!.verdict).toBe('not-comparable');
});
