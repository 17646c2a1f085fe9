import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { recordedAt } from './recordedAt.ts';

const at = (preamble: readonly string[], name = 'pull.csv') => {
  const found = recordedAt(preamble, name);
  return found && [found.local, found.offset, found.source, found.dayMonthUnsure ? 'unsure' : ''].join(' ').trim();
};

describe('when a file was recorded', () => {
  test.each([
    [['Recorded: 2026-11-26T14:32:10Z'], '2026-11-26T14:32:10 Z header'],
    [['Start;2026-11-26 14:32:10.25 +0100'], '2026-11-26T14:32:10 +01:00 header'],
    [['"Date","26.11.2026"', '"Time","09:05"'], '2026-11-26T09:05:00  header'],
    [['Datum: 5.3.2026 7:05:09'], '2026-03-05T07:05:09  header'],
    [['Test 11/26/2026 2:32:10 PM'], '2026-11-26T14:32:10  header'],
    [['Test 3/5/2026 12:02 AM'], '2026-03-05T00:02:00  header'],
    [['Test 03/05/2026 12:02'], '2026-05-03T12:02:00  header unsure'],
    [['Date 26-11-2026, time 12:02'], '2026-11-26T12:02:00  header'],
    [['Recorded at 14:32 on 26.11.2026'], '2026-11-26T14:32:00  header'],
    // Other moments stand there too; the recording's own words win.
    [
      ['Calibrated 2026-01-02 08:00', 'Printed 2026-12-01 18:00', 'Opened 2026-11-26 08:00', 'Run 2026-11-26 14:32:10'],
      '2026-11-26T14:32:10  header',
    ],
  ])('%j', (preamble, expected) => expect(at(preamble)).toBe(expected));

  test.each([
    ['20261126_143210.csv', '2026-11-26T14:32:10  file-name'],
    ['car 7/2026-11-26_14-32-10 pull 3.txt', '2026-11-26T14:32:10  file-name'],
    ['Pull 26.11.2026 14.32.csv', '2026-11-26T14:32:00  file-name'],
    ['run_2026-11-26T1432.dat', '2026-11-26T14:32:00  file-name'],
  ])('%s', (name, expected) => expect(at([], name)).toBe(expected));

  test.each([
    [['Date: 2026-11-26'], 'pull.csv'],
    [['Calibrated 2026-01-02 08:00'], 'pull.csv'],
    [['Run 2026-02-30 14:32'], 'pull.csv'],
    [['Run 2026-11-26 25:61'], 'pull.csv'],
    [['Power 126.3 kW at 5240 rpm', 'Ratio 4.10:1'], 'pull 20261399.csv'],
    [[], '2026-11-26.csv'],
    // A number of a pull, a ratio and a duration are no time of day.
    [[], '2026-11-26 pull 1234.csv'],
    [[], '2026-11-26_run 3-12.csv'],
    [['Run 2026-11-26, ratio 4:10'], 'pull.csv'],
    [['Date: 2026-11-26', 'Ramp time 0:12', 'Lap 1:32'], 'pull.csv'],
  ])('a date alone, another moment, or a day that is not: %j %s', (preamble, name) =>
    expect(at(preamble, name)).toBeNull(),
  );

  test('whatever moment a clock wrote in a usual shape is read back', () => {
    const two = (v: number) => String(v).padStart(2, '0');
    const moment = fc.date({ min: new Date('1990-01-01'), max: new Date('2090-01-01'), noInvalidDate: true });
    fc.assert(
      fc.property(moment, fc.nat(6), (date, shape) => {
        const iso = date.toISOString().slice(0, 19);
        const [day, clock] = iso.split('T') as [string, string];
        const [y, m, d] = day.split('-') as [string, string, string];
        const hour = date.getUTCHours();
        const half = `${hour % 12 || 12}${clock.slice(2)} ${hour < 12 ? 'AM' : 'PM'}`;
        const [preamble, name] = [
          [[`Time of the run: ${day} ${clock}`], 'a.csv'],
          [['Car: Tarn Vireo', `Date;${d}.${m}.${y}`, `Time;${clock}`], 'a.csv'],
          [[`${Number(m)}/${Number(d)}/${y} ${half}`], 'a.csv'],
          [[`recorded ${y}/${m}/${d} ${clock}`], 'a.csv'],
          [[], `${y}${m}${d}-${clock.replaceAll(':', '')}.csv`],
          [[], `pull_${day}_${clock.replaceAll(':', '-')}.csv`],
          [[], `${d}.${m}.${y} ${two(hour)}h${clock.slice(3, 5)}.csv`],
        ][shape] as [string[], string];
        const found = recordedAt(preamble, name)!;
        const expected = shape === 6 ? `${iso.slice(0, 16)}:00` : iso;
        expect([found.local, found.dayMonthUnsure]).toEqual([expected, false]);
      }),
      { numRuns: 400 },
    );
  });
});
