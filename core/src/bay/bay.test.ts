import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { USUAL_DAY } from './jobDay.ts';
import { DEFAULT_METHOD, newJob, newPull } from '../job/defaults.ts';
import type { Job, Pull } from '../job/job.ts';
import { gateRows, gateVerdict, STALE_S, type BayGateInput, type GateBaseline } from './gates.ts';
import { DISAGREEMENTS, methodProblems, school, tolerance, TOLERANCES } from './houseMethod.ts';
import { PullDetector, type DetectorEvent, type RollerReading } from './pullDetector.ts';
import { baselineAt, planComplete, roundProgress, settleState } from './roundProgress.ts';

const baseline: GateBaseline = {
  pullName: 'A·3',
  airC: 22,
  factor: 1.01,
  intakeAboveAirC: 8,
  coolantC: 91,
  oilC: 97,
  densityAltitudeM: 350,
};
const live = (value: number, ageS = 1) => ({ value, ageS });
const calm: BayGateInput = {
  method: DEFAULT_METHOD,
  sensors: { intake: true, coolant: true, oil: true },
  readings: {
    airC: live(23),
    pressureHpa: live(985),
    relativeHumidity: live(0.5),
    intakeC: live(31),
    coolantC: live(92),
    oilC: live(96),
  },
  baseline,
  sinceLastPullS: 180,
  sinceOtherSetupS: null,
  coolDownS: 900,
  forecasts: {},
  setPoints: [{ key: 'fan', label: 'Fan', baseline: '3', now: '3', declared: false }],
  rollersSilent: false,
  settling: false,
  position: 1,
  wasOpen: false,
};
test('what the bay has no instrument for is never waited for: without weather and bus the interval alone holds', () => {
  const blind = { ...calm, readings: {}, hears: { weather: false, car: false } };
  const rows = gateRows({ ...blind, sinceLastPullS: 60 });
  expect(rows.map((r) => r.key)).toEqual(['interval', 'air', 'fan']);
  expect(gateVerdict(rows)).toMatchObject({ state: 'cooling', waitS: 60 });
  expect(gateVerdict(gateRows({ ...blind, sinceLastPullS: 180 }))).toMatchObject({ state: 'ready' });
  // An instrument that the bay has and that is silent is another matter.
  expect(gateVerdict(gateRows({ ...blind, hears: { weather: true, car: false } })).state).toBe('sensor-lost');
});

const verdictOf = (change: Partial<BayGateInput>) => gateVerdict(gateRows({ ...calm, ...change }));

describe('gates hold a pull until conditions match the baseline at the same position', () => {
  test('everything inside is READY', () => {
    expect(verdictOf({})).toEqual({ state: 'ready', waitS: null, reasons: [] });
  });

  test('intake is held to its height above the bay, so a warmer bay moves the window with it', () => {
    const warmer = { ...calm.readings, airC: live(26), intakeC: live(34.5) };
    expect(verdictOf({ readings: warmer }).state).toBe('ready');
    expect(verdictOf({ readings: { ...warmer, airC: live(22) } }).state).not.toBe('ready');
  });

  test('an open gate does not close again for the last digit of a sensor', () => {
    const readings = { ...calm.readings, intakeC: live(34.4) };
    expect(verdictOf({ readings }).state).not.toBe('ready');
    expect(verdictOf({ readings, wasOpen: true }).state).toBe('ready');
    expect(verdictOf({ readings: { ...readings, intakeC: live(35) }, wasOpen: true }).state).not.toBe('ready');
  });

  test('the longest wait drives the countdown', () => {
    const readings = { ...calm.readings, intakeC: live(35.8), coolantC: live(99) };
    const forecast = { kind: 'forecast', lowSeconds: 0, highSeconds: 0, settlesAtC: 28, timeConstantS: 400 } as const;
    const held = verdictOf({
      readings,
      sinceLastPullS: 60,
      forecasts: { intakeC: { ...forecast, seconds: 228 }, coolantC: { ...forecast, seconds: 40 } },
    });
    expect(held).toMatchObject({ state: 'hold', waitS: 228 });
    expect(held.reasons).toHaveLength(3);
  });

  test('a temperature that will not fall by itself holds without a countdown and names the fan', () => {
    const held = verdictOf({
      readings: { ...calm.readings, intakeC: live(41) },
      forecasts: { intakeC: { kind: 'not-on-its-own', settlesAtC: 39 } },
    });
    expect(held).toMatchObject({ state: 'hold', waitS: null });
    expect(held.reasons[0]).toMatchObject({ finding: { code: 'too-warm', recovery: 'not-on-its-own' } });
  });

  test('a recovery that is still being read is COOLING, and so is the planned pause before a new setup', () => {
    expect(verdictOf({ readings: { ...calm.readings, intakeC: live(36) } })).toMatchObject({
      state: 'cooling',
      waitS: null,
    });
    expect(verdictOf({ sinceLastPullS: null, sinceOtherSetupS: 600 })).toMatchObject({ state: 'cooling', waitS: 300 });
  });

  test('a car that stood too long holds a counted pull, never the settle pull that warms it', () => {
    const readings = { ...calm.readings, intakeC: live(25) };
    expect(verdictOf({ readings })).toMatchObject({ state: 'hold', waitS: null });
    expect(verdictOf({ readings }).reasons[0]).toMatchObject({ finding: { code: 'too-cold' } });
    expect(verdictOf({ readings, settling: true }).state).toBe('ready');
  });

  test('a silent sensor is never READY, one the car does not have never holds', () => {
    const readings = { ...calm.readings, oilC: live(96, STALE_S + 1) };
    expect(verdictOf({ readings })).toMatchObject({ state: 'sensor-lost' });
    expect(verdictOf({ readings, sensors: { ...calm.sensors, oil: false } }).state).toBe('ready');
    expect(gateVerdict(gateRows(calm), true).state).toBe('sensor-lost');
  });

  test('a set-point that differs blocks until it is set back or declared', () => {
    const moved = { key: 'fan', label: 'Fan', baseline: '3', now: '1', declared: false };
    expect(verdictOf({ setPoints: [moved] })).toMatchObject({
      state: 'blocked',
      reasons: [{ key: 'fan', finding: { code: 'set-point-differs', to: '3' } }],
    });
    expect(verdictOf({ setPoints: [{ ...moved, declared: true }] }).state).toBe('ready');
  });

  test.each(['none', 'fixed'])(
    'pause "%s": temperatures hold the first pull of a round only, the interval every one',
    (pause) => {
      const method = { ...DEFAULT_METHOD, schools: { pause } };
      const readings = { ...calm.readings, intakeC: live(41), coolantC: live(99) };
      expect(verdictOf({ method, readings, position: 1 }).state).not.toBe('ready');
      expect(verdictOf({ method, readings, position: 2 })).toEqual({ state: 'ready', waitS: null, reasons: [] });
      expect(gateRows({ ...calm, method, readings, position: 2 })[0]).toMatchObject({
        value: 41,
        state: 'inside',
        finding: { code: 'not-held', pause },
      });
      expect(verdictOf({ method, readings, position: 2, sinceLastPullS: 30 })).toMatchObject({ waitS: 90 });
      expect(verdictOf({ readings, position: 2 }).state).not.toBe('ready');
      // A sensor that fell silent is missed all the same.
      const silent = { ...readings, intakeC: live(41, STALE_S + 1) };
      expect(verdictOf({ method, readings: silent, position: 2 }).state).toBe('sensor-lost');
    },
  );

  test('drifting air warns first and holds only when the day is lost', () => {
    const at = (airC: number) =>
      verdictOf({ readings: { ...calm.readings, airC: live(airC), intakeC: live(airC + 8) } });
    expect(at(28).state).toBe('ready');
    expect(at(28).reasons).toMatchObject([
      { key: 'air', finding: { code: 'drifting' } },
      { key: 'factor', finding: { code: 'drifting' } },
    ]);
    expect(at(33).state).toBe('hold');
  });

  test('whatever the readings, READY means that no row is outside, lost or different', () => {
    const value = fc.option(fc.record({ value: fc.double({ min: -40, max: 200, noNaN: true }), ageS: fc.nat(90) }), {
      nil: undefined,
    });
    fc.assert(
      fc.property(
        fc.record({ airC: value, pressureHpa: value, intakeC: value, coolantC: value, oilC: value }),
        fc.option(fc.nat(2000), { nil: null }),
        fc.boolean(),
        (found, sinceLastPullS, first) => {
          const readings = Object.fromEntries(Object.entries(found).filter(([, v]) => v !== undefined));
          if (found.pressureHpa)
            readings.pressureHpa = { ...found.pressureHpa, value: 950 + Math.abs(found.pressureHpa.value) / 2 };
          const rows = gateRows({ ...calm, readings, sinceLastPullS, baseline: first ? null : baseline });
          const bad = rows.filter((r) => ['outside', 'no-signal', 'differs'].includes(r.state));
          expect(gateVerdict(rows).state === 'ready').toBe(bad.length === 0);
          expect(rows.map((r) => r.key)).toEqual(['intakeC', 'coolantC', 'oilC', 'interval', 'air', 'factor', 'fan']);
        },
      ),
      { numRuns: 300 },
    );
  });
});

/** A sweep at 100 Hz: rest, full throttle from 1 s to `end`, then coasting down. */
function sweep(end: number, pedal = true): RollerReading[] {
  const readings: RollerReading[] = [];
  let omega = 30;
  for (let i = 0; i < (end + 4) * 100; i += 1) {
    const t = i / 100;
    const full = t >= 1 && t < end;
    omega += (full ? 14 : t >= end ? -6 : 0) / 100;
    readings.push({
      seconds: t,
      engineRpm: omega * 50,
      rollerRadS: Math.max(0, omega),
      throttle: pedal ? (full ? 1 : 0.1) : NaN,
    });
  }
  return readings;
}

function events(readings: readonly RollerReading[]): [DetectorEvent, number][] {
  const detector = new PullDetector();
  return readings.flatMap((r) => {
    const event = detector.push(r);
    return event ? [[event, r.seconds] as [DetectorEvent, number]] : [];
  });
}

describe('pulls are found without anybody pressing a button', () => {
  test.each([true, false])('one sweep is one pull (pedal read: %s)', (pedal) => {
    const found = events(sweep(8, pedal));
    expect(found.map(([event]) => event)).toEqual(['start', 'end']);
    expect(Math.abs(found[0]![1] - 1)).toBeLessThan(0.6);
    expect(Math.abs(found[1]![1] - 8)).toBeLessThan(0.8);
  });

  test('revving with still rollers and a blip of the pedal are no pulls', () => {
    const still = sweep(8).map((r) => ({ ...r, rollerRadS: 0 }));
    expect(events(still)).toEqual([]);
    const blip = sweep(8).map((r) => ({ ...r, throttle: r.seconds > 2 && r.seconds < 2.1 ? 1 : 0.1 }));
    expect(events(blip)).toEqual([]);
  });

  test('starts and ends always alternate, whatever the pedal does', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.integer({ min: 1, max: 80 })), {
          maxLength: 30,
        }),
        (moves) => {
          let t = 0;
          const readings = moves.flatMap(([throttle, n]) =>
            Array.from({ length: n }, () => ({ seconds: (t += 0.01), engineRpm: 3000, rollerRadS: 60, throttle })),
          );
          const kinds = events(readings).map(([kind]) => kind);
          kinds.forEach((kind, i) => expect(kind).toBe(i % 2 === 0 ? 'start' : 'end'));
        },
      ),
    );
  });
});

describe('the house method', () => {
  test('a silent method has the usual tolerances and the default schools', () => {
    expect(tolerance(DEFAULT_METHOD, 'intakeC')).toBe(3);
    expect(tolerance({ ...DEFAULT_METHOD, gates: { intakeC: 2 } }, 'intakeC')).toBe(2);
    expect(school(DEFAULT_METHOD, 'hood')).toBe('closed');
    expect(methodProblems(DEFAULT_METHOD)).toEqual([]);
    expect(Object.keys(TOLERANCES)).toHaveLength(15);
    expect(Object.keys(DISAGREEMENTS)).toHaveLength(14);
  });

  test('settings that contradict themselves are named', () => {
    const wrong = { ...DEFAULT_METHOD, gates: { intervalLeastMin: 9, intakeC: 40 }, schools: { hood: 'ajar' } };
    expect(methodProblems(wrong)).toEqual([
      'Intake air start, above the bay’s air: 40 is outside 0.5–10 °C.',
      'The least interval between pulls is longer than the most.',
      '"ajar" is no school of "Hood".',
    ]);
    const flattered = { ...DEFAULT_METHOD, settlePulls: 1, schools: { firstPull: 'counts' } };
    expect(methodProblems(flattered)).toEqual([
      'The first pull counts as a result, so there can be no settle pulls before it: set them to 0.',
    ]);
    expect(methodProblems({ ...flattered, settlePulls: 0 })).toEqual([]);
  });
});

describe('the place of a pull in its round', () => {
  const pull = (setup: string, round: number, position: number, status: Pull['status'] = 'counted'): Pull => ({
    ...newPull(`${setup}${round}.${position}`, setup, position),
    round,
    status,
    startedAt: new Date(Date.UTC(2026, 4, 2, 8, round * 60 + position * 5 + (setup === 'A' ? 0 : 30))).toISOString(),
    airC: 22,
    pressureHpa: 985,
    intakeStartC: 29 + position,
    coolantStartC: 90,
    oilStartC: 95,
  });
  const plan = [
    { setup: 'A', settle: 2, counted: 3 },
    { setup: 'B', settle: 2, counted: 3 },
  ];
  const job = (pulls: Pull[]): Job => ({
    ...newJob('t', 't'),
    question: { ...newJob('t', 't').question, plan },
    pulls,
  });

  test('settle pulls come first; one set aside is made again; extra settle pulls lengthen the round', () => {
    const some = job([
      pull('A', 1, 1, 'settle'),
      pull('A', 1, 2, 'settle'),
      pull('A', 1, 3),
      pull('A', 1, 4, 'set-aside'),
    ]);
    expect(roundProgress(some, 'A', 1)).toMatchObject({
      nextPosition: 5,
      nextStatus: 'counted',
      countedSoFar: 1,
      complete: false,
    });
    expect(roundProgress(some, 'A', 1, 1).nextStatus).toBe('settle');
    expect(roundProgress(job([]), 'A', 1).nextStatus).toBe('settle');
  });

  test('the plan is complete when every step has its counted pulls, or was closed early', () => {
    const round = (s: string) => [1, 2].map((k) => pull(s, 1, k, 'settle')).concat([3, 4, 5].map((k) => pull(s, 1, k)));
    expect(planComplete(job([...round('A'), ...round('B')]))).toBe(true);
    const short = job([...round('A'), ...round('B').slice(0, 4)]);
    expect(planComplete(short)).toBe(false);
    expect(planComplete({ ...short, day: { ...USUAL_DAY, closedEarly: { 'B#1': 'Heat' } } })).toBe(true);
  });

  test('a pull is held against the baseline at its own position, a longer round against the last one', () => {
    const some = job([1, 2, 3].map((k) => pull('A', 1, k)));
    expect(baselineAt(some, 'A', 1, 2)).toBeNull();
    expect(baselineAt(some, 'B', 1, 2)).toMatchObject({ pullName: 'A·2', intakeAboveAirC: 9 });
    expect(baselineAt(some, 'B', 1, 9)).toMatchObject({ pullName: 'A·3' });
    expect(baselineAt(job([]), 'B', 1, 1)).toBeNull();
  });

  test('settled when the last two agree within max(0.7 %, 2·σ)', () => {
    expect(settleState([460])).toBe('too-few');
    expect(settleState([460, 461.1], 0.5)).toBe('not-settled');
    expect(settleState([470, 461.1, 460.3], 0.5)).toBe('settled');
    expect(settleState([460, null, 460.8], 0.1)).toBe('not-settled');
  });
});
