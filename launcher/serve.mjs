import { fork } from 'node:child_process';
import { closeSync, existsSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { startCluster } from './cluster.mjs';
import { ensureBuilt, ensurePackages } from './install.mjs';
import { ROOT } from './run.mjs';
import { Trouble } from './trouble.mjs';

/** Installs what is missing, starts database and server, and stops both on Ctrl-C. */
export async function serve(demo, args) {
  const { port, host, folder } = options(demo, args);
  await refuseTakenPort(port, host);
  await ensurePackages();
  await ensureBuilt({ web: true });
  const unlock = lockFolder(folder);
  let cluster = null;
  let server = null;
  let standIns = null;
  let stopping = null;
  const stop = (code) => {
    stopping ??= (async () => {
      if (server && server.exitCode === null && server.signalCode === null)
        await new Promise((done) => {
          server.once('exit', done);
          server.kill('SIGTERM');
          setTimeout(() => server.kill('SIGKILL'), 5000).unref();
        });
      standIns?.kill('SIGTERM');
      await cluster?.stop();
      unlock();
      process.exit(code);
    })();
    return stopping;
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
    process.on(signal, () => {
      console.log('\nStopping …');
      void stop(0);
    });
  try {
    if (!process.env.DATABASE_URL) cluster = await startCluster(folder);
    const bench = demo ? await startStandIns((child) => (standIns = child)) : {};
    server = fork(join(ROOT, 'server/dist/main.js'), {
      env: {
        ...process.env,
        DATABASE_URL: process.env.DATABASE_URL ?? cluster.url,
        PORT: String(port),
        HOST: host,
        PRANDEL_DEMO: demo ? '1' : '0',
        NODE_ENV: 'production',
        ...bench,
      },
    });
    await new Promise((ready, failed) => {
      server.once('message', ready);
      server.once('exit', (code) =>
        failed(new Trouble(`The server stopped before it was ready (code ${code}). Its last words stand above.`)),
      );
    });
  } catch (error) {
    standIns?.kill('SIGTERM');
    await cluster?.stop();
    unlock();
    throw error;
  }
  server.once('exit', (code) => {
    if (!stopping) {
      console.error(`The server stopped by itself (code ${code}).`);
      void stop(1);
    }
  });
  console.log(`\nPrandel is ready: http://${host === '0.0.0.0' ? 'localhost' : host}:${port}`);
  if (demo) {
    const { DEMO_SHOP } = await import('../simulator/dist/index.js');
    const samples = await writeSamples(folder);
    console.log(`Sign in as ${DEMO_SHOP.email} with the password "${DEMO_SHOP.password}".`);
    console.log(`Pull files to try an import with: ${samples}`);
  }
  console.log('Ctrl-C stops everything.');
}

/** The demo's instruments: a simulated car on loopback ports of their own. @returns what the server must know of them */
async function startStandIns(started) {
  const child = fork(join(ROOT, 'instruments/dist/main.js'));
  started(child);
  const { ports, bench } = await new Promise((ready, failed) => {
    child.once('message', ready);
    child.once('exit', (code) =>
      failed(new Trouble(`The stand-in instruments stopped before they were ready (code ${code}).`)),
    );
  });
  return { PRANDEL_STAND_INS: JSON.stringify(ports), PRANDEL_BENCH: `http://127.0.0.1:${bench}` };
}

function options(demo, args) {
  try {
    const { values } = parseArgs({
      args,
      options: { port: { type: 'string' }, host: { type: 'string' }, data: { type: 'string' } },
    });
    const port = Number(values.port ?? 4870);
    if (!Number.isInteger(port) || port < 1 || port > 65535) throw new Error(`--port ${values.port} is no port number`);
    return {
      port,
      host: values.host ?? '127.0.0.1',
      folder: resolve(values.data ?? join(ROOT, '.prandel', demo ? 'demo' : 'data')),
    };
  } catch (error) {
    throw new Trouble(`${error.message}. Options are --port N, --host H and --data DIR.`);
  }
}

async function refuseTakenPort(port, host) {
  await new Promise((free, taken) => {
    const probe = net.createServer();
    probe.once('error', (error) =>
      taken(
        new Trouble(
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
function lockFolder(folder) {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, 'running.pid');
  if (existsSync(path)) {
    const pid = Number(readFileSync(path, 'utf8'));
    if (pid && pid !== process.pid && isAlive(pid))
      throw new Trouble(
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
