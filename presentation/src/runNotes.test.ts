import { describe, expect, test } from '@jest/globals';
import {
  declared,
  DEFAULT_METHOD,
  DISAGREEMENTS,
  methodProblems,
  newJob,
  newPull,
  newSetup,
  USUAL_DAY,
  type Job,
  type Setup,
} from '@prandel/core';
import { permanentNotes, runNotes, schoolsFollowed } from './runNotes.ts';

const job = (schools?: Record<string, string>, setups: Partial<Setup>[] = []): Job => ({
  ...newJob('1', 'x'),
  method: { ...DEFAULT_METHOD, ...(schools ? { schools } : {}) },
  question: { ...newJob('', '').question, candidateSetups: setups.map((_, i) => 'BCD'[i]!) },
  setups: [newSetup('A', 'as arrived'), ...setups.map((s, i) => ({ ...newSetup('BCD'[i]!, 'x', 'A'), ...s }))],
});

describe('what a report must say about how the day was run', () => {
  test('a method that wrote nothing down claims nothing, not even the defaults', () => {
    expect(schoolsFollowed(job())).toEqual([]);
    expect(runNotes(job())).toEqual([]);
  });

  test('schools are told in words, and those with consequences oblige', () => {
    const frontOff = job({ rig: 'frontOff', hood: 'closed', safeties: 'off' });
    expect(schoolsFollowed(frontOff).map((s) => `${s.label}: ${s.says}`)).toEqual([
      'Hood: closed as driven',
      'Engine safeties: off, abort limits armed',
      'Rig: front end off',
    ]);
    expect(runNotes(frontOff)).toEqual([
      'Engine safeties were off, so that power is a clean function of the conditions.',
      'Not as driven: the front end was off for every setup.',
    ]);
  });

  test('a bundle cannot be divided; a part that makes room for another is no second change', () => {
    const swap = { ...declared('part fitted: electric fan; part removed: belt fan') };
    expect(runNotes(job(undefined, [swap]))).toEqual([]);
    expect(runNotes(job(undefined, [{ ...declared('part removed: baffle') }]))).toEqual([]);
    const bundle = runNotes(job(undefined, [{ ...declared('part fitted: filter; tune revision 4') }]));
    expect(bundle).toEqual([
      'B differs from A in 2 things: filter, tune revision 4. Its result is theirs together and cannot be divided between them.',
    ]);
    // A setup built on another carries that one's part too.
    expect(runNotes(job(undefined, [swap, { ...declared('part fitted: gasket'), parentId: 'B' }]))[0]).toMatch(
      /^C differs from A in 2 things: electric fan, gasket\./,
    );
    // Papers whose parents run in a circle end all the same.
    expect(
      runNotes(
        job(undefined, [
          { ...declared('a'), parentId: 'C' },
          { ...declared('b'), parentId: 'B' },
        ]),
      ),
    ).toHaveLength(2);
  });

  test('what happened on the day is told: losses, a search, a round closed early, an extension, no way back', () => {
    const extended = { at: '', declared: false, rounds: [{ setup: 'B', settle: 2, counted: 3 }] };
    const day = {
      ...USUAL_DAY,
      intake: { 'Small losses found': 'a dragging brake' },
      searches: [
        {
          ...{
            complaint: 'reads-low' as const,
            words: '',
            budgetMinutes: 45,
            openedAt: '',
            openedBy: '',
            closedAt: null,
          },
          looks: [
            { suspect: 'tyres', result: 'fine' as const, minutes: null, pull: null, who: 'Ines R.', at: '' },
            { suspect: 'straps', result: 'cured' as const, minutes: 12, pull: null, who: 'Ines R.', at: '' },
          ],
        },
      ],
      closedEarly: { 'B#1': 'Heat' },
      amendments: [
        { at: '2026-11-23T15:00:00Z', who: 'Ines R.', reason: 'towing', what: 'window 3000–6500 to 1800–3500 rpm' },
      ],
      cannotBeUndone: 'drilled',
      plan: { ...USUAL_DAY.plan, extended },
    };
    expect(runNotes({ ...job(), day })).toEqual([
      'The question was amended on 2026-11-23, after its first counted pull: window 3000–6500 to 1800–3500 rpm. Reason: towing.',
      'Small losses were found at intake and belong to the reference: a dragging brake.',
      'Because the car reads low, 2 things were looked at, 1 of them fine: Straps too tight, or a brake that drags, found and cured before the comparison.',
      'Round 1 of B was closed before its plan was in: heat.',
      'Pulls were added after the result could be seen, without having been declared: 3 of B.',
      'The change cannot be undone (drilled): there is no return check.',
    ]);
    const declared = { ...USUAL_DAY, plan: { ...USUAL_DAY.plan, extended: { ...extended, declared: true } } };
    expect(runNotes({ ...job(), day: declared })[0]).toMatch(/declared beforehand was made: 3 of B\.$/);
  });

  test('what cannot come off again is printed, with what ran after it without being made from it', () => {
    const own = job(undefined, [{}]);
    const setups = own.setups.map((s) => (s.id === 'B' ? { ...s, permanent: true } : s));
    const pulled = (...ids: string[]) => ids.map((id, i) => newPull(`${id}${i}`, id, i));
    expect(permanentNotes({ ...own, setups, pulls: pulled('A') })).toEqual([]);
    expect(permanentNotes({ ...own, setups, pulls: pulled('A', 'B') })).toEqual([
      'B cannot come off again; whatever was run after it is made from it.',
    ]);
    expect(runNotes({ ...own, setups, pulls: pulled('A', 'B', 'A') })).toContain(
      'B cannot come off again: A was run with it on, and what it shows has B in it.',
    );
  });

  test('a scaled read-out and a drawn order are printed', () => {
    const scaled = { ...job(), bay: { ...job().bay, readoutScale: 1.08 } };
    expect(runNotes(scaled)).toEqual(['The bay’s read-out is scaled by 1.08; the figures here are native.']);
    const plan = { ...USUAL_DAY.plan, order: 'randomised' as const, drawn: { seed: 7, candidates: ['C', 'B'] } };
    expect(runNotes({ ...job(), day: { ...USUAL_DAY, plan } })).toEqual([
      'The order of the setups was drawn: C, B (seed 7).',
    ]);
    expect(runNotes({ ...job(), day: { ...USUAL_DAY, plan: { ...plan, order: 'fixed' } } })).toEqual([]);
  });
});

describe('a setting acts, or it is not there', () => {
  /** Schools that act on the day or the report itself; the tests of gates, plan and report show how. */
  const ACTING = ['whichPullsSpeak beside', 'peakOrCurve peak', 'order random', 'order fixed', 'order middle'];

  test('every school but a default one acts, or obliges the report to say something', () => {
    for (const [matter, { schools }] of Object.entries(DISAGREEMENTS))
      for (const own of Object.keys(schools).slice(1)) {
        const method = { ...DEFAULT_METHOD, schools: { [matter]: own } };
        const said = runNotes({ ...newJob('j', 'x'), method });
        if (!ACTING.includes(`${matter} ${own}`))
          expect([matter, own, said]).toEqual([matter, own, [expect.any(String)]]);
      }
  });

  test('a matter that an older version wrote down is kept, and keeps nobody from saving', () => {
    expect(methodProblems({ ...DEFAULT_METHOD, schools: { picture: 'one' } })).toEqual([]);
    expect(methodProblems({ ...DEFAULT_METHOD, schools: { hood: 'sideways' } })).toEqual([
      '"sideways" is no school of "Hood".',
    ]);
  });
});
