import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import net from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { lightRequests, newJob, now, pause, percentile, startApplication } from './benchApp.mjs';
import { dayOfFiles, largeImport } from './importBench.mjs';
import { ensureBuilt, ensurePackages } from './install.mjs';

/** Measures the running application on this machine, in a folder of its own, and prints what it measured. Never a gate. */
export async function serverBench() {
  await ensurePackages();
  await ensureBuilt({ web: true });
  const folder = mkdtempSync(join(tmpdir(), 'prandel-bench-'));
  const app = await startApplication(folder);
  try {
    const bay = await startBay(app);
    await largeImport(app, bay, folder);
    await dayOfFiles(app, folder);
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
