import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ROOT, run } from './run.mjs';

/**
 * Writes the pages' types of the API from the built server. `--check` only tells whether what is checked in is as it should be (exit
 * code 1 when it is stale).
 */
const CHECKED_IN = join(ROOT, 'web/src/api/generated/schema.ts');
const folder = mkdtempSync(join(tmpdir(), 'prandel-api-'));
const node = async (...args) => {
  const { code, output } = await run(process.execPath, args, { quiet: true });
  if (code !== 0) throw new Error(output);
};
try {
  const [document, types] = [join(folder, 'openapi.json'), join(folder, 'schema.ts')];
  await node('server/dist/writeOpenApi.js', document);
  await node('node_modules/openapi-typescript/bin/cli.js', document, '-o', types);
  await node(
    'node_modules/prettier/bin/prettier.cjs',
    '--config',
    '.prettierrc.json',
    '--ignore-path',
    '/dev/null',
    '--write',
    types,
  );
  const fresh = readFileSync(types, 'utf8');
  if (!process.argv.includes('--check')) writeFileSync(CHECKED_IN, fresh);
  else if (fresh !== readFileSync(CHECKED_IN, 'utf8')) {
    console.error('web/src/api/generated/schema.ts is stale: run "npm run api".');
    process.exitCode = 1;
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
