import type { Gearing } from '../job/job.ts';
import { fromRpm, interpolate, toRpm, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { roadRun, rotatingShare, type RoadLoad } from '../road/roadRun.ts';
import { STANDARD_GRAVITY_M_S2 } from '../units/units.ts';

/** Where to shift from a gear into the next. */
export interface BestShift {
  /** Gear that is left, 1 for the first. */
  readonly gear: number;
  /** Next ratio over this one. */
  readonly drop: number;
  readonly atRpm: number;
  /** Engine speed in the next gear. */
  readonly intoRpm: number;
  /** `curves-meet`: power is the same before and after; `limiter`: it never gets better to shift; `curve-ends`: nobody pulled that far. */
  readonly because: 'curves-meet' | 'limiter' | 'curve-ends';
  /** Mean wheel power from `intoRpm` to `atRpm`, W; NaN where the curve does not reach down. */
  readonly meanW: number;
}

const STEP = 5;

/**
 * The best engine speed to shift at: the highest at which this gear still drives as hard as the next one would, P(n) = P(n·r); else the
 * limiter. Thrust in a gear is P/v, and v is the same before and after a shift.
 * @param power wheel power over engine speed, W
 * @param drop next ratio over this one, under 1
 * @example bestShift({ first: 0, values: Float64Array.from({ length: 360 }, (_, i) => 100 - 1e-5 * (25 * i - 6000) ** 2), samples: new Uint32Array(360) }, 0.75, 8500).atRpm.toFixed(0) // '6857'
 */
export function bestShift(
  power: GridCurve,
  drop: number,
  limiterRpm: number,
): Pick<BestShift, 'atRpm' | 'intoRpm' | 'because' | 'meanW'> {
  const end = toRpm(power);
  const top = Math.min(limiterRpm, end);
  const better = (n: number) => interpolate(power, n) - interpolate(power, n * drop);
  const told = (atRpm: number, because: BestShift['because']) => ({
    ...{ atRpm, because, intoRpm: atRpm * drop },
    meanW: windowMean(power, atRpm * drop, atRpm),
  });
  if (!(better(top) < 0)) return told(top, end < limiterRpm ? 'curve-ends' : 'limiter');
  // From the top down to where the next gear is not better any more.
  let high = top;
  let low = top - STEP;
  while (low * drop > fromRpm(power) && better(low) < 0) {
    high = low;
    low -= STEP;
  }
  if (!(better(low) >= 0)) return told(low, 'curves-meet');
  for (let i = 0; i < 40; i += 1) {
    const middle = (low + high) / 2;
    if (better(middle) >= 0) low = middle;
    else high = middle;
  }
  return told((low + high) / 2, 'curves-meet');
}

/**
 * The best shifts of a setup, gear by gear.
 * @example bestShifts({ first: 0, values: new Float64Array(0), samples: new Uint32Array(0) }, { ratios: [3], finalDrive: 4, circumferenceM: 1.9, limiterRpm: 7000, shiftSeconds: 0.4 }) // []
 */
export function bestShifts(power: GridCurve, { ratios, limiterRpm }: Gearing): BestShift[] {
  if (power.values.length === 0) return [];
  return ratios.slice(0, -1).map((ratio, i) => {
    const drop = ratios[i + 1]! / ratio;
    return { gear: i + 1, drop, ...bestShift(power, drop, limiterRpm) };
  });
}

/**
 * Engine speed at a road speed in a gear, rpm.
 * @param speed m/s
 * @example engineSpeedIn({ ratios: [2, 1], finalDrive: 4, circumferenceM: 2, limiterRpm: 7000, shiftSeconds: 0.4 }, 2, 25).toFixed(0) // '3000'
 */
export function engineSpeedIn({ ratios, finalDrive, circumferenceM }: Gearing, gear: number, speed: number): number {
  return (speed / circumferenceM) * ratios[gear - 1]! * finalDrive * 60;
}

/** A run through the gears. */
export interface GearRun {
  readonly seconds: number;
  /** Gears that were used, and how many seconds of the run were shifts. */
  readonly gears: readonly number[];
  readonly shiftSeconds: number;
}

/** What holds the car back, without the gear's own share. */
export type GearLoad = Omit<RoadLoad, 'rotating'>;

const COAST_STEP_S = 0.001;

/** Speed after a shift: nothing drives, drag and rolling hold. */
function coasted(speed: number, seconds: number, rotating: number, load: GearLoad): number {
  const weight = load.massKg * STANDARD_GRAVITY_M_S2;
  let v = speed;
  for (let t = 0; t < seconds - 1e-12; t += COAST_STEP_S) {
    const step = Math.min(COAST_STEP_S, seconds - t);
    const hold = 0.5 * load.airDensity * load.dragAreaM2 * v * v + (load.rolling + load.slope) * weight;
    v -= (step * hold) / (load.massKg * rotating);
  }
  return v;
}

/**
 * Time from one speed to another at full power through the gears, each left at its best shift or the limiter, with the road model of
 * `roadRun` and the shift time coasted. It begins in the lowest gear that the curve reaches at that speed.
 * @param from m/s; `to` m/s
 * @returns null where the curve does not reach, or the car does not get there
 * @example throughTheGears({ first: 80, values: new Float64Array(200).fill(100e3), samples: new Uint32Array(200) }, { ratios: [1], finalDrive: 4, circumferenceM: 2, limiterRpm: 7000, shiftSeconds: 0.4 }, 20, 30, { massKg: 1200, dragAreaM2: 0, rolling: 0, airDensity: 1.2, slope: 0 }).seconds.toFixed(3) // '3.240'
 */
export function throughTheGears(
  power: GridCurve,
  gearing: Gearing,
  from: number,
  to: number,
  load: GearLoad,
): GearRun | null {
  if (power.values.length === 0 || !(to > from)) return null;
  const shifts = bestShifts(power, gearing);
  const speedAt = (gear: number, rpm: number) =>
    (rpm * gearing.circumferenceM) / (60 * gearing.ratios[gear - 1]! * gearing.finalDrive);
  const leaves = (gear: number) => shifts[gear - 1]?.atRpm ?? Math.min(gearing.limiterRpm, toRpm(power));
  let gear = gearing.ratios.findIndex((_, i) => engineSpeedIn(gearing, i + 1, from) < leaves(i + 1)) + 1;
  if (gear === 0 || engineSpeedIn(gearing, gear, from) < fromRpm(power)) return null;
  let [v, seconds, shifted] = [from, 0, 0];
  const gears = [gear];
  for (;;) {
    const rotating = rotatingShare(gearing.ratios[gear - 1]! * gearing.finalDrive);
    const end = Math.min(to, speedAt(gear, leaves(gear)));
    if (end > v) {
      const own = gear;
      const run = roadRun((speed) => interpolate(power, engineSpeedIn(gearing, own, speed)), v, end, {
        ...load,
        rotating,
      });
      if (!run) return null;
      seconds += run.seconds;
      v = end;
    }
    if (v >= to) return { seconds, gears, shiftSeconds: shifted };
    if (gear >= gearing.ratios.length) return null;
    v = coasted(v, gearing.shiftSeconds, rotating, load);
    seconds += gearing.shiftSeconds;
    shifted += gearing.shiftSeconds;
    gear += 1;
    gears.push(gear);
    if (engineSpeedIn(gearing, gear, v) < fromRpm(power)) return null;
  }
}

/**
 * Why a gearing cannot be one, in a sentence without a full stop; null: it can.
 * @example gearingProblem({ ratios: [2, 3], finalDrive: 4, circumferenceM: 1.9, limiterRpm: 7000, shiftSeconds: 0.4 }) // 'gear 2 (3) is shorter than gear 1 (2): ratios fall from gear to gear'
 */
export function gearingProblem({
  ratios,
  finalDrive,
  circumferenceM,
  limiterRpm,
  shiftSeconds,
}: Gearing): string | null {
  if (ratios.length === 0 || ratios.length > 12) return `${ratios.length} gears; 1 to 12 are taken`;
  const odd = ratios.find((r) => !(r > 0.1 && r < 25));
  if (odd !== undefined) return `${odd} is no gear ratio (0.1 to 25)`;
  const up = ratios.findIndex((r, i) => i > 0 && r >= ratios[i - 1]!);
  if (up > 0)
    return `gear ${up + 1} (${ratios[up]}) is shorter than gear ${up} (${ratios[up - 1]}): ratios fall from gear to gear`;
  if (!(finalDrive > 0.1 && finalDrive < 25)) return `${finalDrive} is no final drive (0.1 to 25)`;
  if (!(circumferenceM > 0.5 && circumferenceM < 5))
    return `${circumferenceM} m is no rolling circumference of a tyre (0.5 to 5 m)`;
  if (!(limiterRpm >= 1000 && limiterRpm <= 30_000)) return `${limiterRpm} rpm is no limiter (1000 to 30000 rpm)`;
  return shiftSeconds >= 0 && shiftSeconds <= 5 ? null : `${shiftSeconds} s is no shift time (0 to 5 s)`;
}
