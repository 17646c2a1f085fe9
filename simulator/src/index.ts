/** Physics of a car on rollers through a day; seeded, so that the same day can be run again. */
export * from './random.ts';
export * from './day/spec.ts';
export * from './day/simulateDay.ts';
export { ROLLERS } from './demo/demoCars.ts';
export * from './demo/demoJobs.ts';
export * from './demo/demoRecords.ts';
export { DUCT_ON_THE_ROAD } from './demo/roadCheck.ts';
export * from './road/roadDay.ts';
export * from './logger/loggerRecord.ts';
export * from './demo/largeJob.ts';
export * from './demo/exportCsv.ts';
export * from './calibration/curveDay.ts';
export * from './calibration/worlds.ts';
export * from './live/liveCar.ts';
export * from './live/liveDay.ts';
export * from './foreign/foreignFile.ts';
