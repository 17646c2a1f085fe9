import { spawn } from 'node:child_process';
import { chmodSync, chownSync, closeSync, existsSync, openSync, readdirSync, readFileSync, statSync } from 'node:fs';
import net from 'node:net';
import { dirname, join } from 'node:path';
import { run } from './run.mjs';
import { OperatorError } from './operatorError.mjs';

const BASE = '/usr/lib/postgresql';
const READY_MS = 120_000;

/** Versions of Debian's PostgreSQL server programs that are installed, newest first. */
export function installedVersions() {
  const versions = existsSync(BASE) ? readdirSync(BASE).filter((v) => existsSync(join(BASE, v, 'bin/postgres'))) : [];
  return versions.sort((a, b) => Number(b) - Number(a));
}

export function programsOf(version) {
  return join(BASE, version, 'bin');
}

/** The server must not run as root: Debian's postgres user runs it then. @returns null where this is no root */
export async function serverUser() {
  if (process.getuid?.() !== 0) return null;
  const id = async (flag) => Number((await run('id', [flag, 'postgres'], { quiet: true })).output.trim());
  const user = { uid: await id('-u'), gid: await id('-g') };
  if (!Number.isInteger(user.uid) || user.uid === 0)
    throw new OperatorError('There is no user "postgres" to run the database as; install Debian’s package postgresql.');
  return user;
}

/** Makes every folder above a path traversable for a user without rights of its own. */
export function makeTraversable(folder) {
  for (let at = folder; at !== '/'; at = dirname(at))
    if ((statSync(at).mode & 0o001) === 0) chmodSync(at, statSync(at).mode | 0o001);
}

/** Runs one of PostgreSQL's programs as the user that owns the data. */
export function programAs(bin, user) {
  return (program, args, options = {}) =>
    user
      ? run('setpriv', [`--reuid=${user.uid}`, `--regid=${user.gid}`, '--init-groups', join(bin, program), ...args], {
          quiet: true,
          cwd: '/',
          ...options,
        })
      : run(join(bin, program), args, { quiet: true, cwd: '/', ...options });
}

export async function freePort() {
  return new Promise((resolve, reject) => {
    const probe = net.createServer();
    probe.once('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address();
      probe.close(() => resolve(port));
    });
  });
}

/**
 * Starts PostgreSQL as a child of this process. The kernel stops it when this process dies, however it dies, so that no server
 * is left behind.
 * @returns the child once it takes connections
 */
export async function startPostgres({ bin, user, data, port, log, settings = [] }) {
  const as = programAs(bin, user);
  const who = user ? [`--reuid=${user.uid}`, `--regid=${user.gid}`, '--init-groups'] : [];
  const options = ['listen_addresses=127.0.0.1', `port=${port}`, 'unix_socket_directories=', ...settings];
  const out = openSync(log, 'a');
  if (user) chownSync(log, user.uid, user.gid);
  const child = spawn(
    'setpriv',
    [...who, '--pdeathsig', 'INT', join(bin, 'postgres'), '-D', data, ...options.flatMap((o) => ['-c', o])],
    // A group of its own, so that Ctrl-C reaches it only through its parent, after the servers.
    { cwd: '/', stdio: ['ignore', out, out], detached: true },
  );
  closeSync(out);
  let ended = null;
  child.once('exit', (code, signal) => (ended = signal ?? `code ${code}`));
  child.once('error', (error) => (ended = error.message));
  const until = Date.now() + READY_MS;
  while (Date.now() < until) {
    if (ended !== null) throw new OperatorError(`The database in ${data} did not start (${ended}): ${lastWords(log)}`);
    const { code } = await as('pg_isready', ['-q', '-h', '127.0.0.1', '-p', String(port)]);
    if (code === 0) return child;
    await new Promise((again) => setTimeout(again, 60));
  }
  child.kill('SIGINT');
  throw new OperatorError(`The database in ${data} did not answer within ${READY_MS / 1000} s: ${lastWords(log)}`);
}

function lastWords(log) {
  return readFileSync(log, 'utf8').trim().split('\n').at(-1) ?? '';
}

/** Stops the server that a killed run of an older version left behind in this very data folder. */
export async function stopLeftover(as, data) {
  const pidFile = join(data, 'postmaster.pid');
  // One whose parent was killed is on its way out.
  for (let k = 0; k < 50 && existsSync(pidFile); k += 1) {
    if ((await as('pg_ctl', ['-D', data, 'status'])).code !== 0) return;
    if (k === 20) await as('pg_ctl', ['-D', data, '-m', 'fast', '-W', 'stop']);
    await new Promise((again) => setTimeout(again, 200));
  }
  if (existsSync(pidFile)) throw new OperatorError(`Another run still uses the data folder ${data}; stop it first.`);
}
