import { benchCommand } from './bench.ts';
import { judgeCommand } from './judge.ts';
import { readCommand } from './read.ts';
import { watchCommand } from './watch/watch.ts';

const [command, ...rest] = process.argv.slice(2);
const print = (line: string) => process.stdout.write(`${line}\n`);

switch (command) {
  case 'judge':
    process.exitCode = rest.length > 0 ? await judgeCommand(rest, print) : usage();
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
  default:
    process.exitCode = usage();
}

function usage(): number {
  process.stderr.write(
    'usage: prandel judge PACKAGE…  |  prandel read FILE…  |  prandel watch FOLDER  |  prandel bench [DAYS]\n',
  );
  return 2;
}
