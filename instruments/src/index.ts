/** Stand-ins for a bay's instruments: a simulated car behind the open device protocols. */
export * from './standIns.ts';
export * from './bench.ts';
