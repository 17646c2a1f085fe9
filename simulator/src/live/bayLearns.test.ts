import { describe, expect, test } from '@jest/globals';
import {
  bayLearned,
  bayRecord,
  comparePlans,
  judgeJob,
  mediansOf,
  planRequestOf,
  type BayPrior,
  type BayRecord,
  type Job,
  type Pull,
} from '@prandel/core';
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
  test('a day leaves a table for its window and one for each band, and the return check that it made', () => {
    const { tables, returnChecks } = recordOf(day(1, 0.3));
    expect(tables.filter((t) => t.noiseClass === 'power')).toHaveLength(1);
    expect(tables.filter((t) => t.noiseClass === 'bands').length).toBeGreaterThan(4);
    expect(tables.every((t) => t.table.length === 560 && t.table.every(Number.isFinite))).toBe(true);
    expect(returnChecks).toBe(1);
  });

  test('days of a quiet bay teach a small scatter, days of a restless one a large one; few days teach nothing', () => {
    const learned = (sd: number) => bayLearned([1, 2, 3, 4, 5].map((seed) => recordOf(day(seed, sd))));
    const [quiet, restless] = [learned(0.12), learned(0.9)];
    expect(quiet.prior).toMatchObject({ jobs: 5, returnChecks: 5 });
    // Five days know the median only so far: the prior draws it towards the usual 0.45 %.
    const scatter = ({ prior }: typeof quiet) => mediansOf(prior).scatter;
    expect(scatter(quiet)).toBeGreaterThan(0.1);
    expect(scatter(quiet)).toBeLessThan(0.27);
    expect(scatter(restless)).toBeGreaterThan(0.6);
    expect(scatter(restless)).toBeLessThan(1.1);
    const one = bayLearned([recordOf(day(1, 0.3))]);
    expect(one.prior).toEqual({ jobs: 1, returnChecks: 1, learned: {} });
    // Every round was driven with four minutes from pull to pull; the pauses between rounds are not counted.
    expect(Math.abs(one.minutesPerPull! - 4)).toBeLessThan(0.25);
    const job = { ...liveJob(), pulls: [] };
    const sees = (prior: BayPrior | null) =>
      comparePlans(planRequestOf({ ...job, bay: { ...job.bay, prior } }))[0]!.seesFromPercent;
    expect(sees(quiet.prior)).toBeLessThan(sees(null));
    expect(sees(null)).toBeLessThan(sees(restless.prior));
  });

  test('a marked pull and one set aside are not in the table', () => {
    const job = day(2, 0.3);
    const [whole] = recordOf(job).tables;
    const changed = (change: (p: Pull) => Pull) => recordOf({ ...job, pulls: job.pulls.map(change) }).tables[0]!;
    const marked = changed((p) => (p.id === 'A-3' ? { ...p, marks: ['Gate overridden (x): y'] } : p));
    const aside = changed((p) => (p.id === 'A-3' ? { ...p, status: 'set-aside' as const } : p));
    expect(marked.table).toEqual(aside.table);
    expect(marked.table).not.toEqual(whole!.table);
  });
});
