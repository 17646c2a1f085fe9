import { expect, test } from '@jest/globals';
import { timesOf } from './recordedTimes.ts';

const file = (local: string | null, more: { pulls?: number; unsure?: boolean } = {}) => ({
  name: `${local}.csv`,
  pulls: Array.from({ length: more.pulls ?? 1 }, () => ({ name: '', rows: 9, sample: [] })),
  recorded: local
    ? { local, offset: null, source: 'header' as const, words: `Run ${local}`, dayMonthUnsure: more.unsure ?? false }
    : null,
});

test('times of files are told from the first to the last, whatever their order', () => {
  const times = timesOf([file('2026-11-26T15:01:44'), file('2026-11-26T14:32:10')])!;
  expect(times.said).toBe(
    'Recorded 2026-11-26, 14:32:10 to 15:01:44, as the lines above their numbers say: “Run 2026-11-26T14:32:10”.',
  );
  expect([times.problem, times.doubt]).toEqual(['', '']);
  expect(timesOf([file('2026-11-26T23:59:00'), file('2026-11-27T00:04:00')])!.said).toContain('to 2026-11-27 00:04:00');
  expect(timesOf([file(null)])).toBeNull();
});

test('what keeps times out says why, and a doubt is told', () => {
  const problem = (...files: ReturnType<typeof file>[]) => timesOf(files)!.problem;
  expect(problem(file('2026-11-26T14:32:10'), file(null))).toContain('1 of 2 files say no time');
  expect(problem(file('2026-11-26T14:32:10', { pulls: 3 }))).toContain('holds 3 pulls and one time');
  expect(problem(file('2026-11-26T14:32:10'), file('2026-11-26T14:32:10'))).toContain('Two files say');
  expect(timesOf([file('2026-05-03T14:32:10', { unsure: true })])!.doubt).toContain('other way round');
});
