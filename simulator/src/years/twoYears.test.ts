import { beforeAll, describe, expect, test } from '@jest/globals';
import { judgeJob, partSteps, shelfAnswer, type PartStep, type ShelfStudy } from '@prandel/core';
import { YEAR_MODELS } from './models.ts';
import { YEAR_PARTS } from './parts.ts';
import { EARLIER_EPOCH, REFERENCE_CAR, twoYears, yearJob, type YearDay } from './twoYears.ts';

describe('two years of an invented shop', () => {
  const days = twoYears();

  test('are the same from the same seed: some 160 jobs, 14 models, 25 parts, a reference round a month', () => {
    expect(JSON.stringify(twoYears())).toBe(JSON.stringify(days));
    expect(JSON.stringify(twoYears(2))).not.toBe(JSON.stringify(days));
    const jobs = days.filter((d) => d.part !== null);
    expect(jobs.length).toBeGreaterThan(140);
    expect(new Set(jobs.map((d) => d.part!.name)).size).toBe(YEAR_PARTS.length);
    expect(new Set(jobs.map((d) => d.model.label)).size).toBe(YEAR_MODELS.length);
    expect(days.filter((d) => d.spec.vehicle.label === REFERENCE_CAR)).toHaveLength(22);
    expect(new Set(days.map((d) => d.spec.id)).size).toBe(days.length);
    expect(days.some((d) => d.spec.bay.calibrationEpoch === EARLIER_EPOCH)).toBe(true);
  });

  describe('judged', () => {
    // Parts that many cars had: the others say little, and judging takes its time.
    const many = YEAR_PARTS.filter((p) => p.cars >= 9);
    const steps: { day: YearDay; step: PartStep }[] = [];
    beforeAll(() => {
      for (const day of days.filter((d) => d.part !== null && many.includes(d.part) && !d.bundled)) {
        const job = yearJob(day);
        for (const step of partSteps(job, judgeJob(job, 'verdict'))) steps.push({ day, step });
      }
    }, 120_000);

    test('nine of ten jobs and more hold what their part really did on that car', () => {
      const known = steps.filter(({ step }) => step.estimate !== null && step.verdict !== 'not-comparable');
      const hold = known.filter(
        ({ day, step }) => Math.abs(step.estimate! - day.effect) <= 1.959964 * step.standardError!,
      );
      expect(known.length).toBeGreaterThan(45);
      expect(hold.length / known.length).toBeGreaterThan(0.9);
    });

    test('each car is held by what the shelf expected of it from the cars before: nine of ten and more', () => {
      let [asked, held] = [0, 0];
      for (const { name } of many) {
        const own = steps.filter((s) => s.day.part!.name === name);
        for (let k = 3; k < own.length; k += 1) {
          const seen = own.slice(0, k).map(({ day, step }): ShelfStudy => ({
            ...{ car: day.spec.vehicle.label, model: day.model.label, factors: {} },
            ...{ verdict: step.verdict, estimate: step.estimate, standardError: step.standardError },
          }));
          const next = shelfAnswer(seen, 'windowMeanPower').all?.next;
          if (!next) continue;
          const truth = 100 * Math.expm1(own[k]!.day.effect / 100);
          asked += 1;
          if (truth >= next.low && truth <= next.high) held += 1;
        }
      }
      expect(asked).toBeGreaterThan(30);
      expect(held / asked).toBeGreaterThan(0.9);
    });
  });
});
