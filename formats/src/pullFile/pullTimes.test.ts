import { describe, expect, test } from '@jest/globals';
import { pullTimes } from './pullTimes.ts';
import { readPullFile } from './readPullFile.ts';

// Times of pulls from what a made-up file holds, its name, and when it was changed.
const block = (from: number, clock: (i: number) => string = (i) => ((from + i) / 10).toFixed(1)) =>
  ['Time;RPM;kW', ...Array.from({ length: 12 }, (_, i) => `${clock(i)};${2000 + 100 * i};${40 + i}`)].join('\n');
const times = (text: string, name = 'x.csv', changedAt: string | null = null) => {
  const file = readPullFile(new TextEncoder().encode(text));
  return pullTimes(file, file.columns, name, changedAt).map((t) => t && [t.local, t.source]);
};
const clock = (start: number) => (i: number) => new Date((start + i) * 1000).toISOString().slice(11, 19);

describe('when the pulls of a file were made', () => {
  test('a line above the numbers comes before everything else', () => {
    const text = `Recorded: 2026-11-26 14:32:10\n${block(0)}`;
    expect(times(text, '20260101_0800.csv', '2026-01-02T08:00:00Z')).toEqual([['2026-11-26T14:32:10', 'header']]);
  });

  test('below the numbers it counts as well', () => {
    expect(times(`${block(0)}\n\nDate: 26.11.2026 14:32:10\n`)).toEqual([['2026-11-26T14:32:10', 'header']]);
  });

  test('a column with the time of day needs a day: of a line, of the name, or of the file itself', () => {
    const own = block(0, clock(51_000));
    expect(times(`Date: 2026-11-26\n${own}`)).toEqual([['2026-11-26T14:10:00', 'time-column']]);
    expect(times(own, 'run_2026-11-25.csv')).toEqual([['2026-11-25T14:10:00', 'time-column']]);
    expect(times(own, 'x.csv', '2026-11-24T18:00:00Z')).toEqual([['2026-11-24T14:10:00', 'time-column']]);
    expect(times(own)).toEqual([null]);
  });

  test('time since the recording began is no time of day', () => {
    expect(times(`Date: 2026-11-26\n${block(0, clock(3))}`)).toEqual([null]);
  });

  test('the name, then the date of the file', () => {
    expect(times(block(0), 'run_20261126_143210.csv')).toEqual([['2026-11-26T14:32:10', 'file-name']]);
    expect(times(block(0), 'x.csv', '2026-11-26T14:32:10Z')).toEqual([['2026-11-26T14:32:10', 'file-date']]);
    expect(times(block(0))).toEqual([null]);
  });

  test('blocks say their own times, with the day of the file', () => {
    const text = `Date: 2026-11-26\n\nRun 1, 14:32:10\n${block(0)}\n\nRun 2, 14:36:40\n${block(0)}`;
    expect(times(text)).toEqual([
      ['2026-11-26T14:32:10', 'header'],
      ['2026-11-26T14:36:40', 'header'],
    ]);
  });

  test('a clock that runs on from pull to pull tells every pull of one moment; one that begins anew tells none', () => {
    const head = 'Recorded: 2026-11-26 14:00:00';
    expect(times(`${head}\n${block(0)}\n\n${block(2400)}\n\n${block(4800)}`)).toEqual([
      ['2026-11-26T14:00:00', 'header'],
      ['2026-11-26T14:04:00', 'header'],
      ['2026-11-26T14:08:00', 'header'],
    ]);
    expect(times(`${head}\n${block(0)}\n\n${block(0)}`)).toEqual([null, null]);
    // A file is written when its last pull is over.
    expect(times(`${block(0)}\n\n${block(2400)}`, 'x.csv', '2026-11-26T14:10:00Z')).toEqual([
      ['2026-11-26T14:06:00', 'file-date'],
      ['2026-11-26T14:10:00', 'file-date'],
    ]);
  });
});
