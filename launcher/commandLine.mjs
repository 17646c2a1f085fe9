import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt, ensurePackages } from './install.mjs';
import { ROOT } from './run.mjs';

/** Runs judge, read, watch or bench in the folder where it was called; what stops this stops it. @returns exit code */
export async function commandLine(command, args) {
  await ensurePackages();
  await ensureBuilt({ web: false });
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [join(ROOT, 'cli/dist/main.js'), command, ...args], { stdio: 'inherit' });
    for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
    child.on('error', reject);
    child.on('close', (code) => resolve(code ?? 1));
  });
}
