import type { CompressionIgnition, CorrectionId } from '../correction/standards.ts';
import type { JobDay } from '../bay/jobDay.ts';
import type { Change, DeclarableState } from './changes.ts';
import type { BayPrior } from '../verdict/bayPrior.ts';
import type { DeclaredMeasure } from '../measures/declaredMeasure.ts';
import type { VerdictConstants } from '../verdict/engine/model.ts';

/**
 * A job as plain data: one vehicle, one question, one or more days. The package reader makes it, the database stores
 * it, the verdict reads it; nothing derived is in it.
 */
export interface Job {
  readonly id: string;
  readonly title: string;
  readonly openedAt: string | null;
  readonly timeZone: string | null;
  readonly vehicle: Vehicle;
  readonly bay: Bay;
  readonly question: Question;
  readonly method: Method;
  readonly setups: readonly Setup[];
  readonly pulls: readonly Pull[];
  readonly weather: readonly WeatherReading[];
  /** Timed passes on the road, in the order in which they were driven; absent without a road check. */
  readonly roadPasses?: readonly RoadPass[];
  /** Gauges read by hand during pulls. */
  readonly readings?: readonly HandReading[];
  /** Records of loggers whose channels some pulls carry. */
  readonly loggers?: readonly Logger[];
  /** What the rollers' forecast needs of the car. */
  readonly road?: RoadCar;
  /** What the shop reckons costs with; absent: nobody said. */
  readonly money?: Money;
  /** Gears of the car, for shift speeds and times through the gears. */
  readonly gearing?: Gearing;
  /** How the car is used, by which its setups can be weighed. */
  readonly use?: UseProfile;
  /** Curves of other jobs that are laid under this one's; they never enter a number. */
  readonly references?: readonly ReferenceCurve[];
  /** Papers of the day in the bay; absent on a job that only came from files. */
  readonly day?: JobDay;
}

export interface Vehicle {
  readonly label: string;
  readonly drivenWheels: 'front' | 'rear' | 'all' | 'motorcycle' | null;
  readonly aspiration: 'natural' | 'turbo' | 'supercharged' | null;
  readonly transmission: 'manual' | 'automatic' | 'cvt' | null;
  readonly massKg: number | null;
  /** Engine speed over roller speed, fitted at a steady reading. */
  readonly engineToRollerRatio: number | null;
  /** Known to lose over 0.2 % per °C of start temperature. */
  readonly heatSensitive?: boolean;
}

export interface Bay {
  readonly label: string;
  readonly kind: 'inertia' | 'braked' | 'linked' | 'split' | 'hub' | null;
  readonly rollerInertiaKgM2: number | null;
  readonly readoutScale: number;
  readonly calibrationEpoch: string | null;
  readonly elevationM: number | null;
  /** Loss torque of the empty rollers c0 + c1·ω + c2·ω² (N·m, ω in rad/s); null when never coasted down. */
  readonly lossTorqueNm: readonly [number, number, number] | null;
  /** Settings of the bay by which the engine's model differs from the usual one. */
  readonly verdictConstants: VerdictConstants;
  /** What the bay had shown of itself when the job was put on it; null: nothing is known. Later days do not change it. */
  readonly prior: BayPrior | null;
}

export interface Question {
  readonly text: string;
  readonly baselineSetup: string;
  readonly candidateSetups: readonly string[];
  /** One to three, in the order in which they were agreed; each gets a verdict of its own. */
  readonly measures: readonly DeclaredMeasure[];
  /** Declared window, rpm; null: the whole range that all counted pulls cover, with a finding. */
  readonly windowRpm: readonly [number, number] | null;
  readonly confidence: number;
  readonly partChangesIntakeTemperature: boolean;
  readonly plan: readonly PlanStep[];
  readonly extension: 'declared' | 'undeclared' | null;
}

export interface PlanStep {
  readonly setup: string;
  readonly settle: number;
  readonly counted: number;
}

export interface Method {
  readonly correction: CorrectionId;
  readonly averagingWidthRpm: number;
  readonly settlePulls: number;
  /** The house's tolerances by key (`TOLERANCES`); what is absent is the usual value. */
  readonly gates: Readonly<Record<string, unknown>>;
  /** Name of the house method this was copied from. */
  readonly name?: string;
  /** The school followed in each matter of `DISAGREEMENTS`; what is absent is the default. */
  readonly schools?: Readonly<Record<string, string>>;
  /** What ISO 1585 for compression ignition needs besides the weather. */
  readonly compressionIgnition?: CompressionIgnition;
}

/** The recorded state of a setup, empty where nobody recorded it. */
export const STATE_FIELDS = [
  'fuel',
  'tuneDigest',
  'hood',
  'fan',
  'safeties',
  'controllerState',
  'loadSetting',
  'tyrePressureKpa',
  'gear',
] as const;
export type StateField = (typeof STATE_FIELDS)[number];

/** What a person notes of a setup besides its power; shown beside a rank, never mixed into it. */
export const OUTCOME_FIELDS = ['noise', 'overrun', 'coldStart', 'fit', 'faultLamp', 'difficulty'] as const;
export type OutcomeField = (typeof OUTCOME_FIELDS)[number];

/** Costs of a setup besides its parts and its hours, in the setup's currency; null: not typed. */
export interface SetupCosts {
  /** Adapters and extra hardware. */
  readonly adapters: number | null;
  readonly consumables: number | null;
  readonly tune: number | null;
}
export const NO_COSTS: SetupCosts = { adapters: null, consumables: null, tune: null };

export interface Setup {
  readonly id: string;
  readonly parentId: string | null;
  readonly label: string;
  /** The setup that this return check repeats. */
  readonly returnsTo: string | null;
  /** What was changed against the parent, in order. */
  readonly changes: readonly Change[];
  /** The states that these changes make differ on purpose. */
  readonly declares: readonly DeclarableState[];
  readonly state: Readonly<Partial<Record<StateField, string>>>;
  readonly remounted: boolean;
  readonly closedCourseOnly: boolean;
  readonly partCost: number | null;
  readonly labourHours: number | null;
  readonly currency: string | null;
  readonly supplier: string | null;
  /** Absent: none typed. */
  readonly costs?: SetupCosts;
  /** It put something right that was wrong with the car; it is no claim of a part. */
  readonly cure?: boolean;
  /** It cannot come off again: whatever is run after it has it on. Absent: it can. */
  readonly permanent?: boolean;
  /** When it was added to a job whose pulls had begun, ISO 8601; absent: it was planned. */
  readonly addedAt?: string;
  /** Difficulty is "1" to "5", the others are words. */
  readonly outcomes?: Readonly<Partial<Record<OutcomeField, string>>>;
}

/** What costs are reckoned with. */
export interface Money {
  readonly currency: string | null;
  /** An hour of fitting, in that currency. */
  readonly hourlyRate: number | null;
}

/** The gears between the engine and the road. */
export interface Gearing {
  /** Engine turns over shaft turns, first gear first: falling numbers. */
  readonly ratios: readonly number[];
  /** Final drive; 1 where the ratios hold it already. */
  readonly finalDrive: number;
  /** Rolling circumference of the driven tyre, m. */
  readonly circumferenceM: number;
  /** Engine speed at which the limiter ends every gear, rpm. */
  readonly limiterRpm: number;
  /** Time without drive at a shift, s. */
  readonly shiftSeconds: number;
}

/** A mean curve of another job, as it was when somebody laid it under this one. */
export interface ReferenceCurve {
  /** What was on the car: job, setup and vehicle in words. */
  readonly name: string;
  /** ISO 8601 instant of its first pull; null where no pull had a time. */
  readonly at: string | null;
  readonly bay: string;
  readonly correction: CorrectionId | null;
  /** Lowest point of the grid, in steps of 25 rpm. */
  readonly first: number;
  /** Wheel power, W. */
  readonly values: readonly number[];
}

/** Share of the time at full load by engine speed. */
export interface UseProfile {
  readonly name: string;
  /** From `fromRpm` on, 500 rpm wide; shares sum to 1. */
  readonly shares: readonly { readonly fromRpm: number; readonly share: number }[];
}

/** A sweep rises through the rev range at full throttle; a roll-on is a throttle step at a steady speed under load, read against time; a hold stays under load for minutes. Kinds are never averaged together. */
export const PULL_KINDS = ['sweep', 'roll-on', 'hold'] as const;
export type PullKind = (typeof PULL_KINDS)[number];

export type PullStatus = 'settle' | 'counted' | 'set-aside';

/** Whether an imported number was already corrected or scaled by whoever exported it. */
export type NumberState =
  | { readonly kind: 'uncorrected' }
  | { readonly kind: 'corrected'; readonly standard: string; readonly factor: number }
  | { readonly kind: 'scaled'; readonly factor: number }
  | { readonly kind: 'unknown' };

/** A recorded channel. The unit is part of the name (`engine_rpm`, `intake_c`); missing samples are NaN. */
export interface Channel {
  readonly name: string;
  readonly values: Float64Array;
}

export interface Pull {
  readonly id: string;
  readonly setupId: string;
  /** Absent: a sweep. */
  readonly kind?: Exclude<PullKind, 'sweep'>;
  readonly round: number;
  /** Place in the round from 1, settle pulls included. */
  readonly position: number;
  /** ISO 8601 instant. */
  readonly startedAt: string | null;
  readonly status: PullStatus;
  readonly reason: string | null;
  readonly gear: string | null;
  readonly pressureHpa: number | null;
  readonly airC: number | null;
  readonly relativeHumidity: number | null;
  readonly intakeStartC: number | null;
  readonly coolantStartC: number | null;
  readonly oilStartC: number | null;
  readonly numberState: NumberState;
  /** Averaging width of the source, rpm; null when not known. */
  readonly averagingRpm: number | null;
  /** What every list must show beside this pull: a gate overridden, a cable lost, set aside after seeing the result. */
  readonly marks?: readonly string[];
  /** Seconds of bay time for which each closed gate kept this pull from starting, by the gate's key; two may have held at once. */
  readonly heldS?: Readonly<Record<string, number>>;
  readonly channels: readonly Channel[];
}

export interface WeatherReading {
  readonly at: string;
  readonly pressureHpa: number | null;
  readonly airC: number | null;
  readonly relativeHumidity: number | null;
}

/** When a gauge was read: as the throttle opened, at its highest, or as it closed. */
export const HAND_MOMENTS = ['start', 'peak', 'end'] as const;
export type HandMoment = (typeof HAND_MOMENTS)[number];

/** A gauge that somebody read during a pull, in the unit of the channel's name. */
export interface HandReading {
  readonly pullId: string;
  readonly channel: string;
  readonly moment: HandMoment;
  readonly value: number;
}

/** What a logger's record was laid beside the pulls by; `hand`: a person placed it. */
export const LAID_BY = ['engine', 'roller', 'road', 'throttle', 'hand'] as const;
export type LaidBy = (typeof LAID_BY)[number];

/** A logger's record that was laid beside pulls, and where it lies. */
export interface Logger {
  readonly id: string;
  /** Name of its file. */
  readonly name: string;
  readonly laidBy: LaidBy;
  /** Second of the logger's clock at which the first pull that it covers begins. */
  readonly offsetS: number;
  /** How much faster the logger's clock runs, ppm; null where the pulls have no times. */
  readonly ratePpm: number | null;
  /** Root mean square of what is left over: rpm, rad/s, km/h or a fraction; null where a person placed it. */
  readonly residual: number | null;
  readonly correlation: number | null;
  /** Channels that it gave, under the names that they bear in the pulls. */
  readonly channels: readonly string[];
  readonly pulls: readonly string[];
}

/** A timed run at full throttle in one gear, between two speeds, on a closed road. */
export interface RoadPass {
  readonly setupId: string;
  readonly at: string | null;
  /** A name for the way it went; passes of one direction share a wind and a slope. */
  readonly direction: string;
  readonly fromKmH: number;
  readonly toKmH: number;
  readonly seconds: number;
}

/** The car on the road: what the forecast from the rollers needs besides their power. */
export interface RoadCar {
  /** As driven, with driver and fuel. */
  readonly massKg: number;
  /** Gear times final drive: engine turns for one of the wheel. */
  readonly overallRatio: number;
  readonly tyreRadiusM: number;
  /** C_d·A, m²; null: fitted to the baseline's passes. */
  readonly dragAreaM2: number | null;
  /** C_rr. */
  readonly rolling: number;
}

/**
 * The samples of a channel as they were recorded, in SI units; undefined when the pull has no such channel.
 * @example channelValues(newPull('A-1', 'A', 1), 'engine_rpm') // undefined
 */
export function channelValues(pull: Pick<Pull, 'channels'>, name: string): Float64Array | undefined {
  return pull.channels.find((channel) => channel.name === name)?.values;
}

/**
 * The setup that a setup stands for: itself, or the one a chain of return checks leads to.
 * @example repeatedSetup([newSetup('A', 'x'), { ...newSetup('A2', 'x'), returnsTo: 'A' }], 'A2') // 'A'
 */
export function repeatedSetup(setups: readonly Setup[], id: string): string {
  const seen = new Set<string>();
  let at = id;
  while (!seen.has(at)) {
    seen.add(at);
    const next = setups.find((setup) => setup.id === at)?.returnsTo;
    if (!next) return at;
    at = next;
  }
  return at;
}

/**
 * The names a technician uses for pulls: setup, middle dot, place in the setup ("A·5"); by id.
 * @example [...pullNames([newPull('p', 'A', 1)]).values()] // ['A·1']
 */
export function pullNames(pulls: readonly Pull[]): ReadonlyMap<string, string> {
  const bySetup = new Map<string, Pull[]>();
  for (const pull of pulls) {
    const own = bySetup.get(pull.setupId);
    if (own) own.push(pull);
    else bySetup.set(pull.setupId, [pull]);
  }
  return new Map(
    [...bySetup].flatMap(([setup, own]) => pullsInOrder(own).map((p, i) => [p.id, `${setup}·${i + 1}`] as const)),
  );
}

/**
 * Pulls by time, without times by round and position. Among pulls with times, one without stands beside its neighbours of the same
 * round; where its round has none, it comes last.
 * @example pullsInOrder([newPull('b', 'A', 2), newPull('a', 'A', 1)]).map((p) => p.id) // ['a', 'b']
 */
export function pullsInOrder(pulls: readonly Pull[]): Pull[] {
  const byPlace = (a: Pull, b: Pull) => a.round - b.round || a.position - b.position;
  const ordered = pulls.filter((p) => p.startedAt !== null);
  ordered.sort((a, b) => Date.parse(a.startedAt!) - Date.parse(b.startedAt!) || byPlace(a, b));
  const untimed = pulls.filter((p) => p.startedAt === null).sort(byPlace);
  if (ordered.length === 0) return untimed;
  for (const pull of untimed) {
    const sameRound = (p: Pull) => p.setupId === pull.setupId && p.round === pull.round;
    const before = ordered.findLastIndex((p) => sameRound(p) && p.position < pull.position);
    const first = ordered.findIndex(sameRound);
    ordered.splice(before >= 0 ? before + 1 : first >= 0 ? first : ordered.length, 0, pull);
  }
  return ordered;
}
