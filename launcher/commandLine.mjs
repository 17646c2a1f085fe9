import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt, ensurePackages } from './install.mjs';
import { ROOT } from './run.mjs';

/** Runs judge, read or bench in the folder where it was called. @returns exit code */
export async function commandLine(command, args) {
  await ensurePackages();
  await ensureBuilt({ web: false });
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [join(ROOT, 'cli/dist/main.js'), command, ...args], { stdio: 'inherit' });
    child.on('error', reject);
    child.on('close', (code) => resolve(code ?? 1));
  });
}
