import type { ChildProcess } from 'node:child_process';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { channelValues, type LiveMessage, type LiveSheet } from '@prandel/core';
import { readPackage, unzip } from '@prandel/formats';
import { StandIns } from '@prandel/instruments';
import { LiveCar, liveSpec } from '@prandel/simulator';
import WebSocket from 'ws';
import { Api, freePort, questionOf, startServer, SETUP_CODE } from './application.ts';

// Four bays on one server, each with twenty channels and more at 100 samples a second: nothing may be missing anywhere.
const BAYS = 4;
const EXTRA_CHANNELS = 17;
// Near an hour of pulls: fifty of some seventeen seconds in each of the four bays, `BAY_PULLS=50`; it takes under half an hour.
const PULLS = Number(process.env.BAY_PULLS ?? 2);
/** Heavier rollers make longer pulls, kg·m². */
const INERTIA = PULLS > 2 ? 120 : 58;

interface OneBay {
  readonly standIns: StandIns;
  readonly id: string;
  readonly job: string;
  readonly heard: LiveMessage[];
  /** When the first sheet of each review came, by pull; milliseconds of this process. */
  readonly reviewed: Map<string, number>;
  readonly socket: WebSocket;
}

let server: ChildProcess;
let api: Api;
const bays: OneBay[] = [];
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

const ask = <T>(path: string, body?: object) => api.ask<T>(path, body);

async function openBay(k: number): Promise<OneBay> {
  const spec = liveSpec(100 + k);
  const standIns = new StandIns(
    new LiveCar({ ...spec, bay: { ...spec.bay, rollerInertiaKgM2: INERTIA } }, Date.UTC(2026, 10, 23, 8, 30)),
    EXTRA_CHANNELS,
  );
  const ports = await standIns.start();
  const at = (port: number) => ({ host: '127.0.0.1', port });
  const { id } = await ask<{ id: string }>('/bays', {
    label: `Bay ${k + 1}`,
    rollers: { kind: 'inertia', rollerInertiaKgM2: INERTIA },
    instruments: { rollers: at(ports.rollers), weather: at(ports.weather), bus: at(ports.bus), aux: at(ports.aux) },
  });
  const setups = ['A', 'B'].map((letter) => ({ id: letter, label: letter, changes: [], state: {} }));
  const question = questionOf('x', [{ setup: 'A', settle: 1, counted: Math.max(3, PULLS) }]);
  const { id: job } = await ask<{ id: string }>('/jobs', {
    title: `Four at once, ${k + 1}`,
    vehicle: { label: 'Tarn Vireo 1.8 roadster', engineToRollerRatio: 5.2 },
    bay: { label: `Bay ${k + 1}` },
    question,
    setups,
    day: {},
  });
  const heard: LiveMessage[] = [];
  const reviewed = new Map<string, number>();
  const socket = new WebSocket(`${api.base.replace('http', 'ws')}/api/live?bay=${id}`, {
    headers: { cookie: api.cookie },
  });
  socket.on('message', (data: Buffer) => {
    const message = JSON.parse(data.toString()) as LiveMessage;
    const review = message.kind === 'sheet' ? message.sheet.review?.pullId : undefined;
    if (review !== undefined && !reviewed.has(review)) reviewed.set(review, performance.now());
    // Sheets come several times a second for as long as the test runs; only samples are looked at afterwards.
    if (message.kind === 'samples') heard.push(message);
  });
  await new Promise((open, failed) => socket.on('open', open).on('error', failed));
  await ask(`/bays/${id}/actions`, { action: 'open-job', job });
  await ask(`/bays/${id}/actions`, { action: 'start-round', setup: 'A' });
  return { standIns, id, job, heard, reviewed, socket };
}

beforeAll(async () => {
  const url = process.env.LOAD_DATABASE_URL;
  if (!url) throw new Error('LOAD_DATABASE_URL is not set; run the tests with ./prandel test.');
  const port = await freePort();
  api = new Api(`http://127.0.0.1:${port}`);
  server = await startServer(url, port);
  await ask('/first-start', {
    shop: 'Quillmoor Garage',
    name: 'Ines R.',
    email: 'four@quillmoor.example',
    setupCode: SETUP_CODE,
    password: 'two settle pulls',
  });
  for (let k = 0; k < BAYS; k += 1) bays.push(await openBay(k));
}, 120_000);

afterAll(async () => {
  for (const { socket, standIns } of bays) {
    socket.close();
    await standIns.stop();
  }
  server?.kill('SIGTERM');
});

/** The moment at which the throttle of a bay's car falls, which is when its driver stops the pull. */
async function lifted({ standIns: { car } }: OneBay): Promise<number> {
  while (car.moment().throttle < 0.9) await pause(5);
  while (car.moment().throttle >= 0.5) await pause(5);
  return performance.now();
}

/** When the screen was told of the findings of a pull: the channel may follow the answer to a question by a moment. */
async function reviewed(bay: OneBay, pull: string): Promise<number> {
  for (let i = 0; i < 600; i += 1) {
    const at = bay.reviewed.get(pull);
    if (at !== undefined) return at;
    await pause(20);
  }
  throw new Error(`${pull} was never shown in review`);
}

async function state(bay: OneBay, wanted: string): Promise<void> {
  for (let i = 0; i < 600; i += 1) {
    if ((await ask<LiveSheet>(`/bays/${bay.id}/sheet`)).state === wanted) return;
    await pause(50);
  }
  throw new Error(
    `never ${wanted}: ${(await ask<LiveSheet>(`/bays/${bay.id}/sheet`)).reasons.map((r) => JSON.stringify(r)).join('; ')}`,
  );
}

test(
  'four bays pull at once: every sample of every channel arrives once, in order, on screen and in the job',
  async () => {
    const findingsMs: number[] = [];
    for (let n = 0; n < PULLS; n += 1) {
      for (const bay of bays) {
        bay.standIns.speed = 60;
        await state(bay, 'ready');
        bay.standIns.speed = 1;
      }
      for (const bay of bays) expect(bay.standIns.car.press()).toBeNull();
      const stops = await Promise.all(bays.map((bay) => lifted(bay)));
      await Promise.all(bays.map((bay) => state(bay, 'review')));
      for (const [k, bay] of bays.entries()) findingsMs.push((await reviewed(bay, `A-${n + 1}`)) - stops[k]!);
      for (const bay of bays) await ask(`/bays/${bay.id}/actions`, { action: 'keep' });
    }
    const delays: number[] = [];
    let pulledS = 0;
    for (const bay of bays) {
      const { job } = readPackage(await unzip(await ask<Buffer>(`/jobs/${bay.job}/package`)));
      expect(job.pulls).toHaveLength(PULLS);
      for (const pull of job.pulls) {
        expect(pull.channels.length).toBeGreaterThan(20);
        const time = channelValues(pull, 'time_s')!;
        expect(time.length).toBeGreaterThan(700);
        pulledS += time.length / 100;
        for (let i = 1; i < time.length; i += 1) expect(Math.abs(time[i]! - time[i - 1]! - 0.01)).toBeLessThan(1e-6);
        for (const { name, values } of pull.channels) {
          expect(values).toHaveLength(time.length);
          if (name.startsWith('extra')) expect(values.some(Number.isNaN)).toBe(false);
        }
        // Seventeen channels that only differ by whole degrees: a column that slipped would show.
        const [zero, twelve] = [channelValues(pull, 'extra0_c')!, channelValues(pull, 'extra12_c')!];
        zero.forEach((v, i) => expect(twelve[i]! - v).toBeCloseTo(12, 6));
        const shown = bay.heard.flatMap((m) =>
          m.kind === 'samples' && m.pullId === pull.id ? m.rows.map((row, i) => [m.from + i, row[0]] as const) : [],
        );
        expect(shown.map(([place]) => place)).toEqual(Array.from(time, (_, i) => i));
        shown.forEach(([place, at]) => expect(at).toBe(time[place]));
      }
      for (const m of bay.heard) if (m.kind === 'samples') delays.push(m.rows.length);
    }
    // At 100 Hz a message of n rows kept its first one waiting for n hundredths of a second.
    delays.sort((a, b) => a - b);
    console.log(`${Math.round(pulledS / 60)} min of pulls, ${PULLS} in each of ${BAYS} bays`);
    const late = [...findingsMs].sort((a, b) => a - b);
    console.log(
      `from the lifted throttle to the findings on the channel: median ${Math.round(late[late.length >> 1]!)} ms, 95th ${Math.round(late[Math.floor(late.length * 0.95)]!)} ms, the last four ${findingsMs.slice(-4).map(Math.round).join(', ')} ms`,
    );
    console.log(
      `rows a message with four bays pulling: median ${delays[delays.length >> 1]}, 95th ${delays[Math.floor(delays.length * 0.95)]}`,
    );
  },
  PULLS * 75_000,
);
