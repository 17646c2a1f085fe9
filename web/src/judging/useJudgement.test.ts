import { describe, expect, test } from '@jest/globals';
import { judgementSteps, preparePulls, warmUpDay, type Job, type Judgement } from '@prandel/core';
import type { Step } from './judge.ts';
import { NOTHING, taken, type Judged } from './useJudgement.ts';

const day = warmUpDay();
const torque = { id: 'windowMeanTorque' as const, meaningful: 1 };
const at = (averagingWidthRpm: number): Job => ({
  ...day,
  question: { ...day.question, measures: [...day.question.measures, torque] },
  method: { ...day.method, averagingWidthRpm },
});
const NAMES = ['curves', 'verdicts', 'all'] as const;
const stepsOf = (job: Job): Step[] =>
  [...judgementSteps(job, preparePulls(job.pulls, job.bay, job.vehicle))].map((judgement, i) => ({
    ...{ judgement, step: NAMES[i]!, milliseconds: i },
  }));
const shownAfter = (job: Job, before: Judged, steps: readonly Step[]): Judged[] => {
  const all: Judged[] = [];
  for (const step of steps) all.push(taken(step, job, all.at(-1) ?? before));
  return all;
};
const bandsOf = ({ verdicts }: Judgement) => verdicts.map((v) => v.bands.map((b) => b.percent));

describe('what is on screen while a job is judged', () => {
  const [first, other] = [at(200), at(100)];
  const [curves, verdicts, all] = shownAfter(first, NOTHING, stepsOf(first)) as [Judged, Judged, Judged];
  const later = shownAfter(other, { ...all, busy: true }, stepsOf(other)) as [Judged, Judged, Judged];

  test('of a first question nothing is shown before its verdicts, and no ribbon before there is one', () => {
    expect(curves).toBe(NOTHING);
    expect(verdicts.judgement!.verdicts).toHaveLength(2);
    expect(verdicts.difference).toBeNull();
    expect(all.difference!.judgement.verdicts[0]!.ribbon).not.toBeNull();
    expect(all.busy).toBe(false);
  });

  test('of a later one the curves change first, and nothing else; they are not drawn again when the rest comes', () => {
    expect(later[0].curves!.job).toBe(other);
    expect(later[0].judgement).toBe(all.judgement);
    expect(later[0].difference).toBe(all.difference);
    for (const shown of later) expect(shown.curves).toBe(later[0].curves);
  });

  test('verdicts come with the bands that stood beside them, each measure with its own', () => {
    expect(bandsOf(later[1].judgement!)).toEqual(bandsOf(all.judgement!));
    expect(bandsOf(all.judgement!)[0]).not.toEqual(bandsOf(all.judgement!)[1]);
    expect(later[1].difference).toBe(all.difference);
    expect(later[2].difference!.judgement).toBe(later[2].judgement);
    expect(bandsOf(later[2].judgement!)).not.toEqual(bandsOf(all.judgement!));
  });
});
