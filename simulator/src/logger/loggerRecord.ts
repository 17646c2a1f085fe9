import { channelValues, type Job, type Pull } from '@prandel/core';
import { Random } from '../random.ts';

/** A logger in the car: it runs through the afternoon by a clock of its own. */
export interface LoggerSpec {
  readonly seed: number;
  /** Second of its clock at the first pull's start. */
  readonly offsetS: number;
  /** How much faster its clock runs, ppm. */
  readonly ppm: number;
  readonly hz: number;
  /** Minutes that it runs before the first pull and after the last. */
  readonly around: number;
}

/** What the rollers' own instruments record. */
const BAY_CHANNELS = ['time_s', 'engine_rpm', 'roller_rad_s', 'throttle_fraction', 'intake_c'];

/** A job as a bay records it that has no other logger in the car. */
export function withoutLogger(job: Job): Job {
  const own = (pull: Pull) => pull.channels.filter((c) => BAY_CHANNELS.includes(c.name));
  return { ...job, pulls: job.pulls.map((p) => ({ ...p, channels: own(p) })) };
}

const IDLE_RPM = 820;
/** Seconds in which the engine is brought to the speed at which a pull starts, and comes back to idle after it. */
const RUN_UP_S = 5;
const RUN_DOWN_S = 9;

/** Columns of a logger's record by their headers. */
export interface LoggerRecord {
  readonly timeS: Float64Array;
  readonly rpm: Float64Array;
  readonly exhaustC: Float64Array;
  readonly gearboxC: Float64Array;
}

/** What a logger recorded while the pulls of a job were made: engine speed, exhaust gas and gearbox oil. */
export function loggerRecord(job: Job, { seed, offsetS, ppm, hz, around }: LoggerSpec): LoggerRecord {
  const random = new Random(seed);
  const starts = job.pulls.map((p) => Date.parse(p.startedAt!) / 1000);
  const first = Math.min(...starts);
  const ends = job.pulls.map((p, i) => starts[i]! + channelValues(p, 'time_s')!.at(-1)!);
  const [from, to] = [first - around * 60, Math.max(...ends) + around * 60];
  const n = Math.floor((to - from) * hz);
  const timeS = new Float64Array(n);
  const rpm = new Float64Array(n);
  const exhaustC = new Float64Array(n);
  const gearboxC = new Float64Array(n);
  let exhaust = 310;
  let gearbox = 62;
  for (let i = 0; i < n; i += 1) {
    const t = from + i / hz;
    const pull = starts.findIndex((s, k) => t >= s && t <= ends[k]!);
    const load = pull < 0 ? 0 : 1;
    const speed = pull < 0 ? between(job, starts, ends, t) : speedOf(job, pull, t - starts[pull]!);
    exhaust += ((load ? 560 + 0.06 * speed : 310) - exhaust) / (hz * 2.2);
    gearbox += ((load ? 130 : 55) - gearbox) / (hz * 240);
    timeS[i] = offsetS + (1 + ppm / 1e6) * (t - first);
    rpm[i] = speed + random.normal(4);
    exhaustC[i] = exhaust + random.normal(1.5);
    gearboxC[i] = gearbox + random.normal(0.1);
  }
  return { timeS, rpm, exhaustC, gearboxC };
}

/** Engine speed outside the pulls: idle, apart from the way up to a pull and down from it. */
function between(job: Job, starts: readonly number[], ends: readonly number[], t: number): number {
  const rise = (speed: number, share: number) => IDLE_RPM + Math.max(0, 1 - share) * (speed - IDLE_RPM);
  return Math.max(
    ...job.pulls.map((pull, i) => {
      const rpm = channelValues(pull, 'engine_rpm')!;
      if (t < starts[i]!) return rise(rpm[0]!, (starts[i]! - t) / RUN_UP_S);
      return rise(rpm.at(-1)!, (t - ends[i]!) / RUN_DOWN_S);
    }),
  );
}

/** Engine speed of a pull, straight between its samples. */
function speedOf(job: Job, pull: number, t: number): number {
  const own = job.pulls[pull]!;
  const time = channelValues(own, 'time_s')!;
  const rpm = channelValues(own, 'engine_rpm')!;
  const i = Math.min(time.length - 2, Math.max(0, Math.floor((t / time.at(-1)!) * (time.length - 1))));
  const share = (t - time[i]!) / (time[i + 1]! - time[i]!);
  return rpm[i]! + Math.min(1, Math.max(0, share)) * (rpm[i + 1]! - rpm[i]!);
}

/** The record as the logger exports it: semicolons, decimal commas, lines above its header. */
export function loggerCsv({ timeS, rpm, exhaustC, gearboxC }: LoggerRecord): string {
  const cell = (value: number, digits: number) => value.toFixed(digits).replace('.', ',');
  const rows = Array.from(timeS, (t, i) =>
    [cell(t, 3), cell(rpm[i]!, 0), cell(exhaustC[i]!, 1), cell(gearboxC[i]!, 1)].join(';'),
  );
  return (
    [
      '# record of the afternoon',
      'Time (s);Engine speed (rpm);Exhaust gas temp (°C);Gearbox oil temp (°C)',
      ...rows,
    ].join('\r\n') + '\r\n'
  );
}
