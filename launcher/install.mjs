import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { ROOT, run } from './run.mjs';
import { OperatorError } from './operatorError.mjs';

const ROOMS = ['core', 'formats', 'simulator', 'instruments', 'presentation', 'cli', 'server', 'web'];
const stampFile = (name) => join(ROOT, '.prandel', `${name}.stamp`);

/** Installs the npm packages once per lock file. */
export async function ensurePackages() {
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
  if (existsSync(join(ROOT, 'node_modules', '.package-lock.json')) && read(stampFile('packages')) === lock) return;
  console.error('Installing npm packages (once, one to two minutes) …');
  const { code, output } = await run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { quiet: true });
  if (code !== 0) throw new OperatorError(`npm ci failed:\n${output.trim().split('\n').slice(-12).join('\n')}`);
  write(stampFile('packages'), lock);
}

/** Builds what changed since the last build. */
export async function ensureBuilt({ web }) {
  const digest = sourceDigest();
  const name = web ? 'built-web' : 'built';
  if (read(stampFile(name)) === digest && existsSync(join(ROOT, 'cli/dist/main.js'))) return;
  console.error('Building …');
  const types = await run(
    process.execPath,
    ['node_modules/typescript-7/bin/tsc', '-b', ...(web ? ['server', 'cli', 'instruments'] : ['cli'])],
    { quiet: true },
  );
  if (types.code !== 0) throw new OperatorError(`The build failed:\n${types.output}`);
  if (web) {
    const [pages, server] = await Promise.all([
      run(process.execPath, ['../node_modules/vite/bin/vite.js', 'build', '--logLevel', 'warn'], {
        quiet: true,
        cwd: join(ROOT, 'web'),
      }),
      run(process.execPath, ['launcher/bundleServer.mjs'], { quiet: true }),
    ]);
    if (pages.code !== 0) throw new OperatorError(`The build of the pages failed:\n${pages.output}`);
    if (server.code !== 0) throw new OperatorError(`The build of the server failed:\n${server.output}`);
  }
  write(stampFile(name), digest);
}

function sourceDigest() {
  const hash = createHash('sha256');
  const visit = (folder) => {
    for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
      if (['node_modules', 'dist'].includes(entry.name)) continue;
      const path = join(folder, entry.name);
      if (entry.isDirectory()) visit(path);
      else {
        const { size, mtimeMs } = statSync(path);
        hash.update(`${path} ${size} ${mtimeMs}\n`);
      }
    }
  };
  for (const room of ROOMS) visit(join(ROOT, room));
  return hash.digest('hex');
}

function read(path) {
  return existsSync(path) ? readFileSync(path, 'utf8') : null;
}

function write(path, text) {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, text);
}

/** Installs Debian packages as root or through sudo, or says in one sentence what to install. */
export async function ensureDebian(packages, why) {
  const present = await run('dpkg-query', ['-W', '-f', '${Status}\n', ...packages], { quiet: true }).catch(() => null);
  const installed = present?.output.split('\n').filter((line) => line.includes('ok installed')).length ?? 0;
  if (present && installed >= packages.length) return;
  const advice = `${why} needs ${packages.join(' and ')}: install ${packages.length > 1 ? 'them' : 'it'} with "apt-get install ${packages.join(' ')}" as root and start again.`;
  const root = process.getuid?.() === 0;
  const sudo = !root && (await run('sudo', ['-n', 'true'], { quiet: true }).catch(() => ({ code: 1 }))).code === 0;
  if (!root && !sudo) throw new OperatorError(advice);
  console.log(`Installing ${packages.join(', ')} from Debian (once) …`);
  const apt = (args) => {
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    return root
      ? run('apt-get', args, { quiet: true, env })
      : run('sudo', ['-n', 'env', 'DEBIAN_FRONTEND=noninteractive', 'apt-get', ...args], { quiet: true });
  };
  const options = ['install', '-y', '--no-install-recommends', '-o', 'DPkg::Lock::Timeout=120', ...packages];
  let result = await apt(options).catch(() => ({ code: 1, output: 'apt-get is not here' }));
  if (result.code !== 0) {
    await apt(['update', '-q']).catch(() => null);
    result = await apt(options).catch(() => ({ code: 1, output: 'apt-get is not here' }));
  }
  if (result.code !== 0) throw new OperatorError(`${advice}\n${result.output.trim().split('\n').slice(-4).join('\n')}`);
}
