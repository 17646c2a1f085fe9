import { pauseFor, pooledHeat, settledStartC } from './pausePlan.ts';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { day } from '../test/curveDays.ts';
import { judgeJob } from '../verdict/judge.ts';
import { forecastCoolDown, type RecoverySample } from './coolDown.ts';
import { heatCoefficient } from './heatCoefficient.ts';

/** A recovery by Newton's law of cooling, with the scatter and resolution of an ordinary sensor. */
function recovery(settlesC: number, heightC: number, timeS: number, seconds: number, wobble = 0): RecoverySample[] {
  return Array.from({ length: Math.floor(seconds / 2) + 1 }, (_, i) => ({
    seconds: i * 2,
    celsius: settlesC + heightC * Math.exp((-i * 2) / timeS) + wobble * Math.sin(i * 12.9898),
  }));
}
/** What an ordinary intake does behind a fan: °C above the bay's air it settles at, °C to fall, time constant in seconds. */
const ORDINARY_CAR = {
  above: fc.double({ min: 2, max: 11, noNaN: true }),
  height: fc.double({ min: 6, max: 20, noNaN: true }),
  time: fc.double({ min: 300, max: 900, noNaN: true }),
};
const timeTo = (limit: number, settles: number, height: number, time: number) =>
  -time * Math.log((limit - settles) / height);

describe('when will a temperature meet its gate', () => {
  test('a long clean recovery gives back its own settling point, time constant and remaining time', () => {
    const forecast = forecastCoolDown(recovery(28, 18, 420, 1200), 22, 28.5);
    expect(forecast.kind).toBe('forecast');
    if (forecast.kind !== 'forecast') return;
    expect(forecast.settlesAtC).toBeCloseTo(28, 1);
    expect(forecast.timeConstantS / 420).toBeCloseTo(1, 1);
    expect(forecast.seconds).toBeCloseTo(timeTo(28.5, 28, 18, 420) - 1200, -2);
  });

  test('no forecast before half a minute of readings, none needed once the limit is met', () => {
    expect(forecastCoolDown(recovery(28, 18, 420, 28), 22, 31).kind).toBe('too-early');
    expect(forecastCoolDown([], 22, 31).kind).toBe('too-early');
    expect(forecastCoolDown(recovery(28, 18, 420, 60), 22, 50).kind).toBe('met');
  });

  test('a gate under the settling point, or under the bay itself, is not met on its own', () => {
    const fanOff = forecastCoolDown(recovery(39, 8, 300, 600), 22, 31);
    expect(fanOff).toMatchObject({ kind: 'not-on-its-own' });
    if (fanOff.kind === 'not-on-its-own') expect(fanOff.settlesAtC).toBeGreaterThan(37);
    expect(forecastCoolDown(recovery(28, 18, 420, 60), 22, 21).kind).toBe('not-on-its-own');
  });

  test('a temperature that climbs, because the fan was moved, is not met on its own either', () => {
    const climbing = recovery(28, 10, 420, 120).concat(
      Array.from({ length: 120 }, (_, i) => ({ seconds: 122 + 2 * i, celsius: Math.round(35.5 + i / 30) })),
    );
    expect(forecastCoolDown(climbing, 22, 34).kind).toBe('not-on-its-own');
  });

  test('from half a minute on the interval holds the truth for ordinary cars, and narrows as readings come in', () => {
    let held = 0;
    let given = 0;
    let narrower = 0;
    fc.assert(
      fc.property(fc.record(ORDINARY_CAR), ({ above, height, time }) => {
        const settles = 22 + above;
        const limit = settles + 0.35 * height;
        const early = forecastCoolDown(recovery(settles, height, time, 60, 0.1), 22, limit);
        const later = forecastCoolDown(recovery(settles, height, time, 240, 0.1), 22, limit);
        for (const [forecast, now] of [
          [early, 60],
          [later, 240],
        ] as const) {
          if (forecast.kind !== 'forecast') continue;
          const truth = timeTo(limit, settles, height, time) - now;
          given += 1;
          if (truth >= forecast.lowSeconds && truth <= forecast.highSeconds) held += 1;
        }
        if (early.kind === 'forecast' && later.kind === 'forecast')
          narrower += later.highSeconds - later.lowSeconds < early.highSeconds - early.lowSeconds ? 1 : -1;
      }),
      { numRuns: 150, seed: 11 },
    );
    expect(given).toBeGreaterThan(200);
    expect(held / given).toBeGreaterThan(0.93);
    expect(narrower).toBeGreaterThan(75);
  });

  test.each([1, 0.5])('a sensor that counts in steps of %s °C promises no more than it knows', (step) => {
    let held = 0;
    let given = 0;
    fc.assert(
      fc.property(
        fc.record({
          ...ORDINARY_CAR,
          offset: fc.double({ min: 0, max: 1, noNaN: true }),
        }),
        ({ above, height, time, offset }) => {
          const settles = 22 + above + offset;
          const limit = settles + 0.35 * height;
          for (const now of [40, 90, 240]) {
            const told = recovery(settles, height, time, now).map((s) => ({
              ...s,
              celsius: step * Math.round(s.celsius / step),
            }));
            const forecast = forecastCoolDown(told, 22, limit);
            if (forecast.kind !== 'forecast') continue;
            const truth = timeTo(limit, settles, height, time) - now;
            given += 1;
            // The gate opens on what the sensor says, half a step early at the most.
            const early = timeTo(limit + step / 2, settles, height, time) - now;
            if (truth >= forecast.lowSeconds && early <= forecast.highSeconds) held += 1;
          }
        },
      ),
      { numRuns: 70, seed: 12 },
    );
    expect(given).toBeGreaterThan(100);
    expect(held / given).toBeGreaterThan(0.93);
  });

  test('a fan that comes back turns the recovery: the climb before it does not speak of the fall after it', () => {
    // Seven degrees up in four minutes without the fan, then down with it, counted in whole degrees once a second.
    const turned = (falling: number) =>
      Array.from({ length: 240 + falling }, (_, s) => ({
        seconds: s,
        celsius: Math.round(s < 240 ? 34 + (s / 240) * 7 : 30 + 11 * Math.exp(-(s - 240) / 120)),
      }));
    const limit = 33;
    const truth = (falling: number) => -120 * Math.log((limit - 30) / 11) - falling;
    for (const falling of [45, 60, 90, 120]) {
      const forecast = forecastCoolDown(turned(falling), 22, limit);
      // A minute after the turn the last minute may still be warmer than the one before it.
      if (forecast.kind === 'not-on-its-own' && falling <= 60) continue;
      if (forecast.kind === 'too-early') continue;
      expect(forecast).toMatchObject({ kind: 'forecast' });
      if (forecast.kind !== 'forecast') continue;
      expect(forecast.lowSeconds).toBeLessThan(truth(falling) + 10);
      expect(forecast.highSeconds).toBeGreaterThan(truth(falling) - 10);
      expect(forecast.seconds).toBeLessThan(3 * truth(falling) + 60);
    }
    expect(forecastCoolDown(turned(120), 22, limit).kind).toBe('forecast');
  });
});

describe('what a degree costs a car', () => {
  /** Starts climb by `step` °C a pull, and power falls by 0.2 % a degree. */
  const hot = (step: number) => {
    const start = (id: string) => 35 + step * Number(id[1]);
    const ids = ['A1', 'A2', 'A3', 'A4', 'B1', 'B2', 'B3', 'B4', 'R1', 'R2', 'R3'];
    return day(
      2,
      Object.fromEntries(
        ids.map((id) => [
          id,
          {
            pull: { intakeStartC: start(id) },
            level: (id[0] === 'B' ? 1.02 : 1) * Math.exp(-0.002 * (start(id) - 35)),
          },
        ]),
      ),
    );
  };

  test('is read within the rounds, whatever the setups differ by, with an interval that narrows with the degrees', () => {
    const job = hot(4);
    const heat = heatCoefficient(job, judgeJob(job, 'verdict'))!;
    expect(heat).toMatchObject({ pulls: 8, rounds: 3 });
    expect(heat.percentPerC).toBeCloseTo(0.2, 1);
    expect([heat.low < heat.percentPerC, heat.percentPerC < heat.high]).toEqual([true, true]);
    // Twice the degrees in the same scatter: half the interval.
    const wide = heatCoefficient(hot(8), judgeJob(hot(8), 'verdict'))!;
    expect((wide.high - wide.low) / (heat.high - heat.low)).toBeCloseTo(0.5, 1);
  });

  test('nothing is said where the starts hardly differ', () => {
    const job = hot(0.4);
    expect(heatCoefficient(job, judgeJob(job, 'verdict'))).toBeNull();
  });
});

describe('pauses by what heat costs a car', () => {
  const of = (percentPerC: number, half: number) => ({
    percentPerC,
    low: percentPerC - half,
    high: percentPerC + half,
    pulls: 6,
    rounds: 2,
  });

  test('jobs that agree narrow the coefficient, jobs that differ widen it', () => {
    const two = pooledHeat([of(0.1, 0.05), of(0.12, 0.05)])!;
    expect([two.percentPerC, two.jobs]).toEqual([expect.closeTo(0.11, 9) as unknown, 2]);
    expect(two.high - two.percentPerC).toBeCloseTo(0.05 / Math.SQRT2, 9);
    const apart = pooledHeat([of(0.02, 0.02), of(0.2, 0.02)])!;
    expect(apart.high - apart.low).toBeGreaterThan(0.15);
    expect(pooledHeat([])).toBeNull();
  });

  test('the settled start is where a pull adds what the pause takes away, and the pause that is asked for keeps to it', () => {
    // By pulling: every pull adds R, every pause leaves its share.
    const left = Math.exp(-6 / 9);
    let start = 0;
    for (let pull = 0; pull < 200; pull += 1) start = (start + 2 / Math.exp(-5 / 9)) * left;
    expect(settledStartC(6, false)).toBeCloseTo(start, 9);
    const pause = pauseFor(0.12, 0.33, true)!;
    expect(0.12 * settledStartC(pause, true)).toBeLessThanOrEqual(0.33);
    expect(0.12 * settledStartC(pause - 1, true)).toBeGreaterThan(0.33);
    expect([pauseFor(-0.05, 0.3, false), pauseFor(5, 0.01, true)]).toEqual([null, null]);
  });
});
