import net from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { channelValues, newPull, type LiveMessage, type LiveSheet } from '@prandel/core';
import { busAnswer, busRequested, nmeaSentence, rollerLine, weatherSentence } from '@prandel/formats';
import pg from 'pg';
import WebSocket from 'ws';
import { createApp } from '../createApp.ts';
import { Database } from '../database/database.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { LiveBays } from './liveBays.ts';
import { closeRecording, Recording } from './recorder.ts';

/** An instrument of the tests' own: says what it is told, and can be unplugged. */
class Device {
  #sockets = new Set<net.Socket>();
  #server: net.Server | null = null;
  port = 0;
  constructor(private readonly onLine: (line: string, socket: net.Socket) => void = () => undefined) {}

  async plug(): Promise<void> {
    this.#server = net.createServer((socket) => {
      this.#sockets.add(socket);
      socket.setEncoding('latin1');
      socket.on('error', () => undefined);
      socket.on('close', () => this.#sockets.delete(socket));
      socket.on('data', (chunk) =>
        String(chunk)
          .split('\r')
          .filter(Boolean)
          .forEach((line) => this.onLine(line, socket)),
      );
    });
    await new Promise<void>((ready) => this.#server!.listen(this.port, '127.0.0.1', ready));
    this.port = (this.#server.address() as net.AddressInfo).port;
  }

  async unplug(): Promise<void> {
    for (const socket of this.#sockets) socket.destroy();
    await new Promise((done) => (this.#server ? this.#server.close(done) : done(null)));
  }

  say(text: string): void {
    for (const socket of this.#sockets) socket.write(text);
  }

  get heard(): boolean {
    return this.#sockets.size > 0;
  }
}

let coolant = 90;
const rollers = new Device();
const weather = new Device();
const bus = new Device((line, socket) => {
  const channel = busRequested(line);
  const values: Record<string, number> = { intake_c: 29, coolant_c: coolant, oil_c: 95 };
  socket.write(`${channel && values[channel] !== undefined ? busAnswer(channel, values[channel]) : 'NO DATA'}\r`);
});
let clockMs = Date.UTC(2026, 4, 2, 9);
let omega = 0;

/** Lets the fake car run for a while at 100 Hz of its own clock, in steps that the server can follow. */
async function drive(seconds: number, throttle: number): Promise<number> {
  let sent = 0;
  for (let s = 0; s < seconds; s += 0.1) {
    let lines = '';
    for (let i = 0; i < 10; i += 1) {
      clockMs += 10;
      omega = throttle > 0.5 ? Math.max(35, omega + 0.12) : Math.max(0, omega - 1);
      lines += rollerLine(clockMs, { engine_rpm: omega * 50, roller_rad_s: omega, throttle_fraction: throttle }) + '\n';
      sent += 1;
    }
    rollers.say(lines);
    await pause(12);
  }
  return sent;
}
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

let app: NestExpressApplication;
let base = '';
let cookie = '';
let bay = '';
let job = '';
let talking: NodeJS.Timeout;

async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  const answer = await fetch(`${base}/api${path}`, {
    method,
    headers: { cookie, connection: 'close', 'content-type': 'application/json' },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  if (!cookie) cookie = answer.headers.get('set-cookie')!.split(';')[0]!;
  const text = await answer.text();
  if (!answer.ok) throw new Error((JSON.parse(text) as { detail: string }).detail);
  return (text ? JSON.parse(text) : undefined) as T;
}
const act = (action: string, more: object = {}) => ask<void>('POST', `/bays/${bay}/actions`, { action, ...more });
const sheet = () => ask<LiveSheet>('GET', `/bays/${bay}/sheet`);
async function until(what: string, is: (s: LiveSheet) => boolean): Promise<LiveSheet> {
  for (let i = 0; i < 150; i += 1) {
    const now = await sheet();
    if (is(now)) return now;
    await pause(100);
  }
  const { state, reasons, instruments } = await sheet();
  throw new Error(`never ${what}: ${JSON.stringify({ state, reasons, instruments })}`);
}
const stored = async () => {
  const bays = app.get(LiveBays);
  const { shopId } = bays.of((await shop()) ?? '', bay).row;
  return app.get(Database).inShop(shopId, (tx) => app.get(JobStore).read(tx, job, true));
};
const log = async () => (await ask<{ rows: { what: string }[] }>('GET', `/jobs/${job}/log`)).rows.map((r) => r.what);
const shop = async () => (await app.get(Database).withToken('', (tx) => tx.query.installation.findFirst()))?.shopId;

async function start(): Promise<void> {
  app = await createApp();
  await app.get(LiveBays).startAll();
  await app.listen(0, '127.0.0.1');
  base = (await app.getUrl()).replace('[::1]', '127.0.0.1');
}

beforeAll(async () => {
  const url = process.env.LIVE_DATABASE_URL;
  if (!url) throw new Error('LIVE_DATABASE_URL is not set; run the tests with ./prandel test.');
  process.env.DATABASE_URL = url;
  await Promise.all([rollers.plug(), weather.plug(), bus.plug()]);
  talking = setInterval(
    () => weather.say(weatherSentence({ pressureHpa: 1003, airC: 22, relativeHumidity: 0.5 }) + '\r\n'),
    200,
  );
  await start();
  await ask('POST', '/first-start', {
    shop: 'Quillmoor Garage',
    name: 'Ines R.',
    email: 'live@quillmoor.example',
    password: 'two settle pulls',
  });
  const at = (device: Device) => ({ host: '127.0.0.1', port: device.port });
  const created = await ask<{ id: string }>('POST', '/bays', {
    label: 'Bay 1',
    paper: { label: 'Bay 1', kind: 'inertia', rollerInertiaKgM2: 26.4, elevationM: 90 },
    instruments: { rollers: at(rollers), weather: at(weather), bus: at(bus), aux: null },
  });
  bay = created.id;
  const setups = ['A', 'B'].map((id) => ({ id, label: id, changes: '', state: { fan: '3' } }));
  const question = {
    text: 'Does it help?',
    baselineSetup: 'A',
    candidateSetups: ['B'],
    measure: 'windowMeanPower',
    windowRpm: [2200, 3500],
    meaningfulGainPercent: 1,
    partChangesIntakeTemperature: false,
    plan: [
      { setup: 'A', settle: 1, counted: 2 },
      { setup: 'B', settle: 1, counted: 2 },
    ],
  };
  const abortLimits = [{ channel: 'coolant_c', warn: 108, stop: 115, side: 'above' }];
  job = (
    await ask<{ id: string }>('POST', '/jobs', {
      title: 'Does it help?',
      vehicle: { label: 'Tarn Vireo', engineToRollerRatio: 5.2 },
      bay: { label: 'Bay 1' },
      question,
      setups,
      day: { abortLimits },
    })
  ).id;
});
afterAll(async () => {
  clearInterval(talking);
  await app.close();
  await Promise.all([rollers.unplug(), weather.unplug(), bus.unplug()]);
});

/** Listens to the live channel from a number on; keeps every message. */
async function listen(since?: number): Promise<{ messages: LiveMessage[]; close: () => void }> {
  const socket = new WebSocket(
    `${base.replace('http', 'ws')}/api/live?bay=${bay}${since === undefined ? '' : `&since=${since}`}`,
    {
      headers: { cookie },
    },
  );
  const messages: LiveMessage[] = [];
  socket.on('message', (data: Buffer) => messages.push(JSON.parse(data.toString()) as LiveMessage));
  await new Promise((open, failed) => socket.on('open', open).on('error', failed));
  return { messages, close: () => socket.close() };
}
const rowsOf = (messages: readonly LiveMessage[]) =>
  messages.flatMap((m) => (m.kind === 'samples' ? m.rows.map((_, i) => m.from + i) : []));

describe('a bay with real sockets', () => {
  test('the device panel says what is connected, silent or not believed', async () => {
    await drive(0.3, 0);
    const now = await until('all connected', (s) => s.instruments.every((i) => i.state === 'connected'));
    expect(now.state).toBe('no-job');
    weather.say('$WIXDR,P,1.0,B,BARO*00\r\n');
    const wrong = await until('a checksum complained of', (s) => s.instruments[1]!.state === 'implausible');
    expect(wrong.instruments[1]!.words).toContain('checksum 00');
    weather.say(nmeaSentence('WIXDR,P,0.101,B,BARO') + '\r\n');
    const odd = await until('a pressure not believed', (s) => s.instruments[1]!.words.includes('101'));
    expect(odd.readings.pressureHpa!.value).toBe(1003);
  });

  test('orders that make no sense now are refused in words', async () => {
    await expect(act('extra-settle')).rejects.toThrow('No job is in this bay.');
    await act('open-job', { job });
    await expect(act('open-job', { job })).rejects.toThrow('Another job is in this bay.');
    await expect(act('override', { reason: 'x' })).rejects.toThrow('only possible in a round');
    await expect(act('stop-fitting')).rejects.toThrow('only possible while the fitting clock runs');
    await expect(act('start-round', { setup: 'Z' })).rejects.toThrow('no setup "Z"');
    await expect(
      ask('PUT', `/bays/${bay}`, {
        label: 'x',
        paper: { label: 'x' },
        instruments: { rollers: null, weather: null, bus: null, aux: null },
      }),
    ).rejects.toThrow('A job is in this bay.');
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
    const stranger = new WebSocket(`${base.replace('http', 'ws')}/api/live?bay=${bay}`);
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
    clockMs += 150_000;
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
    expect(channelValues(cut, 'time_s')!.length).toBeGreaterThan(sent - 60);
    await act('keep');
    expect((await until('sensor lost', (s) => s.state === 'sensor-lost')).reasons.join()).toContain(
      'Rollers: no signal',
    );
    await rollers.plug();
    for (let i = 0; i < 40 && !rollers.heard; i += 1) await pause(100);
    clockMs += 150_000;
    omega = 0;
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
    clockMs += 150_000;
    await drive(0.5, 0);
    await until('ready again', (s) => s.state === 'ready');
  });

  test('an abort limit fills the screen with STOP, is logged, and wants to be looked at', async () => {
    coolant = 118;
    const stopped = await until('stopped', (s) => s.state === 'stop');
    expect(stopped.reasons).toEqual(['Coolant is 118.0 °C, the limit is 115 °C.']);
    coolant = 90;
    await pause(400);
    expect((await sheet()).state).toBe('stop');
    await act('acknowledge-stop');
    await until('going on', (s) => s.state === 'ready');
    const { rows, broken } = await ask<{ rows: { kind: string; what: string }[]; broken: null }>(
      'GET',
      `/jobs/${job}/log`,
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
    expect((await stored()).job.day!.closedEarly).toEqual({});
    await act('close-round', { reason: 'Heat' });
    await act('start-fitting', { setup: 'B' });
    clockMs += 31 * 60_000;
    await drive(0.3, 0);
    await act('stop-fitting', { fitting: { disturbed: 'belt cover' } });
    await expect(act('resume-round')).rejects.toThrow('The car was touched since the last pull');
    const { job: now } = await stored();
    const [fitting] = now.day!.fittings;
    expect(fitting).toMatchObject({ setup: 'B', who: 'Ines R.', disturbed: 'belt cover' });
    expect(Math.round((Date.parse(fitting!.stoppedAt!) - Date.parse(fitting!.startedAt)) / 60_000)).toBe(31);
    // Words follow at the desk; the clock and who turned the spanner stay what they were.
    const words = { changed: 'pump', disturbed: 'belt cover, two clips', parts: 'pump, bracket', cost: 340, notes: '' };
    const answer = await fetch(`${base}/api/jobs/${job}`, {
      method: 'PATCH',
      headers: { cookie, connection: 'close', 'content-type': 'application/json' },
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
    const { rows } = await ask<{ rows: { what: string }[] }>('GET', `/jobs/${job}/log`);
    expect(rows.at(-1)!.what).toContain(
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
    await app.close();
    await start();
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
      const answer = await fetch(`${base}/api/jobs/${job}`, {
        method: 'PATCH',
        headers: { cookie, connection: 'close', 'content-type': 'application/json' },
        body: JSON.stringify({ version: (await stored()).version, setups }),
      });
      expect(answer.status).toBe(204);
    };
    const fan = (b: string) =>
      ['A', 'B'].map((id) => ({ id, label: id, changes: '', state: { fan: id === 'B' ? b : '3' } }));
    clockMs += 150_000;
    await drive(0.5, 0);
    await patch(fan('1'));
    const blocked = await until('blocked', (s) => s.state === 'blocked');
    expect(blocked.reasons).toEqual(['Set fan to 3, or declare it']);
    await expect(act('set-point', { state: 'hood' })).rejects.toThrow('Nobody recorded hood for the baseline.');
    await act('set-point', { state: 'fan' });
    await until('open again', (s) => s.state !== 'blocked');
    expect((await stored()).job.setups[1]!.state).toEqual({ fan: '3' });
    expect((await log()).at(-1)).toBe('Said that fan is set to 3 on B now, as for the baseline.');
  });

  test('a limit that is crossed in the middle of a pull is written on that pull', async () => {
    clockMs += 150_000;
    await drive(0.5, 0);
    await until('ready', (s) => s.state === 'ready');
    await drive(1.5, 1);
    coolant = 118;
    for (let i = 0; i < 20 && (await sheet()).state !== 'stop'; i += 1) await drive(0.2, 1);
    await drive(1.2, 0);
    coolant = 90;
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
    await act('open-job', { job });
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

  test('a commit whose answer was lost is tried again and stores nothing twice', async () => {
    const [database, store, shopId] = [app.get(Database), app.get(JobStore), (await shop())!];
    const { channels: _, ...pull } = { ...newPull('B-90', 'B', 9), startedAt: '2026-11-23T15:00:00.000Z' };
    const paper = { pull, channels: ['time_s', 'engine_rpm'], startMs: 0 };
    const recording = new Recording(paper);
    for (let k = 0; k < 2; k += 1) await recording.begin(database, shopId, bay, job);
    await recording.write(database, shopId, [
      [0, 2000],
      [0.01, 2010],
    ]);
    const before = (await log()).length;
    for (let k = 0; k < 2; k += 1)
      await database.inShop(shopId, (tx) =>
        closeRecording(tx, store, shopId, job, { id: recording.id, paper, cut: 'Tried twice.' }),
      );
    const kept = (await stored()).job.pulls.filter((p) => p.id === 'B-90');
    expect(kept).toMatchObject([{ status: 'set-aside', reason: 'Tried twice.' }]);
    expect([...channelValues(kept[0]!, 'engine_rpm')!]).toEqual([2000, 2010]);
    expect((await log()).length).toBe(before + 1);
  });

  test('a pull without a job is not lost: the job that is opened next keeps it, set aside', async () => {
    await act('leave');
    await drive(2.5, 1);
    await expect(act('open-job', { job })).rejects.toThrow('A pull is being recorded.');
    await drive(1.2, 0);
    expect((await until('a stray pull', (s) => s.strays === 1)).state).toBe('no-job');
    // Neither does it depend on this process.
    await app.close();
    await start();
    for (let i = 0; !rollers.heard && i < 100; i += 1) await pause(50);
    // The bay's clock is the rollers': it runs again once they speak.
    await drive(0.3, 0);
    await until('the stray of before', (s) => s.strays === 1);
    await act('open-job', { job });
    const stray = (await stored()).job.pulls.at(-1);
    expect(stray).toMatchObject({ setupId: 'A', round: 0, status: 'set-aside', intakeStartC: 29, airC: 22 });
    const time = channelValues(stray!, 'time_s')!;
    expect(time.length).toBeGreaterThan(250);
    for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
    expect((await sheet()).strays).toBe(0);
    expect((await log()).join()).toContain(`Kept ${stray!.id}, pulled before the job was put on this bay; set aside.`);
  });
});
