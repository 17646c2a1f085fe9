import { describe, expect, test } from '@jest/globals';
import type { LiveMessage, LiveSheet } from '@prandel/core';
import fc from 'fast-check';
import { LiveFeed } from './liveFeed.ts';
import { Recovery } from './recovery.ts';

const sheet = (atMs: number) => ({ atMs }) as LiveSheet;

/** A screen as the page keeps it: rows of the pull on it, the newest sheet, the last number seen. */
class Screen {
  rows: (number | null)[][] = [];
  pull = '';
  sheetAt = -1;
  seq: number | null = null;
  repeated = 0;
  readonly take = (m: LiveMessage): void => {
    this.seq = m.seq;
    if (m.kind === 'sheet') {
      this.sheetAt = m.sheet.atMs;
      return;
    }
    if (this.pull !== m.pullId || m.from === 0) this.rows = [];
    this.pull = m.pullId;
    if (m.from < this.rows.length) this.repeated += 1;
    if (m.from > this.rows.length) throw new Error(`rows ${this.rows.length}–${m.from} are missing`);
    this.rows.length = m.from;
    this.rows.push(...m.rows.map((row) => [...row]));
  };
}

type Event =
  { kind: 'samples'; n: number } | { kind: 'sheet' } | { kind: 'lose' } | { kind: 'return' } | { kind: 'next' };
const event: fc.Arbitrary<Event> = fc.oneof(
  { weight: 6, arbitrary: fc.integer({ min: 1, max: 5 }).map((n): Event => ({ kind: 'samples', n })) },
  { weight: 6, arbitrary: fc.constant<Event>({ kind: 'sheet' }) },
  { weight: 2, arbitrary: fc.constant<Event>({ kind: 'lose' }) },
  { weight: 2, arbitrary: fc.constant<Event>({ kind: 'return' }) },
  { weight: 1, arbitrary: fc.constant<Event>({ kind: 'next' }) },
);

/** Who comes late gets an older sheet after newer samples; those samples must not come again. */
const LOST_BEFORE_ANYTHING: Event[] = [
  { kind: 'lose' },
  { kind: 'samples', n: 1 },
  { kind: 'sheet' },
  { kind: 'samples', n: 1 },
  { kind: 'return' },
  { kind: 'lose' },
];

describe('the messages of a bay', () => {
  test('however often the line is lost, a screen ends with every row of the pull, once and in order (property)', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 120 }), (events) => {
        const feed = new LiveFeed();
        const screen = new Screen();
        let stop: (() => void) | null = feed.listen(screen.take, null);
        let pull = 0;
        let rows = 0;
        let now = 0;
        feed.beginPull('p0', ['time_s']);
        for (const e of events) {
          now += 1;
          if (e.kind === 'samples') {
            const block = Array.from({ length: e.n }, (_, i) => [rows + i]);
            feed.samples(`p${pull}`, rows, ['time_s'], block, now);
            rows += e.n;
          } else if (e.kind === 'sheet') feed.sheet(sheet(now));
          else if (e.kind === 'lose') {
            stop?.();
            stop = null;
          } else if (e.kind === 'return') stop ??= feed.listen(screen.take, screen.seq);
          else {
            pull += 1;
            rows = 0;
            feed.beginPull(`p${pull}`, ['time_s']);
          }
        }
        now += 1;
        if (!stop) feed.listen(screen.take, screen.seq);
        feed.samples(`p${pull}`, rows, ['time_s'], [[rows]], now);
        feed.sheet(sheet(now));
        expect(screen.rows).toEqual(Array.from({ length: rows + 1 }, (_, i) => [i]));
        expect(screen.sheetAt).toBe(now);
        expect(screen.repeated).toBe(0);
      }),
      { numRuns: 300, examples: [[LOST_BEFORE_ANYTHING]] },
    );
  });

  test('a screen that was away too long gets the whole pull anew', () => {
    const feed = new LiveFeed();
    feed.beginPull('p', ['time_s']);
    feed.sheet(sheet(1));
    for (let i = 0; i < 2000; i += 1) feed.samples('p', i, ['time_s'], [[i]], i);
    const screen = new Screen();
    screen.rows = [[0], [1], [2]];
    screen.pull = 'p';
    for (const m of feed.missed(4)) screen.take(m);
    expect(screen.rows).toHaveLength(2000);
  });

  test('a number from before a restart of the server is no reason to say nothing', () => {
    const feed = new LiveFeed();
    feed.sheet(sheet(7));
    expect(feed.missed(9000).map((m) => m.kind)).toEqual(['sheet']);
    expect(feed.missed(null).map((m) => m.kind)).toEqual(['sheet']);
  });

  test('a missing value travels as null, never as NaN', () => {
    const feed = new LiveFeed();
    const heard: LiveMessage[] = [];
    feed.listen((m) => heard.push(JSON.parse(JSON.stringify(m)) as LiveMessage), null);
    feed.samples('p', 0, ['a', 'b'], [[1, NaN]], 0);
    expect(heard[0]).toMatchObject({ rows: [[1, null]] });
  });
});

describe('recoveries', () => {
  test('nothing is forecast before a pull; afterwards only the last minutes speak', () => {
    const recovery = new Recovery();
    recovery.push('intakeC', 0, 45);
    expect(recovery.forecast('intakeC', 22, 31).kind).toBe('too-early');
    recovery.begin(0);
    const at = (s: number) => (s < 300 ? 28 + 18 * Math.exp(-s / 420) : 37 + 2 * (1 - Math.exp(-(s - 300) / 240)));
    for (let s = 2; s <= 240; s += 2) recovery.push('intakeC', s * 1000, at(s));
    const early = recovery.forecast('intakeC', 22, 33);
    expect(early).toMatchObject({ kind: 'forecast' });
    if (early.kind === 'forecast') expect(early.seconds + 240).toBeCloseTo(-420 * Math.log(5 / 18), -2);
    // The fan is moved: what was learned before it would still promise a fall.
    for (let s = 242; s <= 700; s += 2) recovery.push('intakeC', s * 1000, at(s));
    expect(recovery.forecast('intakeC', 22, 33).kind).not.toBe('forecast');
  });

  test('thousands of readings are thinned, and the forecast stays', () => {
    const recovery = new Recovery();
    recovery.push('oilC', 0, 90);
    recovery.begin(0);
    for (let s = 1; s <= 330; s += 0.1) recovery.push('oilC', s * 1000, 88 + 20 * Math.exp(-s / 500));
    const forecast = recovery.forecast('oilC', 22, 93);
    expect(forecast.kind).toBe('forecast');
    if (forecast.kind === 'forecast') expect(forecast.seconds + 330).toBeCloseTo(-500 * Math.log(5 / 20), -2);
  });
});
