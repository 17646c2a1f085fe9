import { fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { closeSync, existsSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { startCluster } from './cluster.mjs';
import { ensureBuilt, ensurePackages } from './install.mjs';
import { migrate, migrateIfNeeded } from './migrate.mjs';
import { freePort } from './postgres.mjs';
import { ROOT } from './run.mjs';
import { supervise } from './supervise.mjs';
import { OperatorError } from './operatorError.mjs';
import { keyFolder, unprivilegedUser } from './unprivileged.mjs';

/**
 * Installs what is missing and starts the database, the process of the bays and the process of the pages; restarts whichever stops
 * by itself, and stops all of them on Ctrl-C. Heavy work in the pages' process cannot reach the bays.
 */
export async function serve(demo, args) {
  const wanted = options(demo, args);
  const { port, host, folder } = wanted;
  await refuseTakenPort(port, host);
  await ensurePackages();
  await ensureBuilt({ web: true });
  const unlock = lockFolder(folder);
  /** What runs, in the order in which it was started. */
  const running = [];
  let stopping = null;
  const stop = () => {
    stopping ??= (async () => {
      for (const one of running.reverse()) await one.stop();
      unlock();
    })();
    return stopping;
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
    process.on(signal, () => {
      console.log('\nStopping …');
      void stop().then(() => process.exit(0));
    });
  emptyFolders(folder);
  const user = await unprivilegedUser(folder);
  // They load their code while the database starts.
  const early = ['bays', 'pages'].map((kind) => loadServer(kind, user));
  try {
    const urls = await database(folder, running);
    const env = await serverEnvironment(wanted, urls, demo, running);
    const baysPort = await freePort();
    const bays = { ...env, PRANDEL_PROCESS: 'bays', PORT: String(baysPort), HOST: '127.0.0.1' };
    const pages = {
      ...env,
      PRANDEL_PROCESS: 'pages',
      PRANDEL_BAYS: `http://127.0.0.1:${baysPort}`,
      PORT: String(port),
      HOST: host,
    };
    // Side by side, on whatever processors there are; the pages say so as long as the bays are not there.
    const started = await Promise.allSettled([
      supervise('The bays’ process', () => startServer(bays, early.shift() ?? loadServer('bays', user))),
      supervise('The server', () => startServer(pages, early.shift() ?? loadServer('pages', user))),
    ]);
    for (const { value } of started) if (value) running.push(value);
    for (const { status, reason } of started) if (status === 'rejected') throw reason;
    if (stopping) return;
    console.log(`\nPrandel is ready: http://${host === '0.0.0.0' ? 'localhost' : host}:${port}`);
    if (demo) await greetDemo(folder);
    else await greetFirstStart(port, env.PRANDEL_SETUP_TOKEN);
    console.log('Ctrl-C stops everything.');
  } catch (error) {
    for (const child of early) child.kill('SIGKILL');
    await stop();
    throw error;
  }
}

/** The operator's database, or a cluster of our own; its schema is brought up to date first. */
export async function database(folder, running) {
  if (process.env.DATABASE_URL) {
    const ownerUrl = process.env.DATABASE_OWNER_URL ?? process.env.DATABASE_URL;
    await migrate({ ownerUrl, withRoles: false });
    return { DATABASE_URL: process.env.DATABASE_URL };
  }
  const cluster = await startCluster(folder);
  running.push(cluster);
  await migrateIfNeeded({ ownerUrl: cluster.url, folder });
  return { DATABASE_URL: cluster.appUrl };
}

/** Folders that the servers write to; what lies in scratch belongs to requests of an earlier run. */
export function emptyFolders(folder) {
  rmSync(join(folder, 'scratch'), { recursive: true, force: true });
  for (const name of ['scratch', 'log']) mkdirSync(join(folder, name), { recursive: true });
  mkdirSync(keyFolder(folder), { recursive: true, mode: 0o700 });
}

export async function serverEnvironment({ folder, trustProxy, allowHosts, deviceNetworks }, urls, demo, running) {
  const inherited = { ...process.env };
  delete inherited.DATABASE_OWNER_URL;
  return {
    ...inherited,
    ...urls,
    NODE_ENV: 'production',
    PRANDEL_DEMO: demo ? '1' : '0',
    PRANDEL_DEMO_YEARS: demo ? (process.env.PRANDEL_DEMO_YEARS ?? '1') : '0',
    PRANDEL_DATA: folder,
    PRANDEL_SCRATCH: join(folder, 'scratch'),
    PRANDEL_LOG: join(folder, 'log'),
    PRANDEL_KEYS: keyFolder(folder),
    PRANDEL_SETUP_TOKEN: randomBytes(12).toString('base64url'),
    ...(trustProxy ? { PRANDEL_TRUST_PROXY: trustProxy } : {}),
    ...(allowHosts ? { PRANDEL_ALLOW_HOSTS: allowHosts } : {}),
    ...(deviceNetworks ? { PRANDEL_DEVICE_NETWORKS: deviceNetworks } : {}),
    ...(demo ? await startStandIns(running) : {}),
  };
}

/** A server process that loads its code and waits to be told what it is. It ends by itself when this process is gone. */
function loadServer(kind, user) {
  const env = { ...process.env, PRANDEL_WAITS: '1', PRANDEL_PROCESS: kind, NODE_ENV: 'production' };
  delete env.DATABASE_OWNER_URL;
  // A group of its own: Ctrl-C reaches it through this process only, in its turn.
  return fork(join(ROOT, 'server/dist/bundle/main.js'), { env, detached: true, ...(user ?? {}) });
}

/** Tells a loaded server process what it is. @returns the child once it listens */
function startServer(env, child) {
  return new Promise((ready, failed) => {
    const onExit = (code, signal) =>
      failed(
        new OperatorError(`It stopped before it was ready (${signal ?? `code ${code}`}). Its last words stand above.`),
      );
    if (child.exitCode !== null || child.signalCode !== null) return onExit(child.exitCode, child.signalCode);
    child.once('exit', onExit);
    child.send(env, (error) => error && onExit(null, error.message));
    child.once('message', () => {
      child.off('exit', onExit);
      ready(child);
    });
  });
}

async function greetDemo(folder) {
  const { DEMO_SHOP } = await import('../simulator/dist/index.js');
  const samples = await writeSamples(folder);
  console.log(`Sign in as ${DEMO_SHOP.email} with the password "${DEMO_SHOP.password}".`);
  console.log(`As a technician or a viewer: ${DEMO_SHOP.others.map((o) => o.email).join(', ')}, the same password.`);
  console.log(`Pull files to try an import with: ${samples}`);
  console.log(
    `Files as foreign rollers write them, to try a watched folder: ./prandel stand-in ${join(folder, 'watched')}`,
  );
}

/** A fresh server may only be claimed by who can read this terminal. */
async function greetFirstStart(port, token) {
  const answer = await fetch(`http://127.0.0.1:${port}/api/status`, { headers: { connection: 'close' } }).catch(
    () => null,
  );
  const status = answer?.ok ? await answer.json() : null;
  if (status?.firstStart) console.log(`This is a first start. Set up the shop with this set-up code: ${token}`);
}

/** The demo's instruments: a simulated car on loopback ports of their own. @returns what the server must know of them */
async function startStandIns(running) {
  const child = fork(join(ROOT, 'instruments/dist/main.js'), { detached: true });
  running.push({
    stop: async () => {
      child.kill('SIGTERM');
    },
  });
  const { ports, bench } = await new Promise((ready, failed) => {
    child.once('message', ready);
    child.once('exit', (code) =>
      failed(new OperatorError(`The stand-in instruments stopped before they were ready (code ${code}).`)),
    );
  });
  return { PRANDEL_STAND_INS: JSON.stringify(ports), PRANDEL_BENCH: `http://127.0.0.1:${bench}` };
}

function options(demo, args) {
  try {
    const { values } = parseArgs({
      args,
      options: {
        port: { type: 'string' },
        host: { type: 'string' },
        data: { type: 'string' },
        'trust-proxy': { type: 'string' },
        'allow-host': { type: 'string', multiple: true },
        'device-network': { type: 'string', multiple: true },
      },
    });
    const port = Number(values.port ?? 4870);
    if (!Number.isInteger(port) || port < 1 || port > 65535) throw new Error(`--port ${values.port} is no port number`);
    return {
      port,
      host: values.host ?? '127.0.0.1',
      folder: resolve(values.data ?? join(ROOT, '.prandel', demo ? 'demo' : 'data')),
      trustProxy: values['trust-proxy'] ?? null,
      allowHosts: values['allow-host']?.join(',') ?? null,
      deviceNetworks: values['device-network']?.join(',') ?? null,
    };
  } catch (error) {
    throw new OperatorError(
      `${error.message}. Options are --port N, --host H, --data DIR, --trust-proxy N, --allow-host NAME and --device-network CIDR.`,
    );
  }
}

async function refuseTakenPort(port, host) {
  await new Promise((free, taken) => {
    const probe = net.createServer();
    probe.once('error', (error) =>
      taken(
        new OperatorError(
          error.code === 'EADDRINUSE'
            ? `Port ${port} is taken by another program. Start with --port N and a free number.`
            : `Port ${port} cannot be used: ${error.message}`,
        ),
      ),
    );
    probe.listen(port, host, () => probe.close(free));
  });
}

/** One run per data folder; the lock of a run that was killed is taken over. */
export function lockFolder(folder) {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, 'running.pid');
  if (existsSync(path)) {
    const pid = Number(readFileSync(path, 'utf8'));
    if (pid && pid !== process.pid && isAlive(pid))
      throw new OperatorError(
        `Prandel already runs with this data folder (process ${pid}). Stop it, or name another folder with --data DIR.`,
      );
    rmSync(path);
  }
  closeSync(openSync(path, 'wx'));
  writeFileSync(path, String(process.pid));
  return () => rmSync(path, { force: true });
}

function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('launcher');
  } catch {
    return false;
  }
}

/** CSV files of a made-up day, so that a newcomer has something to import. */
async function writeSamples(folder) {
  const { sampleCsvFiles } = await import('../simulator/dist/index.js');
  const target = join(folder, 'sample-pulls');
  if (!existsSync(target)) {
    mkdirSync(target, { recursive: true });
    for (const [name, text] of sampleCsvFiles()) writeFileSync(join(target, name), text);
  }
  return target;
}
