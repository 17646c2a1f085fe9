import type { ChildProcess } from 'node:child_process';
import net from 'node:net';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { channelValues, type LiveMessage, type LiveSheet } from '@prandel/core';
import { readPackage, unzip } from '@prandel/formats';
import { StandIns } from '@prandel/instruments';
import { LiveCar, liveSpec } from '@prandel/simulator';
import WebSocket from 'ws';
import { Api, freePort, questionOf, startServer, SETUP_CODE } from './application.ts';

// The whole database goes away in the middle of a pull, as when its machine restarts or its cable is out: every query fails.
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** A cable between server and database that can be pulled. */
class Cable {
  readonly #sockets = new Set<net.Socket>();
  readonly #server: net.Server;
  #in = true;

  constructor(host: string, port: number) {
    this.#server = net.createServer((near) => {
      if (!this.#in) return near.destroy();
      const far = net.connect({ host, port });
      for (const [from, to] of [
        [near, far],
        [far, near],
      ] as const) {
        this.#sockets.add(from);
        from.pipe(to);
        from.on('error', () => to.destroy());
        from.on('close', () => {
          this.#sockets.delete(from);
          to.destroy();
        });
      }
    });
  }

  async listen(): Promise<number> {
    await new Promise<void>((ready) => this.#server.listen(0, '127.0.0.1', ready));
    return (this.#server.address() as net.AddressInfo).port;
  }

  pull(): void {
    this.#in = false;
    for (const socket of this.#sockets) socket.destroy();
  }

  putIn(): void {
    this.#in = true;
  }

  close(): void {
    this.pull();
    this.#server.close();
  }
}

let cable: Cable;
let server: ChildProcess;
let exited: number | null = null;
let api: Api;
let standIns: StandIns;
let socket: WebSocket;
let bay = '';
let job = '';
let sheet: LiveSheet | null = null;

beforeAll(async () => {
  const url = process.env.AWAY_DATABASE_URL;
  if (!url) throw new Error('AWAY_DATABASE_URL is not set; run the tests with ./prandel test.');
  const there = new URL(url);
  cable = new Cable(there.hostname, Number(there.port));
  there.port = String(await cable.listen());
  const port = await freePort();
  api = new Api(`http://127.0.0.1:${port}`);
  server = await startServer(there.href, port);
  server.once('exit', (code) => (exited = code ?? 1));
  await api.ask('/first-start', {
    shop: 'Quillmoor Garage',
    name: 'Ines R.',
    email: 'away@quillmoor.example',
    setupCode: SETUP_CODE,
    password: 'two settle pulls',
  });
  standIns = new StandIns(new LiveCar(liveSpec(41), Date.UTC(2026, 10, 23, 8, 30)));
  const ports = await standIns.start();
  const at = (own: number) => ({ host: '127.0.0.1', port: own });
  const made = await api.ask<{ id: string }>('/bays', {
    label: 'Bay 1',
    rollers: { kind: 'inertia', rollerInertiaKgM2: 58 },
    instruments: { rollers: at(ports.rollers), weather: at(ports.weather), bus: at(ports.bus), aux: at(ports.aux) },
  });
  bay = made.id;
  const opened = await api.ask<{ id: string }>('/jobs', {
    title: 'Does it survive?',
    vehicle: { label: 'Tarn Vireo 1.8 roadster', engineToRollerRatio: 5.2 },
    bay: { label: 'Bay 1' },
    question: questionOf('Does it survive?', [{ setup: 'A', settle: 1, counted: 2 }]),
    setups: ['A', 'B'].map((id) => ({ id, label: id, changes: [], state: {} })),
    day: { abortLimits: [{ channel: 'oil_bar', warn: null, stop: 1.2, side: 'below' }] },
  });
  job = opened.id;
  socket = new WebSocket(`${api.base.replace('http', 'ws')}/api/live?bay=${bay}`, { headers: { cookie: api.cookie } });
  socket.on('message', (data: Buffer) => {
    const message = JSON.parse(data.toString()) as LiveMessage;
    if (message.kind === 'sheet') sheet = message.sheet;
  });
  await new Promise((open, failed) => socket.on('open', open).on('error', failed));
  await api.ask(`/bays/${bay}/actions`, { action: 'open-job', job });
  await api.ask(`/bays/${bay}/actions`, { action: 'start-round', setup: 'A' });
}, 120_000);

afterAll(async () => {
  socket?.close();
  await standIns?.stop();
  cable?.close();
  server?.kill('SIGTERM');
});

async function seen(what: string, is: (s: LiveSheet) => boolean): Promise<LiveSheet> {
  for (let i = 0; i < 600; i += 1) {
    if (exited !== null) throw new Error(`the server ended with ${exited}`);
    if (sheet && is(sheet)) return sheet;
    await pause(50);
  }
  throw new Error(`never ${what}: ${sheet?.state} ${sheet?.reasons.map((r) => JSON.stringify(r)).join('; ')}`);
}

test('a database that is gone for seconds costs no sample and no server: what happened meanwhile is stored when it is back', async () => {
  await seen('ready', (s) => s.state === 'ready');
  expect(standIns.car.press()).toBeNull();
  await seen('pulling', (s) => s.state === 'pulling' && (s.recording?.samples ?? 0) > 100);
  cable.pull();
  await seen('waiting', (s) => s.waiting > 200);
  const told = await fetch(`${api.base}/api/bays`, { headers: { cookie: api.cookie, connection: 'close' } });
  expect(told.status).toBe(503);
  const { detail } = (await told.json()) as { detail: string };
  expect(detail).toContain('The database does not answer');
  // Nobody knows that: what was asked for before it went away may be stored.
  expect(detail).not.toContain('nothing was stored');
  // The pull ends while nothing can be stored, and then some.
  await pause(12_000);
  expect(exited).toBeNull();
  // It has ended and is not stored: the sheet goes on saying so.
  expect(sheet!.recording).toBeNull();
  expect(sheet!.waiting).toBeGreaterThan(200);
  cable.putIn();
  await seen('in review', (s) => s.state === 'review' && s.waiting === 0);
  await api.ask(`/bays/${bay}/actions`, { action: 'keep' });
  const { job: now } = readPackage(await unzip(await api.ask<Buffer>(`/jobs/${job}/package`)));
  expect(now.pulls).toHaveLength(1);
  const time = channelValues(now.pulls[0]!, 'time_s')!;
  expect(time.length).toBeGreaterThan(700);
  for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
  // The bay goes on as if nothing had been.
  standIns.speed = 60;
  await seen('ready again', (s) => s.state === 'ready');
  standIns.speed = 1;
}, 120_000);
