import { LiveCar, liveSpec } from '@prandel/simulator';
import { serveBench } from './bench.ts';
import { StandIns } from './standIns.ts';

/** Starts the stand-ins on free loopback ports and tells them to the parent; ends with it. */
const standIns = new StandIns(new LiveCar(liveSpec(), Date.now()));
standIns.speed = Number(process.env.PRANDEL_BENCH_SPEED ?? 1);
const ports = await standIns.start();
const bench = await serveBench(standIns);
process.send?.({ ports, bench: bench.port });
process.on('disconnect', () => process.exit(0));
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0));
