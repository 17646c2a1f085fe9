import { mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

let made: string | null = null;

/**
 * A folder of this process's machine for what may be lost: uploads on their way in, and files that were read. PRANDEL_SCRATCH
 * names it; without one it is a folder of the system's own.
 */
export function scratchFolder(): string {
  const folder = process.env.PRANDEL_SCRATCH ?? join(tmpdir(), `prandel-${process.pid}`);
  if (made !== folder) {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    made = folder;
  }
  return folder;
}

export function scratchPath(name: string): string {
  return join(scratchFolder(), name);
}
