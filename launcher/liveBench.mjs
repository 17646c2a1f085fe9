import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import net from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { newJob, now, pause, percentile, session, startApplication } from './benchApp.mjs';
import { ensureBuilt, ensurePackages } from './install.mjs';
import { ROOT, run } from './run.mjs';

const HZ = 100;
const PULL_S = 15;
const SCREENS = 20;
/** A shop has at most 24 bays. */
const A_SHOP = 22;
const PASSWORD = 'two settle pulls';
const FRAME_MS = 1000 / 60;

/**
 * Every bay pulls at once, at 100 Hz on twenty channels; twenty screens watch. Prints what was lost and how old a sample is when it
 * reaches a screen. The rollers and the screens are this process, on the same processors.
 */
export async function liveBench(counts) {
  await ensurePackages();
  await ensureBuilt({ web: true });
  for (const bays of counts) {
    const folder = mkdtempSync(join(tmpdir(), 'prandel-bench-'));
    const app = await startApplication(folder);
    try {
      await measure(app, folder, bays);
    } catch (error) {
      console.error(app.told());
      throw error;
    } finally {
      await app.stop();
      rmSync(folder, { recursive: true, force: true });
    }
  }
}

async function measure(app, folder, count) {
  const { default: WebSocket } = await import('ws');
  const rollers = await startRollers();
  const bays = [];
  for (let shop = 0; bays.length < count; shop += 1) {
    const own = shop === 0 ? app : await anotherShop(app, folder, shop);
    for (let k = 0; k < A_SHOP && bays.length < count; k += 1) {
      const { id } = await own.ask('POST', '/bays', {
        label: `Bay ${k + 1}`,
        rollers: { kind: 'inertia', rollerInertiaKgM2: 58 },
        instruments: { rollers: { host: '127.0.0.1', port: rollers.port }, weather: null, bus: null, aux: null },
      });
      const job = await newJob(own, `Bench of bay ${k + 1}`);
      await own.ask('POST', `/bays/${id}/actions`, { action: 'open-job', job });
      await own.ask('POST', `/bays/${id}/actions`, { action: 'start-round', setup: 'A' });
      bays.push({ id, job, own });
    }
  }
  const ages = [];
  const screens = bays.slice(-SCREENS).map(({ id, own }) => {
    const socket = new WebSocket(`${own.base.replace('http', 'ws')}/api/live?bay=${id}`, {
      headers: { cookie: own.cookie },
    });
    socket.on('message', (data) => {
      const message = JSON.parse(data.toString());
      if (message.kind !== 'samples') return;
      const sent = message.names.indexOf('sent_s');
      for (const row of message.rows) ages.push(now() - 1000 * row[sent]);
    });
    return socket;
  });
  await Promise.all(screens.map((s) => once(s, 'open')));
  while (rollers.connected < count) await pause(20);
  await pause(2000);
  rollers.pull();
  await pause(2000);
  // What was recorded before the throttle came is sent at once and is as old as that.
  ages.length = 0;
  const cpu = process.cpuUsage();
  await pause((PULL_S - 2) * 1000);
  const { user, system } = process.cpuUsage(cpu);
  const taken = [...ages];
  const sent = rollers.lift();
  const stored = [];
  for (const { own, job } of bays) {
    let pulls = [];
    for (let k = 0; k < 600 && pulls.length === 0; k += 1) {
      pulls = (await own.ask('GET', `/jobs/${job}`)).job.pulls;
      if (pulls.length === 0) await pause(50);
    }
    stored.push(pulls[0] ? await samplesOf(own, job) : 0);
  }
  for (const s of screens) s.terminate();
  rollers.close();
  const whole = stored.filter((n) => n >= sent).length;
  const [half, most] = [percentile(taken, 0.5), percentile(taken, 0.95)];
  console.log(
    `${count} bays pulling at ${HZ} Hz on ${rollers.channels} channels for ${PULL_S} s, ${screens.length} screens: ${whole} of ${count} pulls whole (${sent} samples at full throttle each, ${Math.min(...stored)} or more stored); a sample reaches a screen after ${half.toFixed(0)} ms, 95th percentile ${most.toFixed(0)} ms (${(most / FRAME_MS).toFixed(1)} frames), and is painted within a frame of it; rollers and screens took ${((user + system) / 1e4 / (PULL_S - 2)).toFixed(0)} % of a processor`,
  );
}

/** Full-throttle samples of the job's one pull, from its channels as they are stored. */
async function samplesOf(own, job) {
  const answer = await fetch(`${own.base}/api/jobs/${job}/channels`, { headers: { cookie: own.cookie } });
  if (!answer.ok) throw new Error(`channels: ${answer.status} ${await answer.text()}`);
  const bytes = Buffer.from(await answer.arrayBuffer());
  let at = 4 + bytes.readUInt32LE(0);
  for (const { name, length } of JSON.parse(bytes.subarray(4, at).toString())) {
    if (name === 'throttle_fraction')
      return Array.from({ length }, (_, i) => bytes.readDoubleLE(at + 8 * i)).filter((v) => v === 1).length;
    at += 8 * length;
  }
  return 0;
}

/** A shop with an owner of its own on the same server. */
async function anotherShop(app, folder, k) {
  const email = `bench${k}@quillmoor.example`;
  const { output } = await run(
    join(ROOT, 'prandel'),
    ['shop', 'add', `Bench ${k}`, '--owner', email, '--data', join(folder, 'data')],
    { quiet: true },
  );
  const secret = /join#(\S+)/.exec(output)?.[1];
  if (!secret) throw new Error(output);
  const own = session(app.base);
  await own.ask('POST', '/links/use', { secret, name: 'Bench', password: PASSWORD });
  return own;
}

/** The rollers of every bay, on one port: the same line to whoever listens. */
async function startRollers() {
  const { rollerLine } = await import('../formats/dist/index.js');
  const sockets = new Set();
  const server = net.createServer((socket) => {
    socket.setNoDelay(true);
    sockets.add(socket);
    socket.on('error', () => undefined);
    socket.on('close', () => sockets.delete(socket));
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const more = Object.fromEntries(Array.from({ length: 16 }, (_, k) => [`extra${k}_c`, 20 + k]));
  const [started, origin] = [now(), Date.now()];
  let [told, pulling, omega, sent] = [0, false, 0, 0];
  const timer = setInterval(() => {
    for (; (told * 1000) / HZ < now() - started; told += 1) {
      omega = pulling ? Math.max(35, omega + 0.05) : Math.max(0, omega - 1);
      if (pulling) sent += 1;
      const channels = { engine_rpm: 50 * omega, roller_rad_s: omega, throttle_fraction: pulling ? 1 : 0 };
      const line = `${rollerLine(origin + (told * 1000) / HZ, { ...channels, sent_s: now() / 1000, ...more })}\n`;
      for (const socket of sockets) socket.write(line);
    }
  }, 1000 / HZ);
  return {
    channels: 20,
    port: server.address().port,
    get connected() {
      return sockets.size;
    },
    pull() {
      pulling = true;
    },
    /** @returns samples that were sent at full throttle */
    lift() {
      pulling = false;
      return sent;
    },
    close() {
      clearInterval(timer);
      for (const one of sockets) one.destroy();
      server.close();
    },
  };
}
