import { spawnSync } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { channelValues, type LiveSheet } from '@prandel/core';
import { readPackage, unzip } from '@prandel/formats';
import { StandIns } from '@prandel/instruments';
import { LiveCar, liveSpec } from '@prandel/simulator';
import { Api, questionOf } from './application.ts';
import { pause, Stack } from './stack.ts';

// The data folder lies on a small disk of its own, which is filled to the last byte in the middle of a pull.
const folder = mkdtempSync(join(tmpdir(), 'prandel-full-disk-'));
/** Only root may mount a disk; elsewhere this is skipped and says so. */
const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=500m', 'tmpfs', folder]).status === 0;
const stack = new Stack(folder);
let api: Api;
let standIns: StandIns;
let bay = '';
let job = '';

beforeAll(async () => {
  if (!mounted) return;
  await stack.start();
  api = new Api(stack.base);
  const person = { email: 'ines@quillmoor.example', password: 'two settle pulls', name: 'Ines R.' };
  await api.ask('/first-start', { ...person, shop: 'Quillmoor Garage', setupCode: stack.setupCode });
  standIns = new StandIns(new LiveCar(liveSpec(7), Date.UTC(2026, 10, 23, 8, 30)));
  const ports = await standIns.start();
  const at = (port: number) => ({ host: '127.0.0.1', port });
  const made = await api.ask<{ id: string }>('/bays', {
    label: 'Bay 1',
    rollers: { kind: 'inertia', rollerInertiaKgM2: 58 },
    instruments: { rollers: at(ports.rollers), weather: at(ports.weather), bus: at(ports.bus), aux: at(ports.aux) },
  });
  bay = made.id;
  const opened = await api.ask<{ id: string }>('/jobs', {
    title: 'Is there room?',
    vehicle: { label: 'Tarn Vireo 1.8 roadster', engineToRollerRatio: 5.2 },
    bay: { label: 'Bay 1' },
    question: questionOf('Is there room?', [{ setup: 'A', settle: 1, counted: 4 }]),
    setups: ['A', 'B'].map((id) => ({ id, label: id, changes: [], state: {} })),
  });
  job = opened.id;
  await api.ask(`/bays/${bay}/actions`, { action: 'open-job', job });
  await api.ask(`/bays/${bay}/actions`, { action: 'start-round', setup: 'A' });
}, 150_000);

afterAll(async () => {
  if (mounted) {
    await standIns?.stop();
    await stack.stop();
    spawnSync('umount', ['-l', folder]);
  }
  rmSync(folder, { recursive: true, force: true });
}, 60_000);

async function seen(what: string, is: (s: LiveSheet) => boolean): Promise<LiveSheet> {
  let last: LiveSheet | null = null;
  for (const until = Date.now() + 60_000; Date.now() < until; await pause(100)) {
    last = await api.ask<LiveSheet>(`/bays/${bay}/sheet`).catch(() => null);
    if (last && is(last)) return last;
  }
  throw new Error(`never ${what}: ${last?.state}, ${last?.waiting} waiting\n${stack.told.slice(-1500)}`);
}

/** Takes every byte that is left. @returns gives them back */
function fillDisk(): () => void {
  const path = join(folder, 'ballast');
  const file = openSync(path, 'w');
  for (let piece = Buffer.alloc(1_048_576); piece.length > 0;)
    try {
      if (writeSync(file, piece) === 0) break;
    } catch (error) {
      expect(error).toMatchObject({ code: 'ENOSPC' });
      piece = piece.subarray(0, piece.length >> 1);
    }
  closeSync(file);
  return () => rmSync(path);
}

describe('a disk that is really full', () => {
  (mounted ? test : test.skip)(
    'imports are refused, the pull goes on in memory, and all of it is stored once there is space',
    async () => {
      await seen('ready', (s) => s.state === 'ready');
      expect(standIns.car.press()).toBeNull();
      await seen('pulling', (s) => (s.recording?.samples ?? 0) > 100);
      const giveBack = fillDisk();
      await seen('waiting', (s) => s.waiting > 200);
      const form = new FormData();
      form.append('files', new Blob(['Time (s),RPM,Power (kW)\r\n0,2000,40\r\n']), 'pull.csv');
      // In one piece: a form in pieces can find the connection closed behind the answer.
      const whole = new Response(form);
      const refused = await fetch(`${stack.base}/api/jobs/${job}/staged-files`, {
        method: 'POST',
        headers: {
          ...{ cookie: api.cookie, connection: 'close' },
          'content-type': whole.headers.get('content-type')!,
        },
        body: await whole.arrayBuffer(),
      });
      expect(refused.status).toBe(507);
      await refused.arrayBuffer();
      await pause(9000);
      giveBack();
      await seen('stored', (s) => s.waiting === 0 && s.recording === null);
      await stack.untilHealthy();
      const { job: now } = readPackage(await unzip(await api.ask<Buffer>(`/jobs/${job}/package`)));
      expect(now.pulls).toHaveLength(1);
      const [pull] = now.pulls;
      expect(pull!.status).toBe('settle');
      const time = channelValues(pull!, 'time_s')!;
      expect(time.length).toBeGreaterThan(700);
      for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
    },
    180_000,
  );
});
