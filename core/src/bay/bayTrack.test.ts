import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newJob, newPull } from '../job/defaults.ts';
import type { Job } from '../job/job.ts';
import { bayTrack, type BayTrack } from './bayTrack.ts';
import { USUAL_DAY, type Fitting } from './jobDay.ts';

const T0 = Date.parse('2026-05-02T08:00:00Z');
const at = (minute: number) => new Date(T0 + minute * 60_000).toISOString();
const ms = (minute: number) => T0 + minute * 60_000;
const step = (setup: string) => ({ setup, settle: 2, counted: 3 });
const fitting = (setup: string, from: number, to: number | null): Fitting => ({
  ...{ setup, who: 'x', startedAt: at(from), stoppedAt: to === null ? null : at(to) },
  ...{ changed: '', disturbed: '', parts: '', cost: null, notes: '' },
});
/** Rounds as `[setup, minute of each pull]`. */
function day(rounds: [string, number[]][], fittings: Fitting[] = []): Job {
  const job = newJob('1', 'x');
  return {
    ...job,
    question: { ...job.question, candidateSetups: ['B'], plan: [step('A'), step('B'), step('A2')] },
    day: { ...USUAL_DAY, fittings, plan: { ...USUAL_DAY.plan, minutesPerPull: 4, fittingMinutes: 40 } },
    pulls: rounds.flatMap(([setup, minutes]) =>
      minutes.map((m, i) => ({
        ...newPull(`${setup}-${i}`, setup, i + 1),
        startedAt: at(m),
        status: i < 2 ? ('settle' as const) : ('counted' as const),
      })),
    ),
  };
}
const said = ({ blocks }: BayTrack) =>
  blocks.map(
    (b) =>
      `${b.planned ? '(' : ''}${b.kind === 'fitting' ? 'fit ' : ''}${b.setup} ${(b.fromMs - T0) / 60_000}–${(b.toMs - T0) / 60_000}${b.planned ? ')' : ''}`,
  );

describe('the day track of the bay', () => {
  test('a pull from before the job was on the bay begins no day: the plan starts now', () => {
    const job = day([['A', [-3]]]);
    const unclaimed = { ...job, pulls: job.pulls.map((p) => ({ ...p, round: 0, status: 'set-aside' as const })) };
    const between = { phase: 'between', setup: 'A', round: 1 } as const;
    expect(said(bayTrack(unclaimed, between, ms(0)))).toEqual(said(bayTrack(day([]), between, ms(0))));
  });

  test('in the middle of a round: what was, what the round still takes, and the rest of the plan behind it', () => {
    const track = bayTrack(day([['A', [0, 4, 8]]]), { phase: 'round', setup: 'A', round: 1 }, ms(10));
    expect(said(track)).toEqual([
      'A 0–10',
      '(A 10–18)',
      '(fit B 18–58)',
      '(B 58–78)',
      '(fit A2 78–118)',
      '(A2 118–138)',
    ]);
    expect(track.blocks[0]!.pulls.map((p) => p.status)).toEqual(['settle', 'settle', 'counted']);
  });

  test('before the first pull the whole plan lies ahead, without a fitting in front of it', () => {
    expect(said(bayTrack(day([]), { phase: 'between', setup: 'A', round: 1 }, ms(0))).slice(0, 2)).toEqual([
      '(A 0–20)',
      '(fit B 20–60)',
    ]);
    expect(said(bayTrack(day([]), { phase: 'round', setup: 'A', round: 1 }, ms(0))).slice(0, 2)).toEqual([
      '(A 0–20)',
      '(fit B 20–60)',
    ]);
  });

  test('a running fitting grows to now; one that takes longer than planned pushes the rest before it', () => {
    const job = day([['A', [0, 4, 8, 12, 16]]], [fitting('B', 20, null)]);
    const running = { phase: 'fitting', setup: 'B', round: 1 } as const;
    expect(said(bayTrack(job, running, ms(30))).slice(1, 4)).toEqual(['fit B 20–30', '(fit B 30–60)', '(B 60–80)']);
    expect(said(bayTrack(job, running, ms(75))).slice(1, 3)).toEqual(['fit B 20–75', '(B 75–95)']);
  });

  test('another day of the same job is not on this one’s track; pulls without a time are on none', () => {
    const job = day([['A', [-24 * 60, -24 * 60 + 4]]]);
    const running = { phase: 'between', setup: 'A', round: 1 } as const;
    expect(said(bayTrack(job, running, ms(0)))[0]).toBe('(B 0–20)');
    const timeless = { ...job, pulls: job.pulls.map((p) => ({ ...p, startedAt: null })) };
    expect(bayTrack(timeless, running, ms(0)).blocks.every((b) => b.planned)).toBe(true);
  });

  test('whatever was pulled when: no block runs backwards, and nothing that is planned lies before now (property)', () => {
    const minutes = fc.array(fc.integer({ min: -60, max: 600 }), { maxLength: 7 }).map((m) => m.sort((a, b) => a - b));
    fc.assert(
      fc.property(
        fc.record({ A: minutes, B: minutes, A2: minutes }),
        fc.constantFrom('round' as const, 'fitting' as const, 'between' as const),
        fc.constantFrom('A', 'B', 'A2'),
        fc.integer({ min: 0, max: 600 }),
        (rounds, phase, setup, now) => {
          const job = day(Object.entries(rounds), [fitting(setup, now - 7, null)]);
          const { blocks } = bayTrack(job, { phase, setup, round: 1 }, ms(now));
          for (const b of blocks) expect(b.toMs).toBeGreaterThanOrEqual(b.fromMs);
          const planned = blocks.filter((b) => b.planned);
          for (const b of planned) expect(b.fromMs).toBeGreaterThanOrEqual(ms(now));
          planned.slice(1).forEach((b, i) => expect(b.fromMs).toBeGreaterThanOrEqual(planned[i]!.toMs));
        },
      ),
    );
  });
});
