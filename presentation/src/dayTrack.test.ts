import { describe, expect, test } from '@jest/globals';
import { judgeJob, newJob, newPull, newSetup, type Job, type Pull } from '@prandel/core';
import { dayTrackSvg } from './dayTrack.ts';
import { setupStyles } from './palette.ts';

const START = Date.UTC(2026, 8, 14, 8, 20);
/** A pull of the day, by minutes after the first. */
const pull = (setup: string, k: number, minute: number, status: Pull['status'] = 'counted'): Pull => ({
  ...newPull(`${setup}-${k}`, setup, k),
  status,
  reason: status === 'set-aside' ? 'wheel slip' : null,
  startedAt: new Date(START + minute * 60_000).toISOString(),
  airC: 22,
  pressureHpa: 1000,
  intakeStartC: 30 + k,
});
const job: Job = {
  ...newJob('QG-1', 'x'),
  timeZone: 'Europe/Lisbon',
  setups: [
    newSetup('A', 'as arrived'),
    newSetup('B', 'a label so long that it cannot stand over a short block of pulls at all', 'A'),
    { ...newSetup('A2', 'return check', 'A'), returnsTo: 'A' },
  ],
  pulls: [
    pull('A', 1, 0, 'settle'),
    pull('A', 2, 5),
    pull('A', 3, 10, 'set-aside'),
    pull('A', 4, 15),
    pull('B', 1, 75, 'settle'),
    pull('B', 2, 80),
    pull('A2', 1, 150),
  ],
};
const draw = (of: Job = job, width = 1200) => dayTrackSvg(of, judgeJob(of), width, 11);
const count = (svg: string, what: RegExp) => (svg.match(what) ?? []).length;

describe('the day track', () => {
  test('a block per round, a tick per pull: filled counted, hollow settle, crossed set aside', () => {
    const svg = draw();
    expect(count(svg, /height="3\.2"/g)).toBe(3);
    expect(count(svg, /width="3\.6" height="11"/g)).toBe(6);
    expect(count(svg, /width="3\.6" height="11" fill="#FFFFFF"/g)).toBe(2);
    expect(count(svg, /25l6 9m0 -9l-6 9/g)).toBe(1);
    expect(count(svg, /<circle/g)).toBe(7);
  });

  test('work on the car is hatched between the rounds, and a return check wears its setup’s hue, hollow', () => {
    const svg = draw();
    expect(count(svg, /url\(#fitting\)/g)).toBe(2);
    const [a, a2] = [setupStyles(job.setups).get('A')!, setupStyles(job.setups).get('A2')!];
    expect(a2).toMatchObject({ line: a.line, hollow: true });
    expect(svg).toContain(`fill="#FFFFFF" stroke="${a.line}"/><text`);
    expect(svg).toContain('return check');
    expect(svg).not.toContain('a label so long');
  });

  test('hours are told in the job’s own time zone', () => {
    // 08:20 UTC in September is 09:20 in Lisbon and 17:20 in Tokyo.
    expect([...draw().matchAll(/>(\d\d:00)</g)].map(([, at]) => at)).toEqual(['10:00', '11:00']);
    const far = draw({ ...job, timeZone: 'Asia/Tokyo' });
    expect([...far.matchAll(/>(\d\d:00)</g)].map(([, at]) => at)).toEqual(['18:00', '19:00']);
  });

  test('everything stays inside, whatever the width, and time runs to the right', () => {
    for (const width of [420, 880, 1200]) {
      const svg = draw(job, width);
      const ticks = [...svg.matchAll(/<rect x="([\d.]+)" y="24"/g)].map(([, x]) => Number(x));
      expect(ticks).toEqual([...ticks].sort((p, q) => p - q));
      for (const [, x] of svg.matchAll(/ (?:x|x1|x2|cx)="([-\d.]+)"/g)) {
        expect(Number(x)).toBeGreaterThanOrEqual(0);
        expect(Number(x)).toBeLessThanOrEqual(width);
      }
      expect(svg).not.toContain('NaN');
    }
  });

  test('without times, or with a single pull, there is no track to draw', () => {
    expect(draw({ ...job, pulls: job.pulls.map((p) => ({ ...p, startedAt: null })) })).toBe('');
    expect(draw({ ...job, pulls: job.pulls.slice(0, 1) })).toBe('');
  });

  test('without start temperatures the intake lane is left out, not invented', () => {
    const svg = draw({ ...job, pulls: job.pulls.map((p) => ({ ...p, intakeStartC: null })) });
    expect(svg).not.toContain('<circle');
    expect(svg).not.toContain('above the bay');
    expect(count(svg, /width="3\.6" height="11"/g)).toBe(6);
  });
});

test('a job of two days leaves the night out and names the dates', () => {
  const nextDay = job.pulls.map((p) =>
    p.setupId === 'A2' ? { ...p, startedAt: new Date(Date.parse(p.startedAt!) + 86_400_000).toISOString() } : p,
  );
  const svg = draw({ ...job, pulls: nextDay });
  expect([...svg.matchAll(/>(\d+ Sept?)</g)].map(([, day]) => day)).toEqual(['14 Sept', '15 Sept']);
  const ticks = [...svg.matchAll(/<rect x="([\d.]+)" y="24"/g)].map(([, at]) => Number(at));
  // Every pull still has a place of its own, and the day is not squeezed by the night beside it.
  expect(ticks[1]! - ticks[0]!).toBeGreaterThan(20);
  expect(Math.max(...ticks)).toBeLessThan(1200 - 84);
});
