import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newPull } from '../job/defaults.ts';
import type { Channel, Pull } from '../job/job.ts';
import { channelInto, nameBeside } from './channelsInto.ts';
import { crossCorrelation } from './crossCorrelation.ts';
import { evenSamples, valueAt } from './evenSamples.ts';
import { layLogger, type Laid } from './layLogger.ts';

const { sin, exp } = Math;
const DAY = Date.UTC(2026, 4, 2, 13);

/** Engine speed of a pull: idle, up to its start, a rise of ten seconds that flattens, and down again; each a little other than the last. */
const pullSpeed = (i: number) => (t: number) => {
  const [from, top, tau] = [2400 + 35 * i, 6300 - 20 * i, 5 + 0.15 * i];
  if (t < 2) return from + 6 * sin(9 * t + i);
  if (t < 12) return from + (top - from) * (1 - exp((2 - t) / tau)) * 1.12;
  return 900 + (top * 1.02 - 900) * exp((12 - t) / 2.5);
};
const MINUTES = [0, 4.1, 8.3, 12.2, 61, 65.2, 69.1, 73.4];
const SPAN = 16;

/** Speed of the whole afternoon in the job's clock, seconds since its first pull. */
function afternoon(t: number): number {
  const i = MINUTES.findLastIndex((m) => m * 60 - 3 <= t);
  const within = i < 0 ? -1 : t - MINUTES[i]! * 60;
  return within >= 0 && within < SPAN ? pullSpeed(i)(within) : 880 + 15 * sin(t / 3.1);
}

const pulls = (timed = true, hz = 50): Pull[] =>
  MINUTES.map((m, i) => {
    const time = Float64Array.from({ length: SPAN * hz }, (_, k) => k / hz);
    return {
      ...newPull(`P-${i + 1}`, i < 4 ? 'A' : 'B', (i % 4) + 1),
      startedAt: timed ? new Date(DAY + m * 60_000).toISOString() : null,
      channels: [
        { name: 'time_s', values: time },
        { name: 'engine_rpm', values: time.map(pullSpeed(i)) },
      ],
    };
  });

/** A logger with a clock of its own, from ten minutes before the first pull to ten after the last. */
function record(
  offsetS: number,
  ppm: number,
  more: Partial<{ hz: number; noise: number; factor: number; from: number; to: number }> = {},
): Channel[] {
  const { hz = 10, noise = 0, factor = 1, from = -600, to = 75 * 60 + 600 } = more;
  const job = Float64Array.from({ length: Math.floor((to - from) * hz) }, (_, k) => from + k / hz);
  const of = (name: string, f: (t: number, k: number) => number) => ({ name, values: job.map((t, k) => f(t, k)) });
  return [
    of('time_s', (t) => offsetS + (1 + ppm / 1e6) * t),
    of('engine_rpm', (t, k) => factor * (afternoon(t) + noise * sin(2.7 * k * k))),
    of('charge_c', (t) => 40 + t / 100),
  ];
}
const laid = (of: ReturnType<typeof layLogger>): Laid => {
  if ('code' in of) throw new Error(JSON.stringify(of));
  return of;
};

describe('a logger of the afternoon beside eight pulls', () => {
  test('offset and rate are those of its clock, 300 ppm fast, within a hundredth of a second', () => {
    const own = laid(layLogger(pulls(), record(9412.37, 300)));
    expect(own.pulls.map((p) => p.id)).toEqual(pulls().map((p) => p.id));
    expect(Math.abs(own.pulls[0]!.atS - 9412.37)).toBeLessThan(0.01);
    expect(Math.abs(own.ratePpm - 300)).toBeLessThan(5);
    expect(own.correlation).toBeGreaterThan(0.999);
    expect(own.residual / own.range).toBeLessThan(0.015);
    for (const [i, { atS }] of own.pulls.entries())
      expect(Math.abs(atS - (9412.37 + 1.0003 * 60 * MINUTES[i]!))).toBeLessThan(0.02);
  });

  test('wherever the clocks stand and however fast they run (property)', () => {
    const clock = fc.record({
      offset: fc.double({ min: -80_000, max: 80_000, noNaN: true }),
      ppm: fc.integer({ min: -2500, max: 2500 }),
    });
    fc.assert(
      fc.property(clock, ({ offset, ppm }) => {
        const own = laid(layLogger(pulls(), record(offset, ppm, { noise: 8 })));
        expect(own.pulls).toHaveLength(8);
        expect(Math.abs(own.pulls[0]!.atS - offset)).toBeLessThan(0.03);
        expect(Math.abs(own.ratePpm - ppm)).toBeLessThan(15);
      }),
      { numRuns: 6 },
    );
  });

  test('a record of one round is laid beside that round; without times only where every pull is in it', () => {
    const second = laid(layLogger(pulls(), record(100, 0, { from: 58 * 60 })));
    expect(second.pulls.map((p) => p.id)).toEqual(['P-5', 'P-6', 'P-7', 'P-8']);
    const untimed = laid(layLogger(pulls(false), record(100, 0)));
    expect(untimed.pulls.map((p) => Math.round(p.atS))).toEqual(MINUTES.map((m) => Math.round(100 + 60 * m)));
    expect(untimed.ratePpm).toBeNaN();
    expect(layLogger(pulls(false), record(100, 0, { from: 58 * 60 }))).toMatchObject({ code: 'ambiguous' });
    // Two pulls of the same shape: a record of one of them fits both.
    const twin = pulls()
      .map((p) => ({ ...p, channels: pulls()[0]!.channels }))
      .slice(0, 2);
    expect(layLogger(twin, record(0, 0, { to: 120 }))).toMatchObject({ code: 'ambiguous' });
  });

  test('road speed beside engine speed is laid up to a factor', () => {
    const road = record(50, 0, { factor: 0.0287 }).map((c) =>
      c.name === 'engine_rpm' ? { ...c, name: 'speed_km_h' } : c,
    );
    const own = laid(layLogger(pulls(), road));
    expect(own.pulls).toHaveLength(8);
    expect(Math.abs(own.pulls[0]!.atS - 50)).toBeLessThan(0.01);
  });

  test('another day, another car, no clock or no speed are refused with their reason', () => {
    const other = record(0, 0).map((c) =>
      c.name === 'engine_rpm' ? { ...c, values: c.values.map((_, k) => 2500 + 900 * sin(k / 77)) } : c,
    );
    expect(layLogger(pulls(), other)).toMatchObject({ code: 'no-match' });
    const off = record(0, 0, { factor: 1.06 });
    expect(layLogger(pulls(), off)).toMatchObject({ code: 'residual', laidBy: 'engine' });
    expect(layLogger(pulls(), record(0, 0).slice(1))).toEqual({ code: 'no-time' });
    expect(layLogger(pulls(), [record(0, 0)[0]!, record(0, 0)[2]!])).toEqual({ code: 'no-common-speed' });
    expect('code' in layLogger([], record(0, 0))).toBe(true);
  });
});

test('a clock in milliseconds is no record of a month: it is told before even samples would fill the memory', () => {
  const time = (of: (t: number) => number) => (c: Channel) =>
    c.name === 'time_s' ? { ...c, values: c.values.map(of) } : c;
  expect(layLogger(pulls(), record(4000, 0).map(time((t) => 1000 * t)))).toMatchObject({
    code: 'too-long',
    hours: expect.closeTo((1000 * 5700) / 3600, 0) as unknown,
  });
  expect(layLogger(pulls(), record(4000, 0).map(time((t) => 1e12 * t)))).toMatchObject({ code: 'too-long' });
  // A pull of such a clock cannot be laid, the others can.
  const [first, ...others] = pulls();
  const broken = { ...first!, channels: first!.channels.map(time((t) => 1e9 * t)) };
  expect(laid(layLogger([broken, ...others], record(4000, 0))).pulls.map((p) => p.id)).toEqual(others.map((p) => p.id));
});

describe('what alignment is made of', () => {
  test('cross-correlation is Pearson’s coefficient, highest at the known shift of a real-shaped signal, and never over a gap', () => {
    const signal = Float64Array.from({ length: 900 }, (_, k) => afternoon(k / 5 - 20));
    const pattern = signal.slice(137, 137 + 60);
    const values = crossCorrelation(pattern, signal);
    expect(values.indexOf(values.reduce((a, b) => Math.max(a, b)))).toBe(137);
    const [x, y] = [pattern, signal.slice(90, 150)];
    const mean = (v: Float64Array) => v.reduce((a, b) => a + b, 0) / v.length;
    const [mx, my] = [mean(x), mean(y)];
    const sum = (f: (i: number) => number) => x.reduce((a, _, i) => a + f(i), 0);
    const pearson =
      sum((i) => (x[i]! - mx) * (y[i]! - my)) /
      Math.sqrt(sum((i) => (x[i]! - mx) ** 2) * sum((i) => (y[i]! - my) ** 2));
    expect(values[90]).toBeCloseTo(pearson, 9);
    const torn = signal.slice();
    torn[160] = NaN;
    expect([...crossCorrelation(pattern, torn).slice(101, 161)].every((v) => v === -1)).toBe(true);
  });

  test('even samples are straight between what was recorded and do not bridge a gap', () => {
    const even = evenSamples(Float64Array.of(0, 1, 2, 9, 10), Float64Array.of(0, 10, 20, 90, 100), 0.5);
    expect([valueAt(even, 1.25), valueAt(even, 5), valueAt(even, 9.5), valueAt(even, 11)]).toEqual([
      12.5,
      NaN,
      95,
      NaN,
    ]);
    expect(evenSamples(Float64Array.of(1), Float64Array.of(1), 0.5).values).toHaveLength(0);
  });

  test('a channel comes into a pull by the clocks, with nothing outside the record', () => {
    const [time, , charge] = record(9412.37, 300);
    const values = channelInto(
      Float64Array.of(0, 5, 10),
      time!.values,
      charge!.values,
      9412.37 + 1.0003 * 61 * 60,
      300e-6,
    );
    [0, 5, 10].forEach((t, i) => expect(values[i]).toBeCloseTo(40 + (61 * 60 + t) / 100, 6));
    expect(channelInto(Float64Array.of(0), time!.values, charge!.values, -9e6, 0)[0]).toBeNaN();
    expect(nameBeside('oil_c', ['oil_c', 'logger_oil_c'])).toBe('logger_logger_oil_c');
  });
});
