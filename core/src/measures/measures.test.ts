import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newPull } from '../job/defaults.ts';
import { quantile } from '../statistics/summary.ts';
import { airAlone } from './airAlone.ts';
import { channelMean, channelReadings } from './channelReadings.ts';
import { MEASURE_IDS, measureName, measureNamed, measureNeeds } from './declaredMeasure.ts';
import { fadeOf, fadeSees } from './fade.ts';
import { measureFacts, measureProblem, measuresProblem } from './measureFacts.ts';
import { rollOnAnchor, rollOnResponse, rollOnTrace, type RollOn } from './rollOn.ts';

describe('declared measures', () => {
  test('every measure has a name that leads back to it, and cannot be declared without what it needs', () => {
    for (const id of MEASURE_IDS) {
      const need = measureNeeds(id);
      const given = { channel: { channel: 'oil_c' }, rpm: { rpm: 4000 }, speeds: { fromKmH: 80, toKmH: 120 } };
      const asked = { id, ...(need ? given[need] : {}) };
      expect(measureNamed(measureName(asked))).toEqual(asked);
      const { meaningful } = measureFacts(asked);
      expect(measureProblem({ ...asked, meaningful })).toBeNull();
      expect(measureProblem({ ...asked, meaningful: 0 })).toContain(id);
      if (need) expect(measureProblem({ id, meaningful })).toContain('needs');
    }
    expect(measureNamed('beauty')).toBeNull();
    expect(measureNamed('peak')).toBeNull();
    const twice = { id: 'windowMeanPower', meaningful: 1 } as const;
    expect(measuresProblem([twice, twice])).toContain('twice');
    expect(measuresProblem([])).not.toBeNull();
    expect(measureProblem({ id: 'rise', channel: 'manifold_kpa', meaningful: 1 })).toContain('temperature');
  });

  test('what is better and how it scatters is a matter of the channel', () => {
    const of = (channel: string) => {
      const { better, factor, unit, meaningful } = measureFacts({ id: 'mean', channel });
      return [better, factor, unit, meaningful];
    };
    expect(of('inlet_vacuum_kpa')).toEqual(['lower', 0.7, 'kPa', 1]);
    expect(of('manifold_kpa')).toEqual(['neither', 2, 'kPa', 2]);
    expect(of('charge_c')).toEqual(['lower', 2, '°C', 3]);
    expect(of('lambda')).toEqual(['neither', 0.02, '', 0.02]);
    expect(of('ignition_deg')).toEqual(['neither', 1.1, '°', 1]);
  });
});

describe('channels of a pull', () => {
  const HZ = 50;
  /** Two seconds of rest, ten at full throttle, one after it. */
  const recording = (charge: (t: number) => number, more: Record<string, (t: number) => number> = {}) => {
    const t = Array.from({ length: 13 * HZ }, (_, i) => i / HZ - 2);
    const of = (name: string, f: (t: number) => number) => ({ name, values: Float64Array.from(t, f) });
    return {
      ...newPull('A-1', 'A', 1),
      channels: [
        of('time_s', (s) => s + 2),
        of('engine_rpm', (s) => 2500 + 400 * Math.min(10, Math.max(0, s))),
        of('throttle_fraction', (s) => (s >= 0 && s < 10 ? 1 : 0.1)),
        of('charge_c', charge),
        ...Object.entries(more).map(([name, f]) => of(name, f)),
      ],
    };
  };

  test('start, end, rise and peak of a temperature are read off the second before, the last half second and the hottest hundredth', () => {
    const [charge] = channelReadings(
      recording((s) => 40 + 2 * Math.max(0, s)),
      null,
    ).channels;
    expect(charge!.start).toBeCloseTo(40, 9);
    expect(charge!.end).toBeCloseTo(40 + 2 * (10 - 1 / HZ - 0.24), 1);
    const own = Float64Array.from({ length: 10 * HZ }, (_, i) => 40 + (2 * i) / HZ);
    expect(charge!.peak).toBeCloseTo(quantile(own, 0.99), 9);
    expect(channelMean(charge!, 3000, 6000)).toBeCloseTo(40 + 2 * ((4500 - 2500) / 400), 1);
    expect(channelMean(charge!, 2000, 6000)).toBeNaN();
  });

  test('nothing is read of what was not recorded: no second before, no throttle, a dead stretch', () => {
    const cut = recording((s) => 40 + s);
    const late = { ...cut, channels: cut.channels.map((c) => ({ ...c, values: c.values.subarray(2 * HZ) })) };
    expect(channelReadings(late, null).channels[0]!.start).toBeNaN();
    const dead = channelReadings(
      recording((s) => (s > 4 && s < 9 ? NaN : 40)),
      null,
    ).channels[0]!;
    expect(dead.heard).toBeCloseTo(0.5, 1);
    expect(channelMean(dead, 3000, 6000)).toBeNaN();
    expect(channelReadings({ channels: [] }, null).channels).toEqual([]);
  });

  test('a percentile picked without sorting everything is the percentile', () => {
    const numbers = fc.array(fc.double({ min: -50, max: 900, noNaN: true }), { minLength: 3, maxLength: 400 });
    fc.assert(
      fc.property(numbers, (values) => {
        const all = [values[0]!, ...values];
        const rpm = Float64Array.from(all, (_, i) => 2000 + 5 * i);
        const pull = {
          channels: [
            { name: 'engine_rpm', values: rpm },
            { name: 'oil_c', values: Float64Array.from(all) },
          ],
        };
        expect(channelReadings(pull, null).channels[0]!.peak).toBeCloseTo(quantile(all, 0.99), 9);
      }),
      { numRuns: 200 },
    );
  });

  test('a cooler takes out a share of what the air around it allows, over the last third', () => {
    const pull = recording(() => 45, { charge_in_c: (s) => (s > 5 ? 120 : 30), ambient_c: () => 20 });
    expect(channelReadings(pull, null).effectiveness).toBeCloseTo((120 - 45) / (120 - 20), 9);
    const cold = recording(() => 25, { charge_in_c: () => 29, ambient_c: () => 20 });
    expect(channelReadings(cold, null).effectiveness).toBeNaN();
  });
});

test('what the air alone would explain: 198 to 201 kPa and 63 to 38 °C', () => {
  const { logPercent, percent } = airAlone({ pressure: 198, celsius: 63 }, { pressure: 201, celsius: 38 });
  expect(logPercent).toBeCloseTo(9.232026, 6);
  expect(percent).toBeCloseTo(9.671599, 6);
});

describe('fade', () => {
  const round = (powers: readonly number[]) => ({
    x: powers.map((_, i) => i + 1),
    y: powers.map((p) => 100 * Math.log(p)),
  });
  const A = round([240.1, 237.9, 236.2, 234.1, 232.6]);
  const B = round([243.0, 242.4, 241.5, 241.1, 240.2]);

  test('slopes, difference and interval of five pulls a side', () => {
    const fade = fadeOf([A], [B], 0.95)!;
    expect(fade.baseline).toBeCloseTo(-0.795726, 6);
    expect(fade.candidate).toBeCloseTo(-0.285565, 6);
    expect(fade.difference).toBeCloseTo(0.51016, 6);
    expect(fade.low).toBeCloseTo(0.162395, 5);
    expect(fade.high).toBeCloseTo(0.857925, 5);
    expect([fade.variance.toFixed(6), fade.degrees]).toEqual(['0.127381', 12]);
  });

  test('rounds of one setup share a slope and keep their levels; two pulls are no fade', () => {
    const lower = { ...A, y: A.y.map((v) => v - 3) };
    expect(fadeOf([A, lower], [B], 0.95)!.baseline).toBeCloseTo(-0.795726, 6);
    const two = { x: [1, 2], y: [0, 1] };
    expect(fadeOf([A], [two], 0.95)).toBeNull();
    // Twice the rounds see by the root of two closer.
    expect(fadeSees(6, 1) / fadeSees(6, 2)).toBeCloseTo(Math.SQRT2, 12);
  });
});

describe('roll-on', () => {
  const TAU = 1.3;
  const PEAK = 300;
  const roll = (hz: number, throttle = true, seconds = 8): RollOn => {
    const timeS = Float64Array.from({ length: seconds * hz }, (_, i) => i / hz);
    return {
      timeS,
      torqueNm: timeS.map((t) => (t < 1 ? 0 : PEAK * (1 - Math.exp(-(t - 1) / TAU)))),
      rpm: timeS.map(() => 3000),
      throttle: throttle ? timeS.map((t) => (t < 1 ? 0 : 1)) : null,
    };
  };

  const answer = (own: RollOn, target: number) => rollOnResponse(rollOnTrace(own)!, target);

  test('first order with 1.3 s: 2.993361 s to nine tenths, 0.967404 s of torque not there', () => {
    const own = roll(1000);
    const { seconds, deficitS } = answer(own, 0.9 * PEAK);
    expect(rollOnTrace(own)!.unsteady).toBe(false);
    // Half of the throttle's step lies half a sample before its first full one.
    expect(seconds + rollOnAnchor(own) - 1).toBeCloseTo(2.993361, 3);
    expect(deficitS - (1 - rollOnAnchor(own))).toBeCloseTo(0.967404, 4);
  });

  test('what is kept of a recording is bounded by its seconds, not by its samples', () => {
    const fine = rollOnTrace(roll(10_000))!;
    expect(fine.timeS.length).toBeLessThan(200 * 8 + 2);
    expect(rollOnResponse(fine, 0.9 * PEAK).seconds).toBeCloseTo(answer(roll(1000), 0.9 * PEAK).seconds, 2);
  });

  test('a target that is never met has no time; without a throttle the rise of torque is the anchor; a moving car is told', () => {
    const short = answer(roll(100, true, 3), 0.9 * PEAK);
    expect([short.seconds, short.deficitS]).toEqual([NaN, NaN]);
    expect(short.recordedS).toBeCloseTo(2, 1);
    const fifth = -TAU * Math.log(1 - 0.2 * (1 - Math.exp(-7 / TAU)));
    expect(rollOnAnchor(roll(1000, false))).toBeCloseTo(1 + fifth, 2);
    const moving = roll(100);
    expect(rollOnTrace({ ...moving, rpm: moving.timeS.map((t) => 2500 + 500 * t) })!.unsteady).toBe(true);
    expect(rollOnTrace({ ...moving, throttle: moving.timeS.map(() => 1) })).toBeNull();
  });
});
