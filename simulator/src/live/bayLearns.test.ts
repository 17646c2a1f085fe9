import { describe, expect, test } from '@jest/globals';
import { bayLearned, bayRecord, comparePlans, judgeJob, planRequestOf, type BayRecord, type Job } from '@prandel/core';
import { simulateDay } from '../day/simulateDay.ts';
import { liveJob, liveSpec } from './liveDay.ts';

/** A day of the live car with a return check, in a bay that repeats as told. */
function day(seed: number, pullSd: number, driftPercentPerHour = 0): Job {
  return simulateDay({
    ...liveSpec(seed),
    sampleHz: 25,
    pullSd,
    driftPercentPerHour,
    heatPercentPerC: 0.1,
    rounds: [
      { setup: 'A', settle: 2, counted: 4, startMinute: 0, minutesPerPull: 4 },
      { setup: 'B', settle: 2, counted: 4, startMinute: 75, minutesPerPull: 4 },
      { setup: 'A2', settle: 2, counted: 3, startMinute: 150, minutesPerPull: 4 },
    ],
  });
}
const recordOf = (job: Job): BayRecord => bayRecord(job, judgeJob(job, 'verdict'));

describe('a bay learns from its own days', () => {
  test('a day gives a repeat group per round and a return check over the hours between', () => {
    const { groups, checks } = recordOf(day(1, 0.3));
    expect(groups.map((g) => g.df)).toEqual([3, 3, 2]);
    expect(checks).toHaveLength(1);
    expect(checks[0]).toMatchObject({ n1: 4, n2: 3 });
    expect(checks[0]!.hours).toBeCloseTo(2.5, 0);
  });

  test('days of a quiet bay teach a small scatter, days of a restless one a large one; few days teach nothing', () => {
    const learned = (sd: number) => bayLearned([1, 2, 3, 4, 5].map((seed) => recordOf(day(seed, sd))));
    const [quiet, restless] = [learned(0.12), learned(0.9)];
    expect(quiet.groups).toBe(15);
    // Fifteen groups of two or three degrees of freedom know a standard deviation to about a fifth; three fifths are allowed.
    expect(quiet.constants.s0! / 0.12).toBeGreaterThan(0.6);
    expect(quiet.constants.s0! / 0.12).toBeLessThan(1.6);
    expect(restless.constants.s0! / 0.9).toBeGreaterThan(0.6);
    expect(restless.constants.s0! / 0.9).toBeLessThan(1.6);
    expect(quiet.constants.tau).toBeUndefined();
    expect(bayLearned([recordOf(day(1, 0.3))])).toEqual({
      constants: {},
      groups: 3,
      checks: 1,
      minutesPerPull: null,
    });
    // Every round was driven with four minutes from pull to pull; the pauses between rounds are not counted.
    expect(quiet.minutesPerPull).toBeCloseTo(4, 1);
  });

  test('what a bay learned changes what a plan is said to find', () => {
    const job = { ...liveJob(), pulls: [] };
    const finds = (s0: number) =>
      comparePlans(planRequestOf({ ...job, bay: { ...job.bay, verdictConstants: { s0 } } }))[0]!.findsPercent;
    expect(finds(0.12)).toBeLessThan(finds(0.5));
    expect(finds(0.5)).toBeLessThan(finds(0.9));
  });

  test('pulls with an overridden gate, set aside or cut short teach nothing', () => {
    const job = day(2, 0.3);
    const whole = recordOf(job);
    const marked: Job = {
      ...job,
      pulls: job.pulls.map((p) => (p.setupId === 'B' ? { ...p, marks: ['Gate overridden (x): y'] } : p)),
    };
    expect(recordOf(marked).groups).toHaveLength(2);
    const aside: Job = {
      ...job,
      pulls: job.pulls.map((p) => (p.id === 'A-3' ? { ...p, status: 'set-aside' as const } : p)),
    };
    expect(recordOf(aside).groups.map((g) => g.df)).toEqual([2, 3, 2]);
    expect(recordOf(aside).groups[1]).toEqual(whole.groups[1]);
    // Without anything in between, going on with the same setup is no return check.
    const plain: Job = { ...job, pulls: job.pulls.filter((p) => p.setupId !== 'B') };
    expect(recordOf(plain).checks).toEqual([]);
  });
});
