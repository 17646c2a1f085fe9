import { once } from 'node:events';
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { freePort } from './postgres.mjs';
import { ROOT } from './run.mjs';

/** The running application that the benches measure. */
export const pause = (ms) => new Promise((done) => setTimeout(done, ms));
export const now = () => performance.now();

/** Starts the application with an empty shop, or the demo, and signs in. */
export async function startApplication(folder, demo = false) {
  const port = await freePort();
  const child = spawn(join(ROOT, 'prandel'), [
    demo ? 'demo' : 'start',
    '--port',
    String(port),
    '--data',
    join(folder, 'data'),
  ]);
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
  if (demo) {
    const { DEMO_SHOP } = await import('../simulator/dist/index.js');
    await app.ask('POST', '/session', { email: DEMO_SHOP.email, password: DEMO_SHOP.password });
    return app;
  }
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

const TIMES = 80;

/** Middle and 95th percentile of the time that something takes, ms; the first ones find cold caches and unplanned statements. */
export async function timed(work) {
  const taken = [];
  for (let k = 0; k < TIMES + 10; k += 1) {
    const from = now();
    await work();
    if (k >= 10) taken.push(now() - from);
  }
  return { p50: percentile(taken, 0.5), p95: percentile(taken, 0.95) };
}

export const ms = (value) => `${value.toFixed(1)} ms`.padStart(8);

/** Prints how long each request takes, beside a bare indexed lookup. @param asked paths by name */
export async function printAsked(app, bare, asked) {
  console.log(`  ${'bare indexed lookup'.padEnd(38)} p50 ${ms(bare.p50)}  p95 ${ms(bare.p95)}`);
  const ratio = (of, anchor) => `${(of / anchor).toFixed(1)}×`.padStart(6);
  for (const [name, path] of Object.entries(asked)) {
    const { p50, p95 } = await timed(() => app.ask('GET', path()));
    console.log(
      `  ${name.padEnd(38)} p50 ${ms(p50)}  p95 ${ms(p95)}   ${ratio(p50, bare.p50)} ${ratio(p95, bare.p95)} the bare lookup`,
    );
  }
}

/** A connection to the application's own database, as its owner. */
export async function databaseOf(folder) {
  const { default: pg } = await import('pg');
  const data = join(folder, 'data');
  const port = Number(readFileSync(join(data, 'postgres.port'), 'utf8'));
  const password = readFileSync(join(data, 'postgres.secret'), 'utf8').trim();
  const client = new pg.Client({ host: '127.0.0.1', port, user: 'postgres', password, database: 'prandel' });
  await client.connect();
  return client;
}

/** The anchor of lists: one job by its id over one open connection, under row-level security. */
export async function bareLookup(client, shopId, job) {
  await client.query('SET ROLE prandel_app');
  await client.query(`SELECT set_config('prandel.shop', $1, false)`, [shopId]);
  return timed(() => client.query('SELECT title FROM jobs WHERE id = $1', [job()]));
}
