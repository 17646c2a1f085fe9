import type { Bay, Job, Question, Setup, Vehicle } from '@prandel/core';

/** What a car makes at the wheels in the reference air, before any part: torque in N·m over engine speed in rpm. */
export interface Engine {
  readonly points: readonly (readonly [number, number])[];
  readonly idleRpm: number;
  readonly startRpm: number;
  readonly limitRpm: number;
}

/** What a setup really does: per cent of torque at an engine speed. The truth the verdict is held against. */
export type Effect = (rpm: number) => number;

/** A pull that goes wrong, by its number in the setup from 1. */
export interface Mishap {
  readonly setup: string;
  readonly pull: number;
  readonly kind: 'slip' | 'cut-short' | 'shift-spike' | 'hot-start' | 'hunting';
  /** When given, the technician set the pull aside with this reason. */
  readonly setAside?: string;
}

export interface RoundSpec {
  readonly setup: string;
  readonly settle: number;
  readonly counted: number;
  /** Absent: sweeps. */
  readonly kind?: 'roll-on';
  readonly startMinute: number;
  readonly minutesPerPull: number;
}

/** A charge cooler: the share of what it could take out, and how much its core warms with every pull, °C. */
export interface CoolerSpec {
  readonly effectiveness: number;
  readonly warmsC: number;
}

/** A simulated day: the job's papers, the physics, and the truth. */
export interface DaySpec {
  readonly seed: number;
  readonly id: string;
  readonly title: string;
  readonly date: string;
  readonly vehicle: Vehicle;
  readonly bay: Bay;
  readonly question: Question;
  readonly method?: Job['method'];
  readonly setups: readonly Setup[];
  readonly rounds: readonly RoundSpec[];
  readonly engine: Engine;
  readonly effects: Readonly<Record<string, Effect>>;
  readonly mishaps: readonly Mishap[];
  readonly gear: string;
  /** Fan position that really blew, when it was not what the setup says: off heats the intake. */
  readonly fanOff?: readonly string[];
  readonly heatPercentPerC: number;
  readonly pullSd: number;
  readonly driftPercentPerHour: number;
  readonly sampleHz: number;
  readonly boosted?: boolean;
  /** How a boosted engine answers a throttle step at a held speed: seconds to 63 % of its torque, by setup. */
  readonly rollOns?: { readonly rpm: number; readonly seconds: Readonly<Record<string, number>> };
  /** What cools the charge of a boosted car, by setup: the sensors of charge, timing and mixture are then recorded too. */
  readonly coolers?: Readonly<Record<string, CoolerSpec>>;
  /** What the way to the throttle costs at 6000 rpm and full torque, kPa, by setup: inlet vacuum is then recorded too. */
  readonly intakes?: Readonly<Record<string, number>>;
  readonly morningC: number;
  readonly pressureHpa: number;
}
