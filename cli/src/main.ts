import { benchCommand } from './bench.ts';
import { judgeCommand } from './judge.ts';
import { readCommand } from './read.ts';

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
  default:
    process.exitCode = usage();
}

function usage(): number {
  process.stderr.write('usage: prandel judge PACKAGE…  |  prandel read FILE…  |  prandel bench [DAYS]\n');
  return 2;
}
