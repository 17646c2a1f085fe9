import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { channelValues, type LiveMessage, type LiveSheet } from '@prandel/core';
import { readPackage, unzip } from '@prandel/formats';
import { StandIns } from '@prandel/instruments';
import { LiveCar, liveSpec } from '@prandel/simulator';
import { By, type WebDriver } from 'selenium-webdriver';
import WebSocket from 'ws';
import { Api, questionOf } from './application.ts';
import { fill, openBrowser, PATIENCE, press, see } from './browser.ts';
import { pause, Stack } from './stack.ts';

// Processes are killed at random points of a fast day. Every sample that a screen was shown must be stored, as it was shown.
/** FAULT_SEEDS asks for more than CI runs. */
const SEEDS = Number(process.env.FAULT_SEEDS ?? 8);
const folder = mkdtempSync(join(tmpdir(), 'prandel-faults-'));
const stack = new Stack(folder);
const PERSON = { email: 'ines@quillmoor.example', password: 'two settle pulls' };

let api: Api;
let standIns: StandIns;
let driver: WebDriver;
let bay = '';
let job = '';
let sheet: LiveSheet | null = null;
/** Rows that a screen was shown, by pull and place, with the names of their channels. */
const shown = new Map<string, { names: readonly string[]; rows: Map<number, readonly (number | null)[]> }>();
let listening = true;
let since = -1;

/** A screen that comes back by itself, from the last number it saw. */
function listen(): void {
  const from = since < 0 ? '' : `&since=${since}`;
  const socket = new WebSocket(`${stack.base.replace('http', 'ws')}/api/live?bay=${bay}${from}`, {
    headers: { cookie: api.cookie },
  });
  socket.on('message', (data: Buffer) => {
    const message = JSON.parse(data.toString()) as LiveMessage;
    since = message.seq;
    if (message.kind === 'sheet') sheet = message.sheet;
    else {
      const pull = shown.get(message.pullId) ?? { names: message.names, rows: new Map() };
      message.rows.forEach((row, i) => pull.rows.set(message.from + i, row));
      shown.set(message.pullId, pull);
    }
  });
  socket.on('error', () => undefined);
  socket.on('close', () => {
    sheet = null;
    // Another process begins to count anew.
    since = -1;
    if (listening) setTimeout(listen, 100);
  });
}

async function seen(what: string, is: (s: LiveSheet) => boolean, ms = 60_000): Promise<LiveSheet> {
  for (const until = Date.now() + ms; Date.now() < until;) {
    if (sheet && is(sheet)) return sheet;
    await pause(30);
  }
  throw new Error(
    `never ${what}: ${sheet?.state} ${sheet?.reasons.map((r) => JSON.stringify(r)).join('; ')}\n${stack.told.slice(-1500)}`,
  );
}

async function floorIt(speed: number): Promise<void> {
  standIns.speed = 90;
  for (let k = 0; k < 600; k += 1) {
    if (sheet && sheet.state !== 'pulling' && sheet.recording === null) {
      if (sheet.state === 'review') await api.ask(`/bays/${bay}/actions`, { action: 'keep' }).catch(() => undefined);
      if (standIns.car.press() === null) break;
    }
    await pause(50);
  }
  standIns.speed = speed;
}

async function stored() {
  const { job: now } = readPackage(await unzip(await api.ask<Buffer>(`/jobs/${job}/package`)));
  return now.pulls;
}

/** Holds everything that was shown against what is stored. @returns how many samples were compared */
async function compareShown(): Promise<number> {
  const pulls = new Map((await stored()).map((p) => [p.id, p]));
  let compared = 0;
  for (const [id, { names, rows }] of shown) {
    const pull = pulls.get(id);
    if (!pull) throw new Error(`pull ${id} was shown with ${rows.size} samples and is not stored`);
    const columns = names.map((name) => channelValues(pull, name)!);
    for (const [at, row] of rows) {
      for (const [c, value] of row.entries()) {
        const kept = columns[c]![at];
        if (kept === undefined || (value === null ? !Number.isNaN(kept) : kept !== value))
          throw new Error(`pull ${id}, row ${at}, ${names[c]}: ${value} was shown, ${kept} is stored`);
      }
      compared += 1;
    }
  }
  return compared;
}

beforeAll(async () => {
  await stack.start();
  api = new Api(stack.base);
  await api.ask('/first-start', { ...PERSON, shop: 'Quillmoor Garage', name: 'Ines R.', setupCode: stack.setupCode });
  standIns = new StandIns(new LiveCar(liveSpec(7), Date.UTC(2026, 10, 23, 8, 30)));
  const ports = await standIns.start();
  const at = (own: number) => ({ host: '127.0.0.1', port: own });
  bay = (
    await api.ask<{ id: string }>('/bays', {
      label: 'Bay 1',
      rollers: { kind: 'inertia', rollerInertiaKgM2: 58 },
      instruments: { rollers: at(ports.rollers), weather: at(ports.weather), bus: at(ports.bus), aux: at(ports.aux) },
    })
  ).id;
  job = (
    await api.ask<{ id: string }>('/jobs', {
      title: 'Does it survive?',
      vehicle: { label: 'Tarn Vireo 1.8 roadster', engineToRollerRatio: 5.2 },
      bay: { label: 'Bay 1' },
      question: questionOf('Does it survive?', [{ setup: 'A', settle: 1, counted: 40 }]),
      setups: ['A', 'B'].map((id) => ({ id, label: id, changes: [], state: {} })),
    })
  ).id;
  await api.ask(`/bays/${bay}/actions`, { action: 'open-job', job });
  await api.ask(`/bays/${bay}/actions`, { action: 'start-round', setup: 'A' });
  listen();
}, 150_000);

afterAll(async () => {
  listening = false;
  await driver?.quit();
  await standIns?.stop();
  await stack.stop();
  rmSync(folder, { recursive: true, force: true });
}, 60_000);

/** A CSV of some tens of megabytes: half a minute of work for a slow machine. */
function large(rows: number): string {
  const lines = ['Time (s),RPM,Power (kW),Torque (Nm),Boost (kPa)'];
  for (let i = 0; i < rows; i += 1)
    lines.push(
      `${(i / 1000).toFixed(3)},${(2000 + (5000 * i) / rows).toFixed(3)},${(90 + Math.sin(i / 9)).toFixed(4)},${(120 + Math.cos(i / 9)).toFixed(4)},${(150 + (i % 13) / 7).toFixed(4)}`,
    );
  return lines.join('\r\n');
}

async function stageLarge(text: string): Promise<number> {
  const form = new FormData();
  form.append('files', new Blob([text]), 'long.csv');
  const answer = await fetch(`${stack.base}/api/jobs/${job}/staged-files`, {
    method: 'POST',
    headers: { cookie: api.cookie, connection: 'close' },
    body: form,
  });
  await answer.arrayBuffer();
  return answer.status;
}

describe('the day goes on', () => {
  test('database, then the bays’ process, are killed in mid-pull while a large import runs; the screen comes back', async () => {
    driver = await openBrowser();
    await driver.get(`${stack.base}/sign-in`);
    await fill(driver, 'E-mail', PERSON.email);
    await fill(driver, 'Password', PERSON.password);
    await press(driver, 'Sign in');
    await see(driver, 'Needs you next');
    await driver.get(`${stack.base}/bays/${bay}`);
    const state = () =>
      driver
        .findElement(By.css('.state'))
        .getAttribute('data-state')
        .catch(() => '');
    await driver.wait(async () => (await state()) === 'ready', PATIENCE);

    const file = large(600_000);
    const importing = stageLarge(file).catch(() => 0);
    await floorIt(1);
    await seen('pulling', (s) => (s.recording?.samples ?? 0) > 150);
    process.kill(stack.database, 'SIGKILL');
    // On a busy machine the ten seconds of review may be over before anybody looks.
    const done = ['review', 'cooling', 'hold', 'ready'];
    await driver.wait(async () => done.includes((await state()) ?? ''), PATIENCE);
    expect(stack.told).toContain('The database stopped by itself (SIGKILL)');
    const first = (await stored()).at(-1)!;
    expect(first.status).not.toBe('set-aside');
    const time = channelValues(first, 'time_s')!;
    expect(time.length).toBeGreaterThan(700);
    for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);

    const again = stageLarge(file);
    await floorIt(1);
    await seen('pulling', (s) => (s.recording?.samples ?? 0) > 150);
    process.kill(stack.server('bays'), 'SIGKILL');
    await see(driver, 'No line to the server.');
    await driver.wait(async () => (await driver.findElements(By.css('.bay-lost'))).length === 0, PATIENCE);
    standIns.car.release();
    // The pages went on meanwhile: their import was neither cut off nor slowed by it.
    expect(await again).toBe(201);
    await importing;
    await seen('back', (s) => s.state !== 'pulling');
    const all = await stored();
    const [cut, ...rest] = all.slice(all.findIndex((p) => p.id === first.id) + 1);
    const marked = (mark: string) => ({ status: 'set-aside', marks: expect.arrayContaining([mark]) as unknown });
    expect(cut).toMatchObject(marked('The server stopped in the middle of this pull.'));
    // If the car was still pulling when the bay listened again, that part is no pull that counts.
    for (const part of rest) expect(part).toMatchObject(marked('The bay began to listen in the middle of this pull.'));
    await floorIt(6);
    // "Ready" is what the screen still says before the pull is seen.
    await seen('pulling again', (s) => s.recording !== null);
    await seen('stored', (s) => s.recording === null && s.waiting === 0);
    await driver.wait(async () => done.includes((await state()) ?? ''), PATIENCE);
    expect(await compareShown()).toBeGreaterThan(1000);
  }, 240_000);

  test('a stall of 5 s of the bays’ process, made on purpose, cuts no pull', async () => {
    await floorIt(1);
    await seen('pulling', (s) => (s.recording?.samples ?? 0) > 100);
    const before = (await stored()).length;
    const pid = stack.server('bays');
    process.kill(pid, 'SIGSTOP');
    await pause(5000);
    process.kill(pid, 'SIGCONT');
    await seen('in review', (s) => s.state === 'review');
    const pull = (await stored()).slice(before)[0]!;
    expect((pull.marks ?? []).join()).not.toMatch(/cable|server|listen/);
    const time = channelValues(pull, 'time_s')!;
    expect(time.length).toBeGreaterThan(700);
    for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
  }, 120_000);

  test(`whatever is killed, and whenever, nothing that was shown is lost (${SEEDS} seeds)`, async () => {
    let state = 77;
    const random = () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
    const done: string[] = [];
    for (let seed = 0; seed < SEEDS; seed += 1) {
      const victim = (['bays', 'pages', 'database', 'bays', 'database', 'launcher'] as const)[
        Math.floor(random() * 6)
      ]!;
      const after = 150 + random() * 2600;
      // The car's own clock: a bay that was started again and has heard nothing yet tells this machine's time.
      const before = standIns.car.bench.atMs;
      await floorIt(4);
      await pause(after);
      if (victim === 'launcher') {
        expect(await stack.killLauncher()).toEqual([]);
        await stack.start();
      } else process.kill(victim === 'database' ? stack.database : stack.server(victim), 'SIGKILL');
      done.push(`${victim} after ${after.toFixed(0)} ms`);
      await stack.untilHealthy();
      standIns.car.release();
      await seen(
        'at rest',
        (s) => s.state !== 'pulling' && s.recording === null && s.waiting === 0 && s.atMs >= before,
      );
      // A pull whose rows are committed may still be tried to be closed.
      for (const until = Date.now() + 20_000; ;) {
        const lost = await compareShown().then(
          () => null,
          (error: Error) => error,
        );
        if (!lost) break;
        if (Date.now() > until) throw new Error(`${lost.message}\n${done.join('\n')}`);
        await pause(200);
      }
    }
    expect(done).toHaveLength(SEEDS);
    const keys = (await stored()).map((p) => p.id);
    expect(new Set(keys).size).toBe(keys.length);
    expect(await compareShown()).toBeGreaterThan(SEEDS * 30);
    const log = await api.ask<{ broken: null }>(`/jobs/${job}/log`);
    expect(log.broken).toBeNull();
  }, 600_000);
});
