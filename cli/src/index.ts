export { judgementDocument, judgeCommand } from './judge.ts';
export { readCommand } from './read.ts';
export { verifyCommand } from './verify.ts';
export { benchCommand } from './bench.ts';
export { afterFiftyJobs, calibrateJobs, withoutHistory } from './calibration.ts';
export { measureCalibrations } from './measureCalibration.ts';
export { watchCommand } from './watch/watch.ts';
export { standInCommand, standInPulls, writeInPieces } from './standIn.ts';
