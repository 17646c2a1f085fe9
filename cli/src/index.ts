export { judgementDocument, judgeCommand } from './judge.ts';
export { readCommand } from './read.ts';
export { benchCommand, calibrate } from './bench.ts';
