import { join } from 'node:path';
import { ROOT, run } from './run.mjs';
import { OperatorError } from './operatorError.mjs';

/** Brings the schema up to date as its owner, in a process of its own: no server ever knows the owner's password. */
export async function migrate({ ownerUrl, withRoles }) {
  const { code, output } = await run(process.execPath, [join(ROOT, 'server/dist/migrate.js')], {
    quiet: true,
    env: { ...process.env, DATABASE_URL: ownerUrl, PRANDEL_ROLES: withRoles ? '1' : '0' },
  });
  if (code !== 0) throw new OperatorError(output.trim().split('\n').slice(-6).join('\n'));
}
