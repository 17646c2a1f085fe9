/** Readers and writers of open formats, shared by server and command line. No network, no database. */
export * from './problem.ts';
export * from './text/decode.ts';
export * from './text/number.ts';
export * from './text/table.ts';
export * from './pullFile/columnRole.ts';
export * from './pullFile/readPullFile.ts';
export * from './pullFile/mapping.ts';
export * from './pullFile/summary.ts';
export * from './jobPackage/zip.ts';
export * from './jobPackage/readPackage.ts';
export * from './jobPackage/writePackage.ts';
export * from './wire/nmea.ts';
export * from './wire/j1979.ts';
export * from './wire/rollerLine.ts';
export * from './wire/registers.ts';
export * from './evidence/chain.ts';
export * from './evidence/readEvents.ts';
