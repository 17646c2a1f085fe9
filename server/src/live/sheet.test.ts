import { describe, expect, test } from '@jest/globals';
import { judgeJob, USUAL_DAY, type Job, type LiveValue } from '@prandel/core';
import { liveJob, simulateDay, liveSpec } from '@prandel/simulator';
import type { BayRun } from '../database/shapes.ts';
import { Recovery } from './recovery.ts';
import { gateOf, sheetOf, type BayMoment } from './sheet.ts';

/** A finished day of the live car, from which the tests take as many rounds as they want. */
const whole: Job = {
  ...simulateDay({
    ...liveSpec(7),
    sampleHz: 50,
    rounds: [
      { setup: 'A', settle: 2, counted: 3, startMinute: 0, minutesPerPull: 4 },
      { setup: 'B', settle: 2, counted: 3, startMinute: 70, minutesPerPull: 4 },
      { setup: 'A2', settle: 2, counted: 2, startMinute: 140, minutesPerPull: 4 },
    ],
  }),
  day: liveJob().day!,
};
const upTo = (setups: readonly string[], drop = 0): Job => {
  const pulls = whole.pulls.filter((p) => setups.includes(p.setupId));
  return { ...whole, pulls: pulls.slice(0, pulls.length - drop) };
};
const run: BayRun = {
  phase: 'round',
  setup: 'B',
  round: 1,
  extraSettle: 0,
  lastPullEndedAt: null,
  lastPullId: null,
  lastPullRound: null,
  override: null,
  stop: null,
};

/** A calm moment after the last pull of a job, with whatever a test wants different. */
function momentOf(job: Job, more: Partial<BayMoment> = {}, values: Record<string, number> = {}): BayMoment {
  const last = job.pulls.at(-1)!;
  const endedMs = Date.parse(last.startedAt!) + 10_000;
  const live: Record<string, LiveValue> = {};
  const usual = {
    airC: last.airC!,
    pressureHpa: last.pressureHpa!,
    relativeHumidity: last.relativeHumidity!,
    intakeC: last.intakeStartC!,
    coolantC: last.coolantStartC!,
    oilC: last.oilStartC!,
    roller_rad_s: 0,
  };
  for (const [key, value] of Object.entries({ ...usual, ...values })) live[key] = { value, ageS: 0.1 };
  return {
    atMs: endedMs + 180_000,
    job,
    jobRow: { id: 'x', version: 1 },
    judgement: judgeJob(job, 'verdict'),
    range: null,
    run: {
      ...run,
      setup: last.setupId,
      lastPullId: last.id,
      lastPullEndedAt: new Date(endedMs).toISOString(),
      lastPullRound: `${last.setupId}#1`,
    },
    values: live,
    instruments: [],
    recovery: new Recovery(),
    waiting: 0,
    quarantined: 0,
    unclaimed: 0,
    recording: null,
    review: null,
    ...more,
  };
}
const sheet = (moment: BayMoment) => sheetOf(moment, gateOf(moment));

describe('what the bay may see, and when', () => {
  test('before the planned pulls are in: curves, repeatability and the width of the interval, never a verdict', () => {
    for (const job of [upTo(['A']), upTo(['A', 'B'], 1), upTo(['A', 'B'])]) {
      const now = sheet(momentOf(job));
      expect(now).toMatchObject({ verdicts: [], extension: null, planComplete: false });
      expect(now.curves.length).toBeGreaterThan(0);
      expect(JSON.stringify({ ...now, curves: [] })).not.toMatch(/[Vv]erified|no-meaningful|not-resolved/);
    }
    const two = sheet(momentOf(upTo(['A', 'B'])));
    expect(two.halfWidths[0]!.value).toBeGreaterThan(0.3);
    expect(two.repeatabilityPercent).toBeLessThan(1.5);
  });

  test('with the return check the verdict is told, as the core gives it', () => {
    const moment = momentOf(whole);
    const now = sheet(moment);
    expect(now.planComplete).toBe(true);
    expect(now.verdicts).toMatchObject([{ candidate: 'B', verdict: moment.judgement!.verdicts[0]!.verdict }]);
    // The return check narrows the interval: that is what it is for.
    expect(now.halfWidths[0]!.value).toBeLessThan(sheet(momentOf(upTo(['A', 'B']))).halfWidths[0]!.value);
  });

  test('while a pull is in review its figures, its curve and the interval stay hidden', () => {
    const job = upTo(['A', 'B'], 1);
    const id = job.pulls.at(-1)!.id;
    const now = sheet(momentOf(job, { review: { pullId: id, leftS: 9 } }));
    expect(now.state).toBe('review');
    expect(now).toMatchObject({ curves: [], halfWidths: [], verdicts: [] });
    expect(now.round!.pulls.find((p) => p.id === id)!.peakW).toBeNull();
    expect(now.round!.pulls[0]!.peakW).toBeGreaterThan(50_000);
  });

  test('a round closed early lets the verdict speak with what is there', () => {
    const job = upTo(['A', 'B', 'A2'], 1);
    const moment = momentOf(job);
    expect(sheet(moment)).toMatchObject({ verdicts: [], pullsMissing: 1 });
    const closed = { ...job, day: { ...job.day!, closedEarly: { 'A2#1': 'Time' } } };
    expect(sheet({ ...moment, job: closed }).verdicts).toHaveLength(1);
  });
});

describe('the baseline beside its model', () => {
  const range = { cars: 5, lowW: 200_000, highW: 220_000 };

  test('is told once its round is in, with the cheapest suspect where it reads low, and not while it is pulled', () => {
    const job = upTo(['A']);
    const between = { range, run: { ...run, setup: 'A', phase: 'between' as const } };
    const now = sheet(momentOf(job, between)).baseline!;
    expect(now).toMatchObject({ stands: 'low', suspect: { minutes: 5 } });
    expect(sheet(momentOf(job, { range })).baseline).toBeNull();
    expect(sheet(momentOf(upTo(['A'], 1), between)).baseline).toBeNull();
    const { key: suspect } = now.suspect!;
    const look = { suspect, result: 'found' as const, minutes: null, pull: null, who: 'Ines R.', at: '' };
    const search = { complaint: 'reads-low' as const, words: '', budgetMinutes: 60, openedAt: '', openedBy: 'Ines R.' };
    const found = { ...job, day: { ...job.day!, searches: [{ ...search, looks: [look], closedAt: null }] } };
    expect(sheet(momentOf(found, between)).baseline!.suspect).toBeNull();
    expect(sheet(momentOf(job, { ...between, range: null })).baseline).toMatchObject({ stands: 'unknown' });
  });
});

describe('which state the bay is in', () => {
  test('what is more urgent hides what is less', () => {
    const moment = momentOf(upTo(['A', 'B'], 1));
    const recording = { pullId: 'B-9', samples: 12 };
    const review = { pullId: 'B-4', leftS: 3 };
    const limit = { channel: 'coolant_c', warn: null, stop: 115, side: 'above' as const };
    const stopped = { ...moment.run!, stop: { crossed: { limit, value: 118, level: 'stop' as const }, at: 'now' } };
    expect(sheet({ ...moment, recording, review, run: stopped }).state).toBe('stop');
    expect(sheet({ ...moment, recording, review }).state).toBe('pulling');
    expect(sheet({ ...moment, review }).state).toBe('review');
    expect(sheet({ ...moment, run: { ...moment.run!, phase: 'between' } }).state).toBe('between');
    expect(sheet({ ...moment, run: null }).state).toBe('no-job');
  });

  test('a gate that is open still waits for the rollers to run out', () => {
    const job = upTo(['A', 'B'], 1);
    expect(sheet(momentOf(job)).state).toBe('ready');
    expect(sheet(momentOf(job, {}, { roller_rad_s: 40 })).state).toBe('cooling');
  });

  test('the baseline’s own round has nothing to be held against but its interval', () => {
    const moment = momentOf(upTo(['A'], 2), {}, { intakeC: 70 });
    expect(sheet(moment).state).toBe('ready');
    const soon = { ...moment, atMs: moment.atMs - 120_000 };
    expect(sheet(soon)).toMatchObject({ state: 'cooling', waitS: 60 });
  });

  test('the hold plan keeps the two rounds of a pair 45 to 60 min apart', () => {
    const job = upTo(['A']);
    const held: Job = { ...job, day: { ...job.day!, plan: { ...job.day!.plan, shape: 'hold' } } };
    const [first] = job.pulls;
    const cool = { intakeC: first!.intakeStartC!, coolantC: first!.coolantStartC!, oilC: first!.oilStartC! };
    const second = momentOf(held, {}, cool);
    const at = (minutes: number) =>
      sheet({
        ...second,
        atMs: Date.parse(second.run!.lastPullEndedAt!) + minutes * 60_000,
        run: { ...second.run!, round: 2 },
      });
    expect(at(20)).toMatchObject({
      state: 'cooling',
      waitS: 25 * 60,
      reasons: [{ finding: { code: 'pair-hold' } }],
    });
    const rest = (minutes: number) => at(minutes).rows.find((r) => r.key === 'interval')!;
    expect(rest(50)).toMatchObject({ state: 'inside', low: 45, high: 60 });
    expect(rest(70)).toMatchObject({ state: 'warn' });
    // Without that plan a second round waits for the cool-down alone.
    expect(sheet({ ...second, job, run: { ...second.run!, round: 2 } })).toMatchObject({ waitS: 12 * 60 });
  });

  test('the other setup is held to the baseline at its position: 3 °C of intake above the bay, 5 °C of fluids', () => {
    const job = upTo(['A', 'B'], 1);
    const like = job.pulls.find((p) => p.setupId === 'A' && p.position === 5)!;
    const above = like.intakeStartC! - like.airC!;
    const at = (airC: number, extra: number) => sheet(momentOf(job, {}, { airC, intakeC: airC + above + extra })).state;
    expect(at(like.airC!, 2.8)).toBe('ready');
    expect(at(like.airC! + 3, 2.8)).toBe('ready');
    expect(at(like.airC!, 3.3)).not.toBe('ready');
    expect(sheet(momentOf(job, {}, { coolantC: like.coolantStartC! + 5.4 })).reasons).toMatchObject([
      { key: 'coolantC', finding: { code: 'too-warm' } },
    ]);
  });

  test('a moved set-point blocks, a declared one does not; a car without the sensor is never held for it', () => {
    const job = upTo(['A', 'B'], 1);
    const moved = {
      ...job,
      setups: job.setups.map((s) => (s.id === 'B' ? { ...s, state: { ...s.state, fan: '1' } } : s)),
    };
    expect(sheet(momentOf(moved))).toMatchObject({
      state: 'blocked',
      reasons: [{ key: 'fan', finding: { code: 'set-point-differs', to: '3' } }],
    });
    const declared = {
      ...moved,
      setups: moved.setups.map((s) => (s.id === 'B' ? { ...s, declares: ['fan' as const] } : s)),
    };
    expect(sheet(momentOf(declared)).state).toBe('ready');
    // Whatever else was recorded and differs has no place on the rail until it does; a gear too.
    const geared = {
      ...job,
      setups: job.setups.map((s) => ({ ...s, state: { ...s.state, gear: s.id === 'B' ? '3' : '4' } })),
    };
    expect(sheet(momentOf(geared))).toMatchObject({
      state: 'blocked',
      reasons: [{ key: 'gear', finding: { code: 'set-point-differs', to: '4' } }],
    });
    expect(sheet(momentOf(job)).rows.map((r) => r.key)).not.toContain('gear');
    const silent = momentOf(job);
    const { oilC: _, ...without } = silent.values;
    expect(sheet({ ...silent, values: without }).state).toBe('sensor-lost');
    const card = { ...USUAL_DAY.modelCard, sensors: { intake: true, coolant: true, oil: false } };
    expect(sheet({ ...silent, job: { ...job, day: { ...job.day!, modelCard: card } }, values: without }).state).toBe(
      'ready',
    );
  });

  test('limits: a warning is shown, readings that are old cross nothing', () => {
    const job = upTo(['A', 'B'], 1);
    expect(sheet(momentOf(job, {}, { coolant_c: 109 })).crossed).toMatchObject([{ level: 'warn', value: 109 }]);
    const moment = momentOf(job, {}, { coolant_c: 120 });
    const old = { ...moment, values: { ...moment.values, coolant_c: { value: 120, ageS: 9 } } };
    expect(sheet(old).crossed).toEqual([]);
  });

  test('air of the bay: density altitude, factor, and the drift since the first pull', () => {
    const job = upTo(['A']);
    const first = job.pulls[0]!;
    const still = sheet(
      momentOf(
        job,
        {},
        { airC: first.airC!, pressureHpa: first.pressureHpa!, relativeHumidity: first.relativeHumidity! },
      ),
    ).air!;
    expect(still.driftPercent).toBeCloseTo(0, 9);
    const warmer = sheet(momentOf(job, {}, { airC: first.airC! + 10, pressureHpa: first.pressureHpa! })).air!;
    // Air at constant pressure thins by T0/T: 10 °C at about 295 K are 3.3 %, a little more with its moisture.
    expect(warmer.driftPercent!).toBeLessThan(-3.2);
    expect(warmer.driftPercent!).toBeGreaterThan(-4.2);
    expect(warmer.densityAltitudeM).toBeGreaterThan(still.densityAltitudeM + 250);
  });
});
