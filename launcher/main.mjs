/** Entry of `./prandel`: reads the command and hands over. Plain JavaScript, since it runs before anything is installed. */
import { OperatorError } from './operatorError.mjs';

const USAGE = `usage: ./prandel demo [--port N]       start with the demo shop
       ./prandel start [--port N]      start without it
       ./prandel judge PACKAGE…        judge job packages, one JSON line each
       ./prandel verify FILE…          check sealed packages and reports, a line a check
       ./prandel read FILE…            show what the pull file reader understands
       ./prandel watch FOLDER --server URL --bay NAME   send the files of a folder to a bay
       ./prandel stand-in FOLDER       write made-up pulls there as foreign software would, to try a watched folder
       ./prandel bench [server|DAYS]   speed of the server, speed of the core, calibration figures
       ./prandel bench lists [JOBS…]   lists, searches and details of shops of so many jobs (1000)
       ./prandel bench years           shelves, charts, models and trends of the demo's two years
       ./prandel bench live [BAYS…]    bays that all pull at once, with twenty screens (64)
       ./prandel shop add NAME --owner EMAIL   another shop on this server
       ./prandel shop password EMAIL   a link for who lost a password
       ./prandel backup FILE           everything of all shops into one file
       ./prandel restore FILE          a backup into an empty data folder
       ./prandel check                 look whether everything that is stored holds
       ./prandel rebuild               work out again what lists and histories show
       ./prandel upgrade-database      bring the data over to a newer PostgreSQL
       ./prandel test [PATH…]          every check and test, or the tests of a path
       ./prandel dev                   the demo for who changes the code: edits are live within seconds
Options of demo and start: --port N (4870), --host H (127.0.0.1), --data DIR (.prandel/data); more in docs/operations.md. DATABASE_URL uses an existing PostgreSQL.`;

/** The benches by their first word; without one both of the server and of the core. */
async function bench([kind = '', ...more]) {
  const counts = (usual) => (more.length > 0 ? more.map(Number) : [usual]);
  if (kind === 'lists') return (await import('./scaleBench.mjs')).scaleBench(counts(1000));
  if (kind === 'years') return (await import('./yearsBench.mjs')).yearsBench();
  if (kind === 'live') return (await import('./liveBench.mjs')).liveBench(counts(64));
  if (!/^\d+$/.test(kind)) await (await import('./serverBench.mjs')).serverBench();
  if (kind !== 'server')
    process.exitCode = await (
      await import('./commandLine.mjs')
    ).commandLine('bench', kind === '' ? [] : [kind, ...more]);
}

const [command, ...rest] = process.argv.slice(2);
try {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new OperatorError(`Node ${process.versions.node} is too old; Prandel needs 20.19 or newer.`);
  switch (command) {
    case 'demo':
    case 'start':
      await (await import('./serve.mjs')).serve(command === 'demo', rest);
      break;
    case 'bench':
      await bench(rest);
      break;
    case 'dev':
      await (await import('./dev.mjs')).dev();
      break;
    case 'judge':
    case 'verify':
    case 'read':
    case 'watch':
    case 'stand-in':
      process.exitCode = await (await import('./commandLine.mjs')).commandLine(command, rest);
      break;
    case 'backup':
      await (await import('./operate.mjs')).backup(rest);
      break;
    case 'restore':
      await (await import('./operate.mjs')).restore(rest);
      break;
    case 'check':
      process.exitCode = await (await import('./operate.mjs')).check(rest);
      break;
    case 'rebuild':
      await (await import('./operate.mjs')).rebuild(rest);
      break;
    case 'shop':
      await (await import('./operate.mjs')).shop(rest);
      break;
    case 'upgrade-database':
      await (await import('./operate.mjs')).upgradeDatabase(rest);
      break;
    case 'test':
      process.exitCode = await (await import('./test.mjs')).runTests(rest);
      break;
    default:
      console.error(USAGE);
      process.exitCode = command === undefined || command === 'help' ? 0 : 2;
  }
} catch (error) {
  if (!(error instanceof OperatorError)) throw error;
  console.error(error.message);
  process.exitCode = 1;
}
