import { describe, expect, test } from '@jest/globals';
import { judgePrepared, warmUpDay, type Job } from '@prandel/core';
import { madeFrames, preparedFrom, type FramedJob } from '../frames/madeFrames.ts';
import { judged } from './begunJudgements.ts';

const day = warmUpDay();
const framedAs = (job: Job, of: Job = job): FramedJob => {
  const frames = madeFrames({ job: of, wanted: of.pulls.map((p) => p.id), known: [] });
  return {
    job: { ...job, pulls: job.pulls.map((p) => ({ ...p, channels: [] })) },
    frames: frames.map(({ pull, frame }) => [pull, frame] as const),
  };
};
const afresh = (framed: FramedJob) => judgePrepared(framed.job, preparedFrom(framed));

describe('a judgement that was begun', () => {
  test('goes on where it was left, and is what is judged at once', () => {
    const framed = framedAs(day);
    const verdicts = judged(framed, 'verdict').verdicts.map(({ verdict, gain }) => ({ verdict, gain }));
    const whole = judged(structuredClone(framed), 'full');
    expect(whole).toEqual(afresh(framed));
    expect(whole.verdicts.map(({ verdict, gain }) => ({ verdict, gain }))).toEqual(verdicts);
    expect(judged(framed, 'full')).toBe(whole);
    expect(judged(framed, 'verdict').verdicts[0]!.bands).toEqual([]);
  });

  test('is not handed out for another method, another status or other samples of the same pulls', () => {
    const before = judged(framedAs(day), 'full');
    const wider = framedAs({ ...day, method: { ...day.method, averagingWidthRpm: 400 } });
    expect(judged(wider, 'full')).toEqual(afresh(wider));
    expect(judged(wider, 'full')).not.toEqual(before);
    const aside = { ...day, pulls: day.pulls.map((p, i) => (i === 0 ? { ...p, status: 'set-aside' as const } : p)) };
    expect(judged(framedAs(aside), 'full').pulls[0]!.used).toBe(false);
    const stronger = day.pulls.map((p) => {
      const more = (name: string, values: Float64Array) =>
        name === 'wheel_power_w' ? values.map((w) => 1.1 * w) : values;
      return { ...p, channels: p.channels.map((c) => ({ ...c, values: more(c.name, c.values) })) };
    });
    const other = framedAs(day, { ...day, pulls: stronger });
    expect(other.job).toEqual(framedAs(day).job);
    expect(judged(other, 'full').setups[0]!.peaks!.power.value / before.setups[0]!.peaks!.power.value).toBeCloseTo(
      1.1,
      3,
    );
    expect(judged(framedAs(day), 'full')).toEqual(before);
  });

  test('of a job with its samples is made from them each time', () => {
    const whole = { ...framedAs(day), job: day };
    const once = judged(whole, 'full');
    expect(judged(whole, 'full')).not.toBe(once);
    expect(judged(whole, 'full')).toEqual(once);
  });
});
