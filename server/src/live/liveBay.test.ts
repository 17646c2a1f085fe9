import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { channelValues, type LiveMessage } from '@prandel/core';
import { nmeaSentence } from '@prandel/formats';
import pg from 'pg';
import WebSocket from 'ws';
import type { TrendsAnswer } from '../http/coreAnswers.ts';
import { LiveShop, pause } from '../test/liveShop.ts';

const live = new LiveShop();
const { rollers, weather } = live;
const [drive, act, sheet, until, stored, log, listen] = [
  live.drive.bind(live),
  live.act.bind(live),
  live.sheet.bind(live),
  live.until.bind(live),
  live.stored.bind(live),
  live.log.bind(live),
  live.listen.bind(live),
];
const ask: LiveShop['ask'] = (...asked) => live.ask(...asked);

beforeAll(() => live.open(process.env.LIVE_DATABASE_URL));
afterAll(() => live.close());

const rowsOf = (messages: readonly LiveMessage[]) =>
  messages.flatMap((m) => (m.kind === 'samples' ? m.rows.map((_, i) => m.from + i) : []));

describe('a bay with real sockets', () => {
  test('the device panel says what is connected, silent or not believed', async () => {
    await drive(0.3, 0);
    const now = await until('all connected', (s) => s.instruments.every((i) => i.state === 'connected'));
    expect(now.state).toBe('no-job');
    weather.say('$WIXDR,P,1.0,B,BARO*00\r\n');
    const wrong = await until('a checksum complained of', (s) => s.instruments[1]!.state === 'implausible');
    expect(wrong.instruments[1]!.fault).toMatchObject({
      code: 'sentence-unreadable',
      detail: expect.stringContaining('checksum 00') as unknown,
    });
    weather.say(nmeaSentence('WIXDR,P,0.101,B,BARO') + '\r\n');
    const odd = await until('a pressure not believed', (s) => s.instruments[1]!.fault?.code === 'weather-not-believed');
    expect(odd.readings.pressureHpa!.value).toBe(1003);
  });

  test('orders that make no sense now are refused in words', async () => {
    await expect(act('extra-settle')).rejects.toThrow('No job is in this bay.');
    await act('open-job', { job: live.job });
    await expect(act('open-job', { job: live.job })).rejects.toThrow('Another job is in this bay.');
    await expect(act('override', { reason: 'x' })).rejects.toThrow('only possible in a round');
    await expect(act('stop-fitting')).rejects.toThrow('only possible while the fitting clock runs');
    await expect(act('start-round', { setup: 'Z' })).rejects.toThrow('no setup "Z"');
    await expect(ask('PATCH', `/bays/${live.bay}`, { label: 'x' })).rejects.toThrow('A job is in this bay.');
  });

  test('a pull is found by itself, recorded sample by sample, and reviewed before its figures', async () => {
    await act('start-round', { setup: 'A' });
    await drive(0.5, 0);
    await until('ready', (s) => s.state === 'ready');
    const screen = await listen();
    await drive(4, 1);
    expect((await sheet()).state).toBe('pulling');
    const late = await listen();
    await drive(1, 1);
    await drive(1.2, 0);
    const review = await until('in review', (s) => s.state === 'review');
    expect(review.review!.pullId).toBe('A-1');
    expect(review.curves).toEqual([]);
    expect(review.round!.pulls[0]!.peakW).toBeNull();
    await act('keep');
    expect((await until('judged', (s) => s.state !== 'review')).round!.pulls[0]!.peakW).toBeGreaterThan(1000);
    const pull = (await stored()).job.pulls[0]!;
    expect(pull).toMatchObject({ status: 'settle', intakeStartC: 29, airC: 22, pressureHpa: 1003 });
    const time = channelValues(pull, 'time_s')!;
    expect(time.length).toBeGreaterThan(500);
    for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
    expect(channelValues(pull, 'coolant_c')![100]).toBe(90);
    // Both screens saw every row once and in order: the one that was there, and the one that came in the middle.
    for (const { messages, close } of [screen, late]) {
      expect(rowsOf(messages)).toEqual(Array.from(time, (_, i) => i));
      close();
    }
  });

  test('a screen that lost the line catches up from the last number it saw, without gap or repetition', async () => {
    const before = await listen();
    await drive(0.5, 0);
    await pause(600);
    before.close();
    const seen = before.messages.at(-1)!.seq;
    await drive(0.3, 0);
    await pause(400);
    const after = await listen(seen);
    await pause(400);
    after.close();
    const numbers = after.messages.map((m) => m.seq);
    expect(numbers[0]!).toBeGreaterThan(seen);
    expect(numbers).toEqual([...new Set(numbers)].sort((a, b) => a - b));
    await expect(listen().then(() => undefined)).resolves.toBeUndefined();
    const stranger = new WebSocket(`${live.base.replace('http', 'ws')}/api/live?bay=${live.bay}`);
    await expect(new Promise((open, failed) => stranger.on('open', open).on('error', failed))).rejects.toThrow('401');
  });

  test('the interval gate holds the next pull; started against it, it is kept but set aside', async () => {
    const held = await sheet();
    expect(held.state).toBe('cooling');
    expect(held.waitS).toBeGreaterThan(60);
    await drive(3, 1);
    await drive(1.2, 0);
    await until('in review', (s) => s.state === 'review');
    const { job: now } = await stored();
    expect(now.pulls[1]).toMatchObject({
      status: 'set-aside',
      reason: expect.stringContaining('closed gate: Too soon after the last pull') as unknown,
    });
    await act('keep');
    live.clockMs += 150_000;
    await drive(0.5, 0);
    const next = await until('ready', (s) => s.state === 'ready');
    expect(next.round!.next).toEqual({ position: 3, status: 'counted' });
  });

  test('a cable pulled in the middle: the samples so far are kept, the pull is marked, the line comes back by itself', async () => {
    const sent = await drive(2.5, 1);
    await until('pulling', (s) => s.state === 'pulling' && s.recording!.samples > 150);
    await rollers.unplug();
    await until('lost', (s) => s.state === 'review');
    const { job: now } = await stored();
    const cut = now.pulls[2]!;
    expect(cut).toMatchObject({ status: 'set-aside', marks: [expect.stringContaining('cable was lost') as unknown] });
    // The pause after the pull before had kept it waiting; Trends adds that up.
    const { interval } = cut.heldS!;
    expect(interval).toBeGreaterThanOrEqual(120);
    expect(interval).toBeLessThan(170);
    const { holds } = await ask<TrendsAnswer>('GET', '/trends');
    expect(holds.find((h) => h.gate === 'interval')!.behind).toContainEqual({
      ...{ job: live.job, number: expect.any(String) as unknown, pull: cut.id, seconds: interval },
    });
    expect(channelValues(cut, 'time_s')!.length).toBeGreaterThan(sent - 60);
    await act('keep');
    expect((await until('sensor lost', (s) => s.state === 'sensor-lost')).reasons).toEqual([
      { kind: 'rollers-silent' },
    ]);
    await rollers.plug();
    for (let i = 0; i < 40 && !rollers.heard; i += 1) await pause(100);
    live.clockMs += 150_000;
    live.omega = 0;
    await drive(0.5, 0);
    await until('ready again', (s) => s.state === 'ready');
  });

  test('a database that takes nothing for a while costs no sample: they wait in memory, and the sheet says so', async () => {
    const admin = new pg.Client({ connectionString: process.env.LIVE_DATABASE_URL });
    await admin.connect();
    const before = (await stored()).job.pulls.length;
    let sent = await drive(1.5, 1);
    await admin.query('ALTER TABLE recording_chunks RENAME TO gone');
    sent += await drive(2, 1);
    const stuck = await until('waiting', (s) => s.waiting > 50);
    expect(stuck.state).toBe('pulling');
    await drive(1.2, 0);
    expect((await stored()).job.pulls).toHaveLength(before);
    await admin.query('ALTER TABLE gone RENAME TO recording_chunks');
    await admin.end();
    const review = await until('in review', (s) => s.state === 'review');
    expect(review.waiting).toBe(0);
    const time = channelValues((await stored()).job.pulls.at(-1)!, 'time_s')!;
    expect(time.length).toBeGreaterThan(sent);
    for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
    await act('keep');
    live.clockMs += 150_000;
    await drive(0.5, 0);
    await until('ready again', (s) => s.state === 'ready');
  });

  test('an abort limit fills the screen with STOP, is logged, and wants to be looked at', async () => {
    live.coolant = 118;
    const stopped = await until('stopped', (s) => s.state === 'stop');
    expect(stopped.reasons).toMatchObject([
      { kind: 'limit-crossed', crossed: { level: 'stop', value: 118, limit: { channel: 'coolant_c', stop: 115 } } },
    ]);
    live.coolant = 90;
    await pause(400);
    expect((await sheet()).state).toBe('stop');
    await act('acknowledge-stop');
    await until('going on', (s) => s.state === 'ready');
    const { rows, broken } = await ask<{ rows: { kind: string; what: string }[]; broken: null }>(
      'GET',
      `/jobs/${live.job}/log`,
    );
    expect(broken).toBeNull();
    expect(rows.filter((r) => r.kind === 'alarm').map((r) => r.what)).toEqual([
      'STOP: Coolant is 118.0 °C, the limit is 115 °C.',
      'Looked at the STOP (Coolant is 118.0 °C, the limit is 115 °C.) and went on.',
    ]);
  });

  test('a round closed early for heat, time or breakage says so; a fitting is timed on the bay’s clock', async () => {
    await expect(act('close-round')).rejects.toThrow('heat, time or breakage');
    await act('close-round', { reason: 'Heat' });
    // Closed by mistake: nothing was touched, so the round goes on where it was.
    await act('resume-round');
    expect((await sheet()).round).toMatchObject({ setup: 'A', number: 1, countedSoFar: 1 });
    expect((await stored()).job.day!.closedEarly).toBeUndefined();
    await act('close-round', { reason: 'Heat' });
    await act('start-fitting', { setup: 'B' });
    live.clockMs += 31 * 60_000;
    await drive(0.3, 0);
    await act('stop-fitting', { fitting: { disturbed: 'belt cover' } });
    await expect(act('resume-round')).rejects.toThrow('The car was touched since the last pull');
    const { job: now } = await stored();
    const [fitting] = now.day!.fittings;
    expect(fitting).toMatchObject({ setup: 'B', who: 'Ines R.', disturbed: 'belt cover' });
    expect(Math.round((Date.parse(fitting!.stoppedAt!) - Date.parse(fitting!.startedAt)) / 60_000)).toBe(31);
    // Words follow at the desk; the clock and who turned the spanner stay what they were.
    const words = { changed: 'pump', disturbed: 'belt cover, two clips', parts: 'pump, bracket', cost: 340, notes: '' };
    const answer = await fetch(`${live.base}/api/jobs/${live.job}`, {
      method: 'PATCH',
      headers: { cookie: live.cookie, connection: 'close', 'content-type': 'application/json' },
      body: JSON.stringify({
        version: (await stored()).version,
        day: {
          fittings: [
            { startedAt: fitting!.startedAt, ...words },
            { startedAt: '2020-01-01T00:00:00.000Z', ...words },
          ],
        },
      }),
    });
    expect(answer.status).toBe(204);
    expect((await stored()).job.day!.fittings).toEqual([{ ...fitting, ...words }]);
    const { rows } = await ask<{ rows: { kind: string; what: string }[] }>('GET', `/jobs/${live.job}/log`);
    // The weather writes rows of its own whenever it likes.
    expect(rows.filter((r) => r.kind === 'edit').at(-1)!.what).toContain(
      'Wrote about the fitting of B: changed pump; also disturbed belt cover, two clips',
    );
  });

  test('a server that stops in the middle of a pull finds every written sample when it starts again', async () => {
    await act('start-round', { setup: 'B' });
    await drive(0.5, 0);
    await until('ready', (s) => s.state === 'ready');
    await drive(2.5, 1);
    const shown = (await until('pulling', (s) => s.state === 'pulling' && s.recording!.samples > 150)).recording!
      .samples;
    await live.app.close();
    await live.start();
    const { job: now } = await stored();
    const pull = now.pulls.at(-1)!;
    expect(pull).toMatchObject({
      setupId: 'B',
      status: 'set-aside',
      marks: ['The server stopped in the middle of this pull.'],
    });
    expect(channelValues(pull, 'time_s')!.length).toBeGreaterThanOrEqual(shown);
    expect((await sheet()).round).toMatchObject({ setup: 'B', number: 1 });
  });

  test('a set-point that somebody moved blocks the round; one tap says that it is back, and the log says who', async () => {
    const patch = async (setups: unknown) => {
      const answer = await fetch(`${live.base}/api/jobs/${live.job}`, {
        method: 'PATCH',
        headers: { cookie: live.cookie, connection: 'close', 'content-type': 'application/json' },
        body: JSON.stringify({ version: (await stored()).version, setups }),
      });
      expect(answer.status).toBe(204);
    };
    const fan = (b: string) =>
      ['A', 'B'].map((id) => ({ id, label: id, changes: [], state: { fan: id === 'B' ? b : '3' } }));
    live.clockMs += 150_000;
    await drive(0.5, 0);
    await patch(fan('1'));
    const blocked = await until('blocked', (s) => s.state === 'blocked');
    expect(blocked.reasons).toMatchObject([{ key: 'fan', finding: { code: 'set-point-differs', to: '3' } }]);
    await expect(act('set-point', { state: 'hood' })).rejects.toThrow('Nobody recorded hood for the baseline.');
    await act('set-point', { state: 'fan' });
    await until('open again', (s) => s.state !== 'blocked');
    expect((await stored()).job.setups[1]!.state).toEqual({ fan: '3' });
    expect((await log()).at(-1)).toBe('Said that fan is set to 3 on B now, as for the baseline.');
  });

  test('a limit that is crossed in the middle of a pull is written on that pull', async () => {
    live.clockMs += 150_000;
    await drive(0.5, 0);
    await until('ready', (s) => s.state === 'ready');
    await drive(1.5, 1);
    live.coolant = 118;
    for (let i = 0; i < 20 && (await sheet()).state !== 'stop'; i += 1) await drive(0.2, 1);
    await drive(1.2, 0);
    live.coolant = 90;
    for (let i = 0; i < 50 && (await stored()).job.pulls.at(-1)!.setupId !== 'B'; i += 1) await pause(100);
    await until('closed', (s) => s.recording === null);
    const last = async () => (await stored()).job.pulls.at(-1)!;
    for (let i = 0; i < 50 && !(await last()).marks?.length; i += 1) await pause(100);
    expect(await last()).toMatchObject({
      setupId: 'B',
      status: 'settle',
      marks: ['STOP: Coolant is 118.0 °C, the limit is 115 °C.'],
    });
    await act('acknowledge-stop');
  });

  test('what was closed early outlives the car’s stay; a round after the plan is in is no secret', async () => {
    await act('close-round', { reason: 'Time' });
    await act('leave');
    await act('open-job', { job: live.job });
    expect((await stored()).job.day!.closedEarly).toEqual({ 'A#1': 'Heat', 'B#1': 'Time' });
    const done = await until('complete', (s) => s.planComplete);
    expect(done.verdicts).toMatchObject([{ candidate: 'B', verdict: 'not-resolved' }]);
    await expect(act('extend')).rejects.toThrow('No rounds within reach');
    await act('start-round', { setup: 'B' });
    const { question, day } = (await stored()).job;
    expect(question).toMatchObject({
      extension: 'undeclared',
      plan: [{ setup: 'A' }, { setup: 'B' }, { setup: 'B', counted: 2 }],
    });
    expect(day!.plan.extended).toMatchObject({ declared: false });
    expect(await sheet()).toMatchObject({ planComplete: false, pullsMissing: 2, verdicts: [] });
    expect((await log()).join()).toContain(
      'Added pulls after the result could be seen, without having declared it: 2 of B.',
    );
  });

  test('a pull without a job is not lost: the job that is opened next keeps it, set aside', async () => {
    await act('leave');
    await drive(2.5, 1);
    await expect(act('open-job', { job: live.job })).rejects.toThrow('A pull is being recorded.');
    await drive(1.2, 0);
    expect((await until('a unclaimed pull', (s) => s.unclaimed === 1)).state).toBe('no-job');
    // Neither does it depend on this process.
    await live.app.close();
    await live.start();
    for (let i = 0; !rollers.heard && i < 100; i += 1) await pause(50);
    // The bay's clock is the rollers': it runs again once they speak.
    await drive(0.3, 0);
    await until('the unclaimed of before', (s) => s.unclaimed === 1);
    await act('open-job', { job: live.job });
    const unclaimed = (await stored()).job.pulls.at(-1);
    expect(unclaimed).toMatchObject({ setupId: 'A', round: 0, status: 'set-aside', intakeStartC: 29, airC: 22 });
    const time = channelValues(unclaimed!, 'time_s')!;
    expect(time.length).toBeGreaterThan(250);
    for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
    expect((await sheet()).unclaimed).toBe(0);
    expect((await log()).join()).toContain(
      `Kept ${unclaimed!.id}, pulled before the job was put on this bay; set aside.`,
    );
  });
});
