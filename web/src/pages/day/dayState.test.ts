import { describe, expect, test } from '@jest/globals';
import { newJob, newSetup, type Job } from '@prandel/core';
import fc from 'fast-check';
import {
  carriedOver,
  dayOf,
  filledDown,
  importedPulls,
  NO_ANSWERS,
  obstaclesOf,
  proposedAnswers,
  roundsOf,
  valueOf,
  withBegin,
  withReason,
  withSetup,
  withStatus,
  withTime,
  withTyped,
  type Answers,
  type Day,
  type Laid,
} from './dayState.ts';

const job: Job = { ...newJob('1', 'x'), setups: [newSetup('A', 'as arrived'), newSetup('B', 'part', 'A')] };
const START = Date.parse('2026-09-14T08:00:00Z');

const laid = (minute: number | null, more: Partial<Laid> = {}): Laid => ({
  ...{ file: 'x.csv', name: 'x', rows: 100, rpmFrom: 2000, rpmTo: 6500, peakPowerW: 1e5, curve: [], findings: [] },
  ...{ fileId: `f${minute}`, index: 0, durationS: 12, gear: null, vehicle: null, round: null, averagingRpm: null },
  when:
    minute === null
      ? null
      : { at: new Date(START + minute * 60_000).toISOString(), source: 'header', words: '', unsure: null },
  conditions: {
    airC: null,
    pressureHpa: null,
    relativeHumidity: null,
    intakeStartC: null,
    coolantStartC: null,
    oilStartC: null,
  },
  ...{ state: null, twin: null },
  ...more,
});
/** Two rounds of four, an hour apart. */
const MINUTES = [0, 4, 8, 12, 70, 74, 78, 82];
const pulls = MINUTES.map((m) => laid(m));
const day = dayOf(job, pulls);
const UNCORRECTED: Answers = { ...NO_ANSWERS, state: 'uncorrected' };
const shape = () => 0;
const setups = (d: Day) => d.map((r) => r.setupId).join('');

describe('a day as its files and the plan tell it', () => {
  test('rounds by their pauses, setups in turn, settle pulls first but two that count', () => {
    expect(setups(day)).toBe('AAAABBBB');
    expect(day.map((r) => r.status[0]).join('')).toBe('ssccsscc');
    expect(roundsOf(day).map((r) => r.length)).toEqual([4, 4]);
    expect(obstaclesOf(day, pulls, shape, [UNCORRECTED])).toEqual([]);
  });

  test('a pull of the same samples is left out, one exported again is asked about, and neither makes or breaks a round', () => {
    const own = [
      ...pulls,
      laid(5, { twin: { kind: 'same-samples', pullId: null, place: 1, correlation: null } }),
      laid(null, { twin: { kind: 'second-export', pullId: null, place: 4, correlation: 0.99995 } }),
    ];
    const d = dayOf(job, own);
    expect(roundsOf(d).map((r) => r.length)).toEqual([4, 4]);
    expect(d.filter((r) => r.status === 'left-out').map((r) => [r.place, r.asked])).toEqual([
      [8, false],
      [9, true],
    ]);
    expect(obstaclesOf(d, own, shape, [UNCORRECTED])).toEqual([{ code: 'asked', place: 9 }]);
    expect(obstaclesOf(withStatus(d, 9, 'left-out'), own, shape, [UNCORRECTED])).toEqual([]);
    expect(importedPulls(withStatus(d, 9, 'left-out'), own, shape, [UNCORRECTED])).toHaveLength(8);
  });
});

describe('putting a day right', () => {
  test('another setup in the middle splits a round; a round that is said to begin does too, also when its first pull is left out', () => {
    expect(roundsOf(withSetup(day, [1], 'B')).map((r) => r.map((p) => p.place))).toEqual([
      [0],
      [1],
      [2, 3],
      [4, 5, 6, 7],
    ]);
    const split = withBegin(day, 2);
    expect(roundsOf(split).map((r) => r.length)).toEqual([2, 2, 4]);
    expect(roundsOf(withStatus(split, 2, 'left-out')).map((r) => r.length)).toEqual([2, 1, 4]);
    expect(roundsOf(withBegin(withSetup(day, [4, 5, 6, 7], 'A'), 4)).map((r) => r.length)).toEqual([8]);
  });

  test('whatever is done, no pull is lost or doubled, and rounds have one setup each', () => {
    const places = fc.integer({ min: 0, max: 7 });
    const step = fc.oneof(
      fc.tuple(places, fc.constantFrom('A', 'B')).map(
        ([p, s]) =>
          (d: Day) =>
            withSetup(d, [p], s),
      ),
      fc.tuple(places, fc.constantFrom('counted', 'settle', 'set-aside', 'left-out')).map(
        ([p, s]) =>
          (d: Day) =>
            withStatus(d, p, s, 'slip'),
      ),
      places.map((p) => (d: Day) => withBegin(d, p)),
      fc.tuple(places, fc.integer({ min: 0, max: 200 }), fc.boolean()).map(
        ([p, m, whole]) =>
          (d: Day) =>
            withTime(d, p, START + m * 60_000, whole),
      ),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 20 }), (steps) => {
        const end = steps.reduce<Day>((d, s) => s(d), day);
        expect(end.map((r) => r.place).sort()).toEqual([0, 1, 2, 3, 4, 5, 6, 7]);
        const taken = end.filter((r) => r.status !== 'left-out');
        const rounds = roundsOf(end);
        expect(rounds.flat()).toEqual(taken);
        for (const round of rounds) expect(new Set(round.map((r) => r.setupId)).size).toBe(1);
        const times = end.map((r) => r.startedMs!);
        expect(times).toEqual([...times].sort((a, b) => a - b));
        const sent = importedPulls(end, pulls, shape, [UNCORRECTED]);
        expect(new Set(sent.map((p) => p.fileId)).size).toBe(taken.length);
        expect(sent.every((p) => p.status !== 'set-aside' || p.reason === 'slip')).toBe(true);
      }),
    );
  });

  test('one pull’s time moves it, or the whole day with it; two at one time are told', () => {
    const moved = withTime(day, 0, START + 90 * 60_000, false);
    expect(moved.at(-1)!.place).toBe(0);
    expect(moved.at(-1)!.timeFrom).toBe('typed');
    const shifted = withTime(day, 0, START + 3_600_000, true);
    expect(shifted.map((r, i) => r.startedMs! - day[i]!.startedMs!)).toEqual(MINUTES.map(() => 3_600_000));
    const clash = withTime(day, 1, START, false);
    expect(obstaclesOf(clash, pulls, shape, [UNCORRECTED])).toEqual([{ code: 'one-time', places: [0, 1] }]);
    expect(obstaclesOf(withStatus(clash, 1, 'left-out'), pulls, shape, [UNCORRECTED])).toEqual([]);
  });

  test('what is typed stands over what the file says, and is taken away again by emptying; the round’s first fills the rest', () => {
    const own = [
      laid(0, { conditions: { ...pulls[0]!.conditions, airC: { value: 20, source: 'header', words: '' } } }),
      ...pulls.slice(1),
    ];
    const d = dayOf(job, own);
    expect(valueOf(d[0]!, own, 'airC')).toBe(20);
    const typed = withTyped(d, [
      [0, 'airC', 21],
      [1, 'airC', null],
      [4, 'pressureHpa', 1000],
    ]);
    expect([valueOf(typed[0]!, own, 'airC'), valueOf(typed[1]!, own, 'airC')]).toEqual([21, null]);
    const filled = filledDown(typed, own);
    expect(filled.map((r) => valueOf(r, own, 'airC'))).toEqual([21, 21, 21, 21, null, null, null, null]);
    expect(filled.map((r) => valueOf(r, own, 'pressureHpa'))).toEqual([null, null, null, null, 1000, 1000, 1000, 1000]);
  });
});

describe('columns are said anew, and the files are read again', () => {
  test('what a person put right stays, what nobody touched follows the files, and a file that now holds other pulls begins anew', () => {
    const left = withStatus(withBegin(withSetup(day, [5], 'A'), 2), 7, 'set-aside', 'slip');
    const now = withTime(withTyped(left, [[3, 'airC', 19]]), 0, START + 30_000, false);
    const again = [...pulls]
      .reverse()
      .map((p) => ({ ...p, when: { ...p.when!, at: p.when!.at.replace(':00.', ':10.') } }));
    const carried = carriedOver(dayOf(job, again), again, { first: day, now, pulls });
    const of = (minute: number) => carried.find((r) => again[r.place]!.fileId === `f${minute}`)!;
    expect(of(74)).toMatchObject({ setupId: 'A', told: true });
    expect(of(8).begins).toBe(true);
    expect(of(82)).toMatchObject({ status: 'set-aside', reason: 'slip' });
    expect(of(12).typed).toEqual({ airC: 19 });
    expect(of(0)).toMatchObject({ startedMs: START + 30_000, timeFrom: 'typed' });
    expect(of(4)).toMatchObject({ startedMs: START + 4 * 60_000 + 10_000, timeFrom: 'header', setupId: 'A' });
    const split = [...pulls.slice(0, 7), laid(82), { ...laid(84), fileId: 'f82', index: 1 }];
    expect(
      carriedOver(dayOf(job, split), split, { first: day, now, pulls }).filter((r) => r.status === 'set-aside'),
    ).toEqual([]);
  });
});

test('a reason is one step of undo, however many letters it has', () => {
  const aside = [day, withStatus(day, 3, 'set-aside')];
  const typed = ['s', 'sl', 'slip'].reduce((h, words) => withReason(h, 3, words), aside as readonly Day[]);
  expect(typed).toHaveLength(3);
  expect(typed[2]![3]!.reason).toBe('slip');
  expect(typed.slice(0, 2)).toEqual(aside);
});

describe('the state of the numbers', () => {
  const corrected = { kind: 'corrected' as const, standard: 'sae-j1349', factor: 1.02, computed: null, words: '' };
  test('is proposed where every file says it, and asked for where one does not', () => {
    expect(proposedAnswers(pulls)).toBeNull();
    expect(proposedAnswers(pulls.map((p) => ({ ...p, state: corrected })))).toMatchObject({ state: 'as-stated' });
    expect(proposedAnswers(pulls.map((p, i) => ({ ...p, state: i === 3 ? null : corrected })))).toBeNull();
    expect(
      proposedAnswers(pulls.map((p) => ({ ...p, state: { ...corrected, kind: 'uncorrected', factor: null } }))),
    ).toMatchObject({ state: 'uncorrected' });
    expect(obstaclesOf(day, pulls, shape, [null])).toEqual([{ code: 'numbers', shape: 0 }]);
  });

  test('a pull set aside without a reason, and a day of which everything is left out', () => {
    expect(obstaclesOf(withStatus(day, 3, 'set-aside'), pulls, shape, [UNCORRECTED])).toEqual([
      { code: 'reason', place: 3 },
    ]);
    const nothing = day.reduce<Day>((d, r) => withStatus(d, r.place, 'left-out'), day);
    expect(obstaclesOf(nothing, pulls, shape, [UNCORRECTED])).toEqual([{ code: 'nothing' }]);
  });
});
