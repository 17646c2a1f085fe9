import { spawn } from 'node:child_process';
import { createWriteStream, mkdtempSync, openAsBlob, readdirSync, readFileSync, rmSync } from 'node:fs';
import net from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { once } from 'node:events';
import { ensureBuilt, ensurePackages } from './install.mjs';
import { freePort } from './postgres.mjs';
import { ROOT } from './run.mjs';

const LARGE_MB = Number(process.env.PRANDEL_BENCH_MB ?? 190);
const pause = (ms) => new Promise((done) => setTimeout(done, ms));
const now = () => performance.now();

/** Measures the running application on this machine, in a folder of its own, and prints what it measured. Never a gate. */
export async function serverBench() {
  await ensurePackages();
  await ensureBuilt({ web: true });
  const folder = mkdtempSync(join(tmpdir(), 'prandel-bench-'));
  const app = await startApplication(folder);
  try {
    const bay = await startBay(app);
    await largeImport(app, bay, folder);
    await manyFiles(app);
    await coldList(app);
    bay.close();
  } catch (error) {
    console.error(app.told());
    throw error;
  } finally {
    await app.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

export async function startApplication(folder) {
  const port = await freePort();
  const child = spawn(join(ROOT, 'prandel'), ['start', '--port', String(port), '--data', join(folder, 'data')]);
  let told = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (piece) => (told += piece));
  for (let k = 0; k < 1200 && !told.includes('Ctrl-C stops'); k += 1) await pause(100);
  const app = {
    base: `http://127.0.0.1:${port}`,
    cookie: '',
    launcher: child.pid,
    told: () => told,
    async ask(method, path, body, signal) {
      const form = body instanceof FormData;
      const answer = await fetch(`${app.base}/api${path}`, {
        method,
        headers: { cookie: app.cookie, ...(body && !form ? { 'content-type': 'application/json' } : {}) },
        ...(body ? { body: form ? body : JSON.stringify(body) } : {}),
        ...(signal ? { signal } : {}),
      });
      app.cookie ||= answer.headers.get('set-cookie')?.split(';')[0] ?? '';
      if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
      return answer.status === 204 ? null : answer.json();
    },
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

const SETUPS = ['A', 'B'].map((id) => ({ id, label: id, changes: '', state: {} }));

async function newJob(app, title, day) {
  const { id } = await app.ask('POST', '/jobs', {
    title,
    vehicle: { label: 'Tarn Vireo', engineToRollerRatio: 5.2 },
    bay: { label: 'Bay 1', rollerInertiaKgM2: 58 },
    question: {
      text: title,
      baselineSetup: 'A',
      candidateSetups: ['B'],
      measure: 'windowMeanPower',
      windowRpm: [3000, 6500],
      meaningfulGainPercent: 1,
      partChangesIntakeTemperature: false,
      plan: [{ setup: 'A', settle: 1, counted: 40 }],
    },
    setups: SETUPS,
    ...(day ? { day } : {}),
  });
  return id;
}

/** A bay whose rollers speak at 100 Hz on 20 channels from this process; a sweep can be begun, an oil pressure can fall. */
async function startBay(app) {
  const { rollerLine } = await import('../formats/dist/index.js');
  const { default: WebSocket } = await import('ws');
  const state = { pulling: false, omega: 0, oil: 3, sent: 0 };
  const sockets = new Set();
  const rollers = net.createServer((socket) => {
    sockets.add(socket);
    socket.on('error', () => undefined);
    socket.on('close', () => sockets.delete(socket));
  });
  rollers.listen(0, '127.0.0.1');
  await once(rollers, 'listening');
  const started = now();
  const origin = Date.now();
  let told = 0;
  const timer = setInterval(() => {
    for (; told * 10 < now() - started; told += 1) {
      state.omega = state.pulling ? Math.max(35, state.omega + 0.05) : Math.max(0, state.omega - 1);
      if (state.pulling) state.sent += 1;
      const more = Object.fromEntries(Array.from({ length: 16 }, (_, k) => [`extra${k}_c`, 20 + k]));
      const channels = {
        engine_rpm: 50 * state.omega,
        roller_rad_s: state.omega,
        throttle_fraction: state.pulling ? 1 : 0,
      };
      const line = rollerLine(origin + told * 10, { ...channels, oil_bar: state.oil, ...more });
      for (const socket of sockets) socket.write(`${line}\n`);
    }
  }, 10);
  const { id } = await app.ask('POST', '/bays', {
    label: 'Bay 1',
    rollers: { kind: 'inertia', rollerInertiaKgM2: 58 },
    instruments: { rollers: { host: '127.0.0.1', port: rollers.address().port }, weather: null, bus: null, aux: null },
  });
  const job = await newJob(app, 'Bench in the bay', {
    abortLimits: [{ channel: 'oil_bar', warn: null, stop: 1.2, side: 'below' }],
  });
  await app.ask('POST', `/bays/${id}/actions`, { action: 'open-job', job });
  await app.ask('POST', `/bays/${id}/actions`, { action: 'start-round', setup: 'A' });
  const socket = new WebSocket(`${app.base.replace('http', 'ws')}/api/live?bay=${id}`, {
    headers: { cookie: app.cookie },
  });
  let sheet = null;
  socket.on('message', (data) => {
    const message = JSON.parse(data.toString());
    if (message.kind === 'sheet') sheet = message.sheet;
  });
  await once(socket, 'open');
  return {
    ...{ state, job, id },
    get sheet() {
      return sheet;
    },
    async until(is, ms = 60_000) {
      const from = now();
      while (!(sheet && is(sheet))) {
        if (now() - from > ms) throw new Error(`the bay never came there: ${sheet?.state}`);
        await pause(5);
      }
      return now() - from;
    },
    close() {
      clearInterval(timer);
      socket.terminate();
      for (const one of sockets) one.destroy();
      rollers.close();
    },
  };
}

export function percentile(list, share) {
  const sorted = [...list].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? NaN;
}

const LIGHT = '/session';

/** Milliseconds that light requests take, one every 40 ms, until `over`. */
async function lightRequests(app, over) {
  const taken = [];
  while (!over()) {
    const from = now();
    await app.ask('GET', LIGHT);
    taken.push(now() - from);
    await pause(Math.max(0, 40 - taken.at(-1)));
  }
  return taken;
}

/** Writes a long pull as CSV. @returns its path */
async function largeFile(folder, megabytes) {
  const path = join(folder, 'large.csv');
  const out = createWriteStream(path);
  out.write('Time (s),RPM,Power (kW),Torque (Nm),IAT (C),ECT (C),Oil (C),Boost (kPa),Lambda,Ignition\r\n');
  const bytes = megabytes * 1e6;
  let written = 0;
  for (let i = 0; written < bytes;) {
    const lines = [];
    for (let k = 0; k < 5000; k += 1, i += 1) {
      const w = Math.sin(i / 50);
      lines.push(
        [
          i / 1000,
          2000 + (i % 1_900_000) / 380,
          90 + w,
          120 - w,
          30 + w / 9,
          90 + w / 7,
          95 + w / 8,
          150 + w,
          0.9 + w / 99,
          20 + w,
        ]
          .map((v) => v.toFixed(5))
          .join(','),
      );
    }
    const piece = `${lines.join('\r\n')}\r\n`;
    written += piece.length;
    if (!out.write(piece)) await once(out, 'drain');
  }
  out.end();
  await once(out, 'close');
  return path;
}

/** Seconds of a bare parse of the same bytes by the usual CSV library, in a process of its own. */
async function bareParse(path) {
  const child = spawn(process.execPath, [
    '--max-old-space-size=8000',
    '-e',
    `const Papa=require(${JSON.stringify(join(ROOT, 'node_modules/papaparse/papaparse.js'))});const t=require('fs').readFileSync(${JSON.stringify(path)},'utf8');
     const a=performance.now();let n=0;Papa.parse(t,{delimiter:',',step:()=>{n+=1}});console.log((performance.now()-a)/1000)`,
  ]);
  let out = '';
  child.stdout.on('data', (piece) => (out += piece));
  await once(child, 'exit');
  return Number(out);
}

/** Highest resident memory of the application's server processes so far, MB. */
function peakMemory(launcher) {
  const peaks = {};
  for (const name of readdirSync('/proc').filter((n) => /^\d+$/.test(n)))
    try {
      const status = readFileSync(`/proc/${name}/status`, 'utf8');
      if (!new RegExp(`^PPid:\\t${launcher}$`, 'm').test(status)) continue;
      const kind = /PRANDEL_PROCESS=(\w+)/.exec(readFileSync(`/proc/${name}/environ`, 'utf8'))?.[1];
      if (kind) peaks[kind] = Math.round(Number(/VmHWM:\s+(\d+)/.exec(status)[1]) / 1024);
    } catch {
      // It ended meanwhile.
    }
  return peaks;
}

async function largeImport(app, bay, folder) {
  const path = await largeFile(folder, LARGE_MB);
  const idle = await lightRequests(
    app,
    (() => {
      const end = now() + 3000;
      return () => now() > end;
    })(),
  );
  const job = await newJob(app, 'Bench import');
  await bay.until((s) => s.state === 'ready');
  let done = false;
  const form = new FormData();
  form.append('files', await openAsBlob(path), 'large.csv');
  const from = now();
  const working = (async () => {
    const [file] = await app.ask('POST', `/jobs/${job}/staged-files`, form);
    const staged = now();
    await app.ask('POST', `/jobs/${job}/imports`, {
      ...{ fileIds: [file.id], setupId: 'A', settle: 0, numberState: { kind: 'uncorrected' } },
      columns: file.columns.map(({ role, unit }) => ({ role, unit })),
    });
    return { stagedS: (staged - from) / 1000, allS: (now() - from) / 1000 };
  })().finally(() => (done = true));
  const busy = lightRequests(app, () => done);
  // A pull in the bay, and a limit that is crossed in it, while all this goes on.
  bay.state.pulling = true;
  await bay.until((s) => (s.recording?.samples ?? 0) > 300);
  bay.state.oil = 0.5;
  const stopMs = await bay.until((s) => s.state === 'stop');
  bay.state.pulling = false;
  bay.state.oil = 3;
  const sent = bay.state.sent;
  await bay.until((s) => s.recording === null && s.waiting === 0 && s.round?.pulls.length > 0);
  const { stagedS, allS } = await working;
  const taken = await busy;
  const answer = await fetch(`${app.base}/api/jobs/${bay.job}/channels`, { headers: { cookie: app.cookie } });
  const head = Buffer.from(await answer.arrayBuffer());
  const index = JSON.parse(head.subarray(4, 4 + head.readUInt32LE(0)).toString());
  const stored = index[0]?.length ?? 0;
  const bare = await bareParse(path);
  const peak = peakMemory(app.launcher);
  console.log(
    `large import: ${LARGE_MB} MB staged in ${stagedS.toFixed(1)} s, imported after ${allS.toFixed(1)} s; a bare CSV parse of the same bytes takes ${bare.toFixed(1)} s: ${(bare / allS).toFixed(2)} × for upload, reading, storing and mapping together`,
  );
  console.log(
    `light requests (GET ${LIGHT}) meanwhile: median ${percentile(taken, 0.5).toFixed(0)} ms, 95th percentile ${percentile(taken, 0.95).toFixed(0)} ms, slowest ${percentile(taken, 1).toFixed(0)} ms; idle ${percentile(idle, 0.5).toFixed(0)} and ${percentile(idle, 0.95).toFixed(0)} ms`,
  );
  console.log(
    `the bay meanwhile: ${stored} samples stored of ${sent} sent at full throttle and what is around them, STOP on the screen ${stopMs.toFixed(0)} ms after the limit was crossed`,
  );
  console.log(`peak memory: pages ${peak.pages} MB, bays ${peak.bays} MB`);
}

async function manyFiles(app) {
  const rows = Array.from({ length: 1700 }, (_, i) =>
    [i / 100, 2000 + i * 2.5, 60 + i / 50, 150 - i / 100, 30, 90, 95, 150].map((v) => v.toFixed(4)).join(','),
  );
  const form = new FormData();
  let bytes = 0;
  for (let k = 0; k < 200; k += 1) {
    const text = `# ${k}\r\nTime (s),RPM,Power (kW),Torque (Nm),IAT (C),ECT (C),Oil (C),Boost (kPa)\r\n${rows.map((r) => r.replace(/^[\d.]+,(\d+)/, (all, rpm) => all.replace(rpm, String(Number(rpm) + k)))).join('\r\n')}`;
    bytes += text.length;
    form.append('files', new Blob([text]), `pull-${k}.csv`);
  }
  const job = await newJob(app, 'Bench of many files');
  let done = false;
  const light = lightRequests(app, () => done);
  const marks = [now()];
  try {
    const files = await app.ask('POST', `/jobs/${job}/staged-files`, form);
    marks.push(now());
    const columns = files[0].columns.map(({ role, unit }) => ({ role, unit }));
    const fileIds = files.map((f) => f.id);
    await app.ask('POST', `/jobs/${job}/import-preview`, { fileIds, columns });
    marks.push(now());
    const numberState = { kind: 'uncorrected' };
    await app.ask('POST', `/jobs/${job}/imports`, { fileIds, setupId: 'A', settle: 2, columns, numberState });
    marks.push(now());
  } finally {
    done = true;
  }
  const [from, staged, previewed, all] = marks;
  const s = (a, b) => ((b - a) / 1000).toFixed(1);
  console.log(
    `200 files of ${Math.round(bytes / 200_000)} kB: staged in ${s(from, staged)} s, previewed in ${s(staged, previewed)} s, imported in ${s(previewed, all)} s, ${s(from, all)} s in all; light requests meanwhile 95th percentile ${percentile(await light, 0.95).toFixed(0)} ms`,
  );
}

async function coldList(app) {
  const { simulateDay, DEMO_DAYS } = await import('../simulator/dist/index.js');
  const { writePackage, zip } = await import('../formats/dist/index.js');
  const packed = await zip(writePackage(simulateDay(DEMO_DAYS[0])));
  for (let k = 0; k < 50; k += 1) {
    const form = new FormData();
    form.append('file', new Blob([packed]), 'day.zip');
    await app.ask('POST', '/packages', form);
  }
  const from = now();
  const first = await app.ask('GET', '/jobs');
  const cold = now() - from;
  const pending = first.jobs.filter((j) => j.state === 'pending').length;
  let settled;
  for (;;) {
    const page = await app.ask('GET', '/jobs');
    settled = now() - from;
    if (page.jobs.every((j) => j.state !== 'pending')) break;
    await pause(100);
  }
  const one = [];
  for (let k = 0; k < 60; k += 1) {
    const at = now();
    await app.ask('GET', '/jobs');
    one.push(now() - at);
  }
  const many = [];
  await Promise.all(
    Array.from({ length: 50 }, async (_, person) => {
      await pause(person * 20);
      for (let k = 0; k < 10; k += 1) {
        const at = now();
        await app.ask('GET', '/jobs');
        many.push(now() - at);
        await pause(1000 - Math.min(900, now() - at));
      }
    }),
  );
  console.log(
    `a list of 50 jobs never judged before: answered in ${cold.toFixed(0)} ms with ${50 - pending} verdicts and ${pending} being worked out, all of them known after ${(settled / 1000).toFixed(1)} s`,
  );
  const [a, b] = [percentile(one, 0.95), percentile(many, 0.95)];
  console.log(
    `50 people who look at a list once a second: 95th percentile ${b.toFixed(0)} ms, ${(b / a).toFixed(1)} × that of one (${a.toFixed(0)} ms)`,
  );
}
