import { createInterface } from 'node:readline';
import { benchCommand } from './bench.ts';
import { judgeCommand } from './judge.ts';
import { readCommand } from './read.ts';
import { standInCommand } from './standIn.ts';
import { verifyCommand } from './verify.ts';
import { watchCommand } from './watch/watch.ts';

const [command, ...rest] = process.argv.slice(2);
const print = (line: string) => process.stdout.write(`${line}\n`);

switch (command) {
  case 'judge':
    process.exitCode = rest.length > 0 ? await judgeCommand(rest, print) : usage();
    break;
  case 'verify':
    process.exitCode = rest.length > 0 ? await verifyCommand(rest, print) : usage();
    break;
  case 'read':
    process.exitCode = rest.length > 0 ? await readCommand(rest, print) : usage();
    break;
  case 'bench':
    process.exitCode = benchCommand(Number(rest[0] ?? 1000), print);
    break;
  case 'watch': {
    const stop = new AbortController();
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => stop.abort());
    process.exitCode = await watchCommand(rest, print, stop.signal);
    break;
  }
  case 'stand-in': {
    const lines = createInterface({ input: process.stdin });
    const enter = () => new Promise<void>((done) => void lines.once('line', () => done()));
    process.exitCode = await standInCommand(rest, print, enter);
    lines.close();
    break;
  }
  default:
    process.exitCode = usage();
}

function usage(): number {
  process.stderr.write(
    'usage: prandel judge PACKAGE…  |  prandel verify FILE…  |  prandel read FILE…  |  prandel watch FOLDER  |  prandel bench [DAYS]\n',
  );
  return 2;
}
