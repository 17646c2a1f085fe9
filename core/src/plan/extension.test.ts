import { describe, expect, test } from '@jest/globals';
import { USUAL_DAY } from '../bay/jobDay.ts';
import { planComplete, pullsMissing } from '../bay/roundProgress.ts';
import { changesColumn, declared } from '../job/changes.ts';
import { newJob, newPull, newSetup } from '../job/defaults.ts';
import type { Job } from '../job/job.ts';
import type { Judgement } from '../verdict/outcome.ts';
import { setupsForPlan } from './dayPlan.ts';
import { extended, extensionOf } from './extension.ts';

const step = (setup: string, counted = 3) => ({ setup, settle: 2, counted });
const base = newJob('1', 'Does it help?');
const planned: Job = {
  ...base,
  setups: [...base.setups, { ...newSetup('A2', 'return check', 'A'), returnsTo: 'A' }],
  question: { ...base.question, plan: [step('A'), step('B'), step('A2', 2)] },
};
const pulled = (job: Job, ...rounds: [setup: string, round: number, counted: number][]): Job => ({
  ...job,
  pulls: rounds.flatMap(([setup, round, counted]) =>
    Array.from({ length: counted }, (_, k) => ({ ...newPull(`${setup}${round}-${k}`, setup, k + 3), round })),
  ),
});
/** A judgement as far as an extension looks at it. */
const open = (...needs: (number | null)[]) =>
  ({
    verdicts: needs.map((pulls, i) => ({
      candidate: 'BC'[i],
      baseline: 'A',
      morePullsNeeded: { pulls, rounds: pulls ? [1, 0].map((s) => ({ side: s && i + 1, counted: pulls / 2 })) : [] },
    })),
  }) as unknown as Judgement;

describe('what would settle an open question', () => {
  test('the rounds of the search, the baseline’s on its latest return check, and what they cost', () => {
    const found = extensionOf(planned, open(6))!;
    expect(found.rounds).toEqual([step('B'), step('A2')]);
    // Ten pulls of five minutes, and two changes of fifty.
    expect(found).toMatchObject({ minutes: 10 * 5 + 2 * 50, declared: false });
  });

  test('of two open candidates the one that needs more decides; what no pulls would help asks for none', () => {
    expect(extensionOf(planned, open(6, 10))!.rounds[0]).toEqual(step('C', 5));
    expect(extensionOf(planned, open(null))).toBeNull();
    expect(extensionOf(planned, { verdicts: [] } as unknown as Judgement)).toBeNull();
  });

  test('one extension may be declared; a second one, or one nobody declared, is added after the result was seen', () => {
    const declared: Job = { ...planned, question: { ...planned.question, extension: 'declared' } };
    expect(extensionOf(declared, open(6))!.declared).toBe(true);
    const once = extended(declared, [step('B')], '2026-11-23T15:00:00Z');
    expect(once.question.extension).toBe('declared');
    expect(extensionOf(once, open(6))!.declared).toBe(false);
    expect(extended(once, [step('B')], '').question.extension).toBe('undeclared');
    expect(extended(planned, [step('B')], '').question.extension).toBe('undeclared');
  });

  test('while the extension is pulled its plan is open again, so that no verdict is looked at in between', () => {
    const done = pulled(planned, ['A', 1, 3], ['B', 1, 3], ['A2', 1, 2]);
    expect(planComplete(done)).toBe(true);
    const longer = extended(done, [step('B'), step('A2')], '');
    expect(pullsMissing(longer)).toBe(6);
    expect(pullsMissing(pulled(longer, ['A', 1, 3], ['B', 1, 3], ['B', 2, 3], ['A2', 1, 2]))).toBe(3);
    expect(planComplete(pulled(longer, ['A', 1, 3], ['B', 1, 3], ['B', 2, 3], ['A2', 1, 2], ['A2', 2, 3]))).toBe(true);
    // Closing the first round early gives up its own pulls, not those of the second.
    const heat = { ...longer, day: { ...longer.day!, closedEarly: { 'B#1': 'Heat' } } };
    expect(pullsMissing(pulled(heat, ['A', 1, 3], ['B', 1, 2], ['A2', 1, 2]))).toBe(6);
  });

  test('a job without a written plan goes on from what its method asks for', () => {
    const bare = pulled({ ...base, day: USUAL_DAY }, ['A', 1, 3], ['B', 1, 3]);
    expect(planComplete(bare)).toBe(true);
    expect(extended(bare, [step('B')], '').question.plan).toEqual([step('A'), step('B'), step('B')]);
  });
});

test('setups that a plan needs are added: return checks of the baseline, candidates a second time with their changes', () => {
  const job: Job = {
    ...base,
    setups: [
      { ...newSetup('A', 'as arrived'), state: { fan: '3' } },
      { ...newSetup('B', 'electric fan', 'A'), ...declared('part fitted: electric fan'), state: { fan: '3' } },
    ],
  };
  const steps = ['A', 'B', 'A2', 'B2', 'A3'].map((s) => step(s));
  const added = setupsForPlan(job, steps).slice(2);
  expect(added.map((s) => [s.id, s.label, s.returnsTo, changesColumn(s.changes), s.state.fan])).toEqual([
    ['A2', 'return check', 'A', '', '3'],
    ['B2', 'electric fan again', 'B', 'part fitted: electric fan', '3'],
    ['A3', 'return check', 'A', '', '3'],
  ]);
  // Another plan takes away what only this one needed, but nothing that was pulled.
  const planned = { ...job, setups: [...job.setups, ...added], question: { ...job.question, plan: steps } };
  const plain = steps.slice(0, 2);
  expect(setupsForPlan(planned, plain).map((s) => s.id)).toEqual(['A', 'B']);
  const begun = { ...planned, pulls: [newPull('B2-1', 'B2', 1)] };
  expect(setupsForPlan(begun, plain).map((s) => s.id)).toEqual(['A', 'B', 'B2']);
});
