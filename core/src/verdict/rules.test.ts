import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { schoolsOf } from '../compare/schools.ts';
import { changesAgainst, declared } from '../job/changes.ts';
import { newJob, newPull, newSetup } from '../job/defaults.ts';
import type { Job, Setup } from '../job/job.ts';
import { repeatedSetup } from '../job/job.ts';
import { pullWeather } from '../job/weather.ts';
import { rawCurve } from '../pull/gridCurve.ts';
import { bandEdges } from './bands.ts';
import { gates, type GateInput } from './conditions.ts';
import { stateRows } from './states.ts';
import { decide, margins, weaker } from './decide.ts';
import { dipScores } from './partialDips.ts';
import { logPercent, truePercent } from './percent.ts';
import { bracketsOf, roundsOf } from './rounds.ts';

describe('rounds and brackets', () => {
  const day = (sequence: string) => {
    const pulls = [...sequence].flatMap((letter, r) =>
      [0, 1].map((k) => ({
        side: letter.charCodeAt(0) - 65,
        roundKey: `${letter}#${r}`,
        hours: r + k / 12,
      })),
    );
    return bracketsOf(roundsOf(pulls))
      .map((b) => `${b.earlier}-${b.later}`)
      .join(' ');
  };
  test.each([
    ['AB', ''],
    ['AABB', ''],
    ['ABA', '0-2'],
    ['ABCA', '0-3'],
    ['ABAB', '0-2 1-3'],
    ['ABABA', '0-2 1-3 2-4'],
    ['ABCB', ''],
  ])('%s has brackets [%s]', (sequence, brackets) => {
    expect(day(sequence)).toBe(brackets);
  });
});

describe('the order of the verdict', () => {
  const at = (estimate: number, se: number) => ({
    estimate,
    ...{ low: estimate - 2 * se, high: estimate + 2 * se },
    ...{ low90: estimate - 1.7 * se, high90: estimate + 1.7 * se },
  });
  test.each([
    [2, 0.5, 'verified-gain', false],
    [-2, 0.5, 'verified-loss', false],
    [0.4, 0.1, 'verified-gain', true],
    [0.1, 0.3, 'no-meaningful-change', false],
    [0.6, 0.6, 'not-resolved', false],
  ] as const)('estimate %d with standard error %d: %s', (estimate, se, verdict, small) => {
    expect(decide(3, at(estimate, se), margins(1, 'log'))).toEqual({ verdict, smallerThanMatters: small });
  });

  test('under two pulls a side nothing is claimed', () => {
    expect(decide(1, at(9, 0.1), margins(1, 'log')).verdict).toBe('not-resolved');
    expect(decide(0, null, margins(1, 'log')).verdict).toBe('not-resolved');
  });

  test('the weaker of two verdicts holds, a gain against a loss is open', () => {
    expect(weaker('verified-gain', 'not-resolved')).toBe('not-resolved');
    expect(weaker('verified-gain', 'verified-loss')).toBe('not-resolved');
    expect(weaker('verified-gain', 'no-meaningful-change')).toBe('no-meaningful-change');
    expect(weaker('verified-loss', 'verified-loss')).toBe('verified-loss');
  });

  test('log-percent and true per cent are inverse (property), and the margins are those of δ', () => {
    fc.assert(
      fc.property(fc.double({ min: -60, max: 100, noNaN: true }), (p) => {
        expect(truePercent(logPercent(p))).toBeCloseTo(p, 9);
      }),
    );
    expect(margins(1, 'log')[1]).toBeCloseTo(0.995033, 6);
    expect(margins(1, 'log')[0]).toBeCloseTo(-1.005034, 6);
    expect(margins(2, 'additive')).toEqual([-2, 2]);
  });
});

describe('states and declared changes', () => {
  const setups: Setup[] = [
    { ...newSetup('A', 'a'), state: { fuel: '95', fan: '3', tyrePressureKpa: '230' } },
    {
      ...newSetup('B', 'b', 'A'),
      ...declared('part fitted: electric fan; fuel: 98'),
      state: { fuel: '98', fan: '3', tyrePressureKpa: '233' },
    },
    { ...newSetup('C', 'c', 'B'), ...declared('gear oil changed'), state: { fuel: '98', fan: 'off' } },
  ];
  const job: Job = {
    ...newJob('j', 't'),
    setups,
    question: { ...newJob('', '').question, candidateSetups: ['B', 'C'] },
  };
  const status = (candidate: string) =>
    Object.fromEntries(stateRows(job, candidate, [], []).map((row) => [row.key, row.status]));

  test('changes add up along the parents', () => {
    expect(changesAgainst(setups, 'C', 'A').map((c) => c.text.trim())).toEqual([
      'part fitted: electric fan',
      'fuel: 98',
      'gear oil changed',
    ]);
  });

  test('a declared fuel is declared, a fitted fan does not excuse the fan of the bay, 3 kPa are the same pressure', () => {
    expect(status('B')).toMatchObject({ fuel: 'declared', fan: 'same', tyrePressureKpa: 'same', hood: 'unknown' });
    expect(status('C')).toMatchObject({ fuel: 'declared', fan: 'differs', tyrePressureKpa: 'unknown' });
  });

  test('gear oil names no gear', () => {
    const pulls = (gear: string) => [{ ...newPull('p', 'A', 1), gear }];
    expect(stateRows(job, 'C', pulls('4'), pulls('3')).find((row) => row.key === 'gear')!.status).toBe('differs');
    expect(stateRows(job, 'C', pulls('4'), pulls('4')).find((row) => row.key === 'gear')!.status).toBe('same');
  });

  test('a chain of return checks leads to its setup, and a circle ends', () => {
    const chain = [
      newSetup('A', ''),
      { ...newSetup('A2', ''), returnsTo: 'A' },
      { ...newSetup('A3', ''), returnsTo: 'A2' },
    ];
    expect(repeatedSetup(chain, 'A3')).toBe('A');
    expect(['X', 'Y']).toContain(
      repeatedSetup(
        [
          { ...newSetup('X', ''), returnsTo: 'Y' },
          { ...newSetup('Y', ''), returnsTo: 'X' },
        ],
        'X',
      ),
    );
  });
});

describe('gates on conditions', () => {
  const base = { ...newPull('a', 'A', 1), coolantStartC: 90, oilStartC: 95 };
  const input = (difference: object, more: Partial<GateInput> = {}): GateInput => ({
    job: newJob('j', 't'),
    side: 1,
    candidateId: 'B',
    pulls: [
      { pull: base, side: 0, airC: 20, hasWeather: true, factor: 1, startC: 12, hours: 0 },
      {
        pull: { ...base, setupId: 'B' },
        side: 1,
        airC: 20,
        hasWeather: true,
        factor: 1,
        startC: 12,
        hours: 1,
        ...difference,
      },
    ],
    meantToChange: false,
    drift: null,
    windowShare: 1,
    settle: { baseline: 2, candidate: 2 },
    timesKnown: true,
    ...more,
  });
  const found = (g: GateInput) =>
    gates(g).findings.map((f) => `${f.severity}:${f.code === 'condition-differs' ? f.parameters.condition : f.code}`);

  test.each([
    ['start temperature 3.9 °C', { startC: 15.9 }, []],
    ['start temperature 4 °C', { startC: 16 }, ['warning:intakeStart']],
    ['start temperature 8 °C', { startC: 20 }, ['warning:intakeStart']],
    ['start temperature 8.1 °C', { startC: 20.1 }, ['blocking:intakeStart']],
    ['bay air 5.6 °C', { airC: 25.6 }, ['warning:air']],
    ['bay air 10.1 °C', { airC: 30.1 }, ['blocking:air']],
    ['factor 0.9 %', { factor: 1.009 }, []],
    ['factor 1 %', { factor: 1.01 }, ['warning:factor']],
    ['factor 3.1 %', { factor: 0.969 }, ['blocking:factor']],
    ['coolant 6 °C', { pull: { ...base, coolantStartC: 96 } }, ['warning:coolant']],
    ['no start temperature on one side', { startC: null }, []],
  ])('%s', (_, difference, expected) => {
    expect(found(input(difference))).toEqual(expected);
  });

  test('a car known to be sensitive is held to 4 °C', () => {
    const job: Job = { ...newJob('j', 't'), vehicle: { ...newJob('', '').vehicle, heatSensitive: true } };
    expect(found(input({ startC: 16.1 }, { job }))).toEqual(['blocking:intakeStart']);
  });

  test('for a part meant to cool, coolant and oil stand in for the intake', () => {
    expect(found(input({ startC: 30 }, { meantToChange: true }))).toEqual([]);
    expect(found(input({ pull: { ...base, oilStartC: 106 } }, { meantToChange: true }))).toEqual(['blocking:oil']);
  });

  test('drift, window and settle pulls', () => {
    expect(found(input({}, { drift: -1.9 }))).toEqual([]);
    expect(found(input({}, { drift: -2.1 }))).toEqual(['blocking:drifted-too-far']);
    expect(found(input({}, { windowShare: 0.79 }))).toEqual(['blocking:window']);
    expect(found(input({}, { settle: { baseline: 2, candidate: 0 } }))).toEqual(['blocking:settle-one-side']);
    expect(found(input({}, { settle: { baseline: 2, candidate: 1 } }))).toEqual(['warning:settle-counts']);
  });
});

describe('weather of a pull', () => {
  const reading = (minute: number, airC: number | null, pressureHpa: number | null = 1000) => ({
    at: new Date(Date.UTC(2026, 4, 2, 8, minute)).toISOString(),
    pressureHpa,
    airC,
    relativeHumidity: 0.4,
  });
  const pull = { ...newPull('p', 'A', 1), startedAt: '2026-05-02T08:05:00Z' };
  const air = (weather: ReturnType<typeof reading>[], own = pull) =>
    pullWeather({ weather, method: newJob('', '').method }, own).air;

  test('gaps are filled by a straight line between readings', () => {
    expect(air([reading(0, 20, 1000), reading(10, 22, 1004)])).toEqual({
      pressureHpa: 1002,
      airC: 21,
      relativeHumidity: 0.4,
    });
  });
  test('one reading within 15 min stands in, a later one does not', () => {
    expect(air([reading(20, 22)])).toMatchObject({ airC: 22 });
    expect(air([reading(21, 22)])).toBeNull();
  });
  test('what the pull recorded itself wins, and humidity may be assumed', () => {
    const own = { ...pull, airC: 25, pressureHpa: 990 };
    expect(air([reading(5, 20)], own)).toMatchObject({ airC: 25, pressureHpa: 990, relativeHumidity: 0.4 });
    const alone = pullWeather({ weather: [], method: newJob('', '').method }, own);
    expect(alone).toMatchObject({ humidityAssumed: true, air: { relativeHumidity: 0.5 } });
  });
  test('without a start time no reading can be found', () => {
    expect(air([reading(5, 20)], { ...pull, startedAt: null as never })).toBeNull();
  });
});

describe('the schools', () => {
  const rpm = Float64Array.from({ length: 81 }, (_, i) => 3000 + 50 * i);
  const curve = (level: number) =>
    rawCurve(
      rpm,
      rpm.map((n) => level * (100 - ((n - 5500) / 400) ** 2)),
    );
  const by = (a: number[], b: number[]) =>
    Object.fromEntries(schoolsOf(a.map(curve), b.map(curve), [3500, 6500]).map((s) => [s.id, s.percent]));

  test('best, average, trimmed and same place, worked by hand', () => {
    const schools = by([100, 98, 102], [103, 101, 108]);
    expect(schools.bestOfEach).toBeCloseTo(100 * (108 / 102 - 1), 6);
    expect(schools.averageOfPeaks).toBeCloseTo(100 * (312 / 300 - 1), 6);
    expect(schools.trimmedMean).toBeCloseTo(3, 6);
    expect(schools.mean).toBeCloseTo(4, 6);
    expect(schools.samePosition).toBeCloseTo(4, 6);
  });

  test('the n-th is held against the n-th when a round ended early; two pulls cannot be trimmed', () => {
    const schools = by([100, 90], [102]);
    expect(schools.samePosition).toBeCloseTo(2, 6);
    expect(schools.mean).toBeCloseTo(100 * (102 / 95 - 1), 6);
    expect(schools.trimmedMean).toBeNull();
  });
});

test('bands end at multiples of 500 rpm, and partial ones of at least 250 rpm stay', () => {
  expect(bandEdges(2725, 4300)).toEqual([
    [2725, 3000],
    [3000, 3500],
    [3500, 4000],
    [4000, 4300],
  ]);
  expect(bandEdges(2800, 3225)).toEqual([]);
  expect(bandEdges(3000, 3000)).toEqual([]);
});

test('a dip of five per cent over 500 rpm scores near five, a level shift scores nothing', () => {
  const rpm = Float64Array.from({ length: 201 }, (_, i) => 2500 + 25 * i);
  const flat = rawCurve(
    rpm,
    rpm.map(() => 400),
  );
  const dipped = rawCurve(
    rpm,
    rpm.map((n) => (Math.abs(n - 5000) < 250 ? 395 : 400)),
  );
  const dip = dipScores([dipped, flat, flat], [3000, 7000])[0]!;
  expect(dip.score).toBeGreaterThan(4.5);
  expect(dip.score).toBeLessThanOrEqual(5.001);
  expect(Math.abs(dip.atRpm - 5000)).toBeLessThan(200);
  const lower = rawCurve(
    rpm,
    rpm.map(() => 396),
  );
  expect(dipScores([lower, flat], [3000, 7000])[0]!.score).toBeCloseTo(0, 9);
  expect(dipScores([flat], [3000, 7000])).toEqual([null]);
});
