import { once } from 'node:events';
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { freePort } from './postgres.mjs';
import { ROOT } from './run.mjs';

/** The running application that the benches measure. */
export const pause = (ms) => new Promise((done) => setTimeout(done, ms));
export const now = () => performance.now();

export async function startApplication(folder) {
  const port = await freePort();
  const child = spawn(join(ROOT, 'prandel'), ['start', '--port', String(port), '--data', join(folder, 'data')]);
  let told = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (piece) => (told += piece));
  for (let k = 0; k < 1200 && !told.includes('Ctrl-C stops'); k += 1) await pause(100);
  const app = {
    ...session(`http://127.0.0.1:${port}`),
    launcher: child.pid,
    told: () => told,
    async stop() {
      child.kill('SIGTERM');
      await once(child, 'exit');
    },
  };
  await app.ask('POST', '/first-start', {
    ...{ shop: 'Bench', name: 'Bench', email: 'bench@quillmoor.example', password: 'two settle pulls' },
    setupCode: /set-up code: (\S+)/.exec(told)[1],
  });
  return app;
}

/** Somebody who asks the application; the cookie of the first answer that sets one is kept. */
export function session(base) {
  return {
    base,
    cookie: '',
    async ask(method, path, body, signal) {
      const form = body instanceof FormData;
      const answer = await fetch(`${base}/api${path}`, {
        method,
        headers: { cookie: this.cookie, ...(body && !form ? { 'content-type': 'application/json' } : {}) },
        ...(body ? { body: form ? body : JSON.stringify(body) } : {}),
        ...(signal ? { signal } : {}),
      });
      this.cookie ||= answer.headers.get('set-cookie')?.split(';')[0] ?? '';
      if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
      return answer.status === 204 ? null : answer.json();
    },
  };
}

const SETUPS = ['A', 'B'].map((id) => ({ id, label: id, changes: [], state: {} }));

export async function newJob(app, title, day) {
  const { id } = await app.ask('POST', '/jobs', {
    title,
    vehicle: { label: 'Tarn Vireo', engineToRollerRatio: 5.2 },
    bay: { label: 'Bay 1', rollerInertiaKgM2: 58 },
    question: {
      text: title,
      baselineSetup: 'A',
      candidateSetups: ['B'],
      measures: [{ id: 'windowMeanPower', meaningful: 1 }],
      windowRpm: [3000, 6500],
      partChangesIntakeTemperature: false,
      plan: [{ setup: 'A', settle: 1, counted: 40 }],
    },
    setups: SETUPS,
    ...(day ? { day } : {}),
  });
  return id;
}

export function percentile(list, share) {
  const sorted = [...list].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? NaN;
}

export const LIGHT = '/session';

/** Milliseconds that light requests take, one every 40 ms, until `over`. */
export async function lightRequests(app, over) {
  const taken = [];
  while (!over()) {
    const from = now();
    await app.ask('GET', LIGHT);
    taken.push(now() - from);
    await pause(Math.max(0, 40 - taken.at(-1)));
  }
  return taken;
}
