import {
  engineSpeedAt,
  findPasses,
  rotatingShare,
  STANDARD_GRAVITY_M_S2,
  torqueAtEngineSpeed,
  type RoadCar,
  type RoadPass,
  type SpeedLog,
} from '@prandel/core';
import { torqueOf } from '../day/engine.ts';
import type { Effect, Engine } from '../day/spec.ts';
import { Random } from '../random.ts';

/** An afternoon on a closed road: the same car out and back, setup after setup, with a wind along the road. */
export interface RoadDaySpec {
  readonly seed: number;
  readonly startAt: string;
  readonly engine: Engine;
  readonly effects: Readonly<Record<string, Effect>>;
  readonly car: RoadCar & { readonly dragAreaM2: number };
  /** Setups in the order in which they are driven, and passes of each in each direction. */
  readonly setups: readonly string[];
  readonly each: number;
  readonly fromKmH: number;
  readonly toKmH: number;
  /** From the east, m/s. */
  readonly windMs: number;
  /** Scatter of power from pass to pass, per cent. */
  readonly passSd: number;
  readonly airDensity: number;
  /** Samples of the log a second. */
  readonly hz: number;
}

/** What was driven: the log of a receiver, and the passes as they are found in it. */
export interface RoadDay {
  readonly log: SpeedLog & { readonly courseDeg: Float64Array };
  readonly passes: readonly RoadPass[];
}

const STEP_S = 0.01;
const EAST = 90;
const WEST = 270;
/** Minutes that a change of the setup takes. */
const CHANGE_MIN = 45;

/** Drives the afternoon. Seeded: the same spec gives the same log. */
export function driveRoadDay(spec: RoadDaySpec): RoadDay {
  const random = new Random(spec.seed);
  const timeS: number[] = [];
  const speedKmH: number[] = [];
  const courseDeg: number[] = [];
  const driven: { setup: string; course: number; from: number; to: number }[] = [];
  let t = 0;
  const note = (kmH: number, course: number) => {
    timeS.push(t);
    speedKmH.push(Math.max(0, kmH + random.normal(0.06)));
    courseDeg.push(course + random.normal(0.4));
  };
  const steady = (kmH: number, seconds: number, course: number) => {
    for (const until = t + seconds; t < until; t += 1 / spec.hz) note(kmH, course);
  };
  spec.setups.forEach((setup, s) => {
    if (s > 0) {
      steady(0, 30, WEST);
      t += CHANGE_MIN * 60;
      steady(0, 30, EAST);
    }
    for (let n = 0; n < spec.each; n += 1)
      for (const course of [EAST, WEST]) {
        const start = spec.fromKmH - 12 + random.normal(0.5);
        steady(start, 5, course);
        const from = t;
        const level = 1 + random.normal(spec.passSd) / 100;
        let v = start / 3.6;
        let next = t;
        for (; v * 3.6 < spec.toKmH + 8; t += STEP_S) {
          if (t >= next) {
            note(v * 3.6, course);
            next += 1 / spec.hz;
          }
          v += STEP_S * acceleration(spec, setup, level, v, course === EAST ? spec.windMs : -spec.windMs);
        }
        driven.push({ setup, course, from, to: t });
        // Off the throttle, around, and back.
        for (let kmH = v * 3.6; kmH > 45; kmH -= 7 / spec.hz, t += 1 / spec.hz) note(kmH, course);
        steady(40, 8, course);
      }
  });
  const log = {
    timeS: Float64Array.from(timeS),
    speedKmH: Float64Array.from(speedKmH),
    courseDeg: Float64Array.from(courseDeg),
  };
  const passes = findPasses(log, spec.fromKmH, spec.toKmH).flatMap(({ fromS, seconds }): RoadPass[] => {
    const own = driven.find((d) => fromS >= d.from && fromS <= d.to);
    if (!own) return [];
    const at = new Date(Math.round(Date.parse(spec.startAt) + 1000 * fromS)).toISOString();
    const { fromKmH, toKmH } = spec;
    const direction = own.course === EAST ? 'east' : 'west';
    return [{ setupId: own.setup, at, direction, fromKmH, toKmH, seconds: Number(seconds.toFixed(3)) }];
  });
  return { log, passes };
}

/** m·f·v̇ = P/v − ½ρ·C_dA·(v + wind)² − C_rr·m·g, at a road speed in m/s. */
function acceleration(
  { engine, effects, car, airDensity }: RoadDaySpec,
  setup: string,
  level: number,
  v: number,
  headwind: number,
): number {
  const rpm = engineSpeedAt(v, car);
  const torque = torqueOf(engine, rpm) * level * (1 + (effects[setup]?.(rpm) ?? 0) / 100);
  const powerW = torque / torqueAtEngineSpeed(1, rpm);
  const drag = 0.5 * airDensity * car.dragAreaM2 * (v + headwind) * Math.abs(v + headwind);
  return (
    (powerW / v - drag - car.rolling * car.massKg * STANDARD_GRAVITY_M_S2) /
    (car.massKg * rotatingShare(car.overallRatio))
  );
}

/** The log as a CSV of time and speed. */
export function speedCsv({ timeS, speedKmH }: SpeedLog): string {
  return `Time (s),Speed (km/h)\n${Array.from(timeS, (t, i) => `${t.toFixed(2)},${speedKmH[i]!.toFixed(2)}`).join('\n')}\n`;
}

/** The log as a receiver of satellites writes it: bodies of RMC sentences (NMEA 0183, fields from memory), without their checksums. */
export function rmcBodies({ timeS, speedKmH, courseDeg }: RoadDay['log'], startAt: string): string[] {
  const two = (n: number) => String(n).padStart(2, '0');
  return Array.from(timeS, (t, i) => {
    const at = new Date(Math.round((Date.parse(startAt) + 1000 * t) / 10) * 10);
    const hundredths = two(Math.floor(at.getUTCMilliseconds() / 10));
    const time = `${two(at.getUTCHours())}${two(at.getUTCMinutes())}${two(at.getUTCSeconds())}.${hundredths}`;
    const date = `${two(at.getUTCDate())}${two(at.getUTCMonth() + 1)}${two(at.getUTCFullYear() % 100)}`;
    const knots = (speedKmH[i]! / 1.852).toFixed(3);
    return `GPRMC,${time},A,3843.120,N,00908.410,W,${knots},${((courseDeg[i]! + 360) % 360).toFixed(1)},${date},,`;
  });
}
