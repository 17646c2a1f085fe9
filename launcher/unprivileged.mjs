import { chownSync, mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { makeTraversable } from './postgres.mjs';
import { ROOT, run } from './run.mjs';

const NOBODY = { uid: 65_534, gid: 65_534 };

/** Where the keys lie under which shops seal: outside the database, and where the operator says. */
export const keyFolder = (folder) => process.env.PRANDEL_KEYS ?? join(folder, 'keys');

/**
 * The user under whom the servers run when Prandel is started as root: one that owns nothing. Where that user cannot read the
 * program the servers run as root, and a line says so.
 * @returns null where the servers run as the user who started them
 */
export async function unprivilegedUser(folder) {
  if (process.getuid?.() !== 0) return null;
  makeTraversable(ROOT);
  const { code } = await run(
    'setpriv',
    [
      ...[`--reuid=${NOBODY.uid}`, `--regid=${NOBODY.gid}`, '--clear-groups'],
      ...[
        process.execPath,
        '-e',
        `require('fs').readFileSync(${JSON.stringify(join(ROOT, 'server/dist/bundle/main.js'))})`,
      ],
    ],
    { quiet: true, cwd: '/' },
  ).catch(() => ({ code: 1 }));
  if (code !== 0) {
    console.error('Prandel was started as root, and its folder is not readable for others: the servers run as root.');
    return null;
  }
  for (const name of ['scratch', 'log']) {
    mkdirSync(join(folder, name), { recursive: true });
    chownSync(join(folder, name), NOBODY.uid, NOBODY.gid);
  }
  giveKeys(folder);
  return NOBODY;
}

/** The keys become the servers' own, and stay closed to everybody else. */
function giveKeys(folder) {
  const keys = keyFolder(folder);
  mkdirSync(keys, { recursive: true, mode: 0o700 });
  chownSync(keys, NOBODY.uid, NOBODY.gid);
  for (const name of readdirSync(keys)) chownSync(join(keys, name), NOBODY.uid, NOBODY.gid);
}
