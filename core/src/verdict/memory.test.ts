import { describe, expect, test } from '@jest/globals';
import { USUAL_DAY } from '../bay/jobDay.ts';
import { newJob } from '../job/defaults.ts';
import type { Job } from '../job/job.ts';
import { day, verdictOf } from '../test/curveDays.ts';
import { bandEdges } from './bands.ts';
import { bayLearned, mediansOf } from './bayPrior.ts';
import { bayRecord } from './bayRecord.ts';
import { judgeJob } from './judge.ts';

describe('how the number came about and what would make it narrower', () => {
  test('each step adds what its name says', () => {
    // B is pulled in air that takes 1.3 % off both, and starts 5 °C hotter: at 0.10 %/°C half a per cent.
    const v = verdictOf(day(3, { B: { pull: { pressureHpa: 978, intakeStartC: 42.5 } } }));
    const after = Object.fromEntries(v.steps.map((s) => [s.kind, s.after]));
    expect(v.steps.map((s) => s.kind)).toEqual(['measured', 'weather', 'start-temperature', 'drift', 'bad-pulls']);
    expect(after.measured).toBeCloseTo(3, 0);
    expect(after.weather! - after.measured!).toBeCloseTo(1.4, 0);
    expect(after['start-temperature']! - after.weather!).toBeCloseTo(0.5, 1);
    expect(after['bad-pulls']).toBe(v.gain!.percent);
  });

  test('shares of the width sum to one; without a return check the drift has most of it', () => {
    const plain = verdictOf(day(3, {}, { pulls: day(3).pulls.filter((p) => p.setupId !== 'R') }));
    for (const v of [plain, verdictOf(day(3))]) {
      const { scatter, mounts, drift, heat } = v.width!.shares;
      expect(scatter + mounts + drift + heat).toBeCloseTo(1, 9);
    }
    expect(plain.width!.shares.drift).toBeGreaterThan(verdictOf(day(3)).width!.shares.drift);
    const now = (plain.gain!.highPercent! - plain.gain!.lowPercent!) / 2;
    expect(plain.narrower.length).toBeGreaterThan(2);
    for (const way of plain.narrower) expect(way.halfWidth).toBeLessThan(now);
  });
});

describe('what a bay learns of itself', () => {
  const recordOf = (job: Job) => bayRecord(job, judgeJob(job));
  const jobs = Array.from({ length: 6 }, (_, i) => day(0.4 * i));
  const { prior } = bayLearned(jobs.map(recordOf));

  test('a table a job for the window and one for each band; under five jobs a bay is like any', () => {
    const own = recordOf(jobs[0]!);
    expect(own.tables.map((t) => t.noiseClass)).toEqual(['power', ...bandEdges(2500, 7500).map(() => 'bands')]);
    expect(own).toMatchObject({ returnChecks: 1, minutesPerPull: 5 });
    expect(bayLearned(jobs.slice(0, 4).map(recordOf)).prior).toEqual({ jobs: 4, returnChecks: 4, learned: {} });
    expect(prior).toMatchObject({ jobs: 6, returnChecks: 6 });
    expect(Object.keys(prior.learned)).toEqual(['power', 'bands']);
  });

  test('a bay that repeats well narrows the interval; the prior in the job decides, not the bay of today', () => {
    const alone = verdictOf(day(1.2));
    const learned = verdictOf(day(1.2, {}, { bay: { ...newJob('', '').bay, prior } }));
    const width = (v: typeof alone) => v.gain!.highPercent! - v.gain!.lowPercent!;
    expect(width(learned)).toBeLessThan(width(alone));
    expect(mediansOf(prior).scatter).toBeLessThan(mediansOf(null).scatter);
    const codes = (v: typeof alone) => v.conditions.findings.map((f) => f.code);
    expect(codes(learned)).toContain('drift-not-known');
    const enough = { ...prior, returnChecks: 8 };
    expect(codes(verdictOf(day(1.2, {}, { bay: { ...newJob('', '').bay, prior: enough } })))).not.toContain(
      'drift-not-known',
    );
  });

  test('a day that scatters ten times as much is unlike this bay', () => {
    const odd = day(1, {
      A2: { level: 0.985 },
      A4: { level: 1.02 },
      B3: { level: 1.025 },
      B4: { level: 0.98 },
      R2: { level: 1.015 },
    });
    const found = verdictOf({ ...odd, bay: { ...odd.bay, prior } }).conditions.findings;
    expect(found.map((f) => f.code)).toContain('unlike-this-bay');
  });

  test('a commissioning day compares nothing and teaches all the same', () => {
    const rounds = { ...day(0), question: { ...day(0).question, candidateSetups: [] } };
    const own = { ...rounds, pulls: rounds.pulls.filter((p) => p.setupId !== 'B') };
    expect(judgeJob(own).verdicts).toEqual([]);
    expect(recordOf(own)).toMatchObject({
      returnChecks: 1,
      tables: [
        { noiseClass: 'power' },
        ...recordOf(day(0))
          .tables.slice(1)
          .map(() => ({})),
      ],
    });
  });

  test('marked pulls, pulls left out and jobs in mid-plan teach nothing', () => {
    const marked = day(1, { '*': { pull: { marks: ['Gate overridden.'] } } });
    expect(recordOf(marked).tables).toEqual([]);
    expect(recordOf({ ...day(1), day: USUAL_DAY, pulls: day(1).pulls.slice(0, 5) }).tables).toEqual([]);
  });
});
