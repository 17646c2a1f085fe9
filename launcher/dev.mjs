import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt, ensurePackages } from './install.mjs';
import { freePort } from './postgres.mjs';
import { ROOT } from './run.mjs';
import { database, emptyFolders, lockFolder, serverEnvironment } from './serve.mjs';

const PORT = 4870;

/**
 * The demo shop for who changes the code: TypeScript is built as it is saved, the server starts again with it, pages are served by
 * Vite with the API behind them. A new migration is applied at the next start.
 */
export async function dev() {
  await ensurePackages();
  await ensureBuilt({ web: true });
  const folder = join(ROOT, '.prandel', 'dev');
  const unlock = lockFolder(folder);
  const running = [];
  const children = [];
  const stop = async () => {
    // Groups of their own: the compiler's wrapper would leave its native watcher behind.
    for (const child of children) if (child.exitCode === null) process.kill(-child.pid, 'SIGTERM');
    for (const one of running.reverse()) await one.stop();
    unlock();
    process.exit(0);
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop());
  const start = (args, env = process.env, cwd = ROOT) => {
    const child = spawn(process.execPath, args, { cwd, env, stdio: ['ignore', 'inherit', 'inherit'], detached: true });
    children.push(child);
  };
  emptyFolders(folder);
  const urls = await database(folder, running);
  const apiPort = await freePort();
  const wanted = { folder, trustProxy: null, allowHosts: null, deviceNetworks: null };
  const env = await serverEnvironment(wanted, urls, true, running);
  start(['node_modules/typescript-7/bin/tsc', '-b', '-w', '--preserveWatchOutput', 'server', 'instruments']);
  start(['--watch', '--watch-preserve-output', 'server/dist/main.js'], {
    ...env,
    PORT: String(apiPort),
    HOST: '127.0.0.1',
  });
  start(
    ['../node_modules/vite/bin/vite.js', '--port', String(PORT), '--strictPort', '--host', '127.0.0.1'],
    { ...process.env, PRANDEL_DEV_API: `http://127.0.0.1:${apiPort}` },
    join(ROOT, 'web'),
  );
  const { DEMO_SHOP } = await import('../simulator/dist/index.js');
  console.log(
    `Pages: http://127.0.0.1:${PORT}, sign in as ${DEMO_SHOP.email} with "${DEMO_SHOP.password}". Ctrl-C stops everything.`,
  );
}
