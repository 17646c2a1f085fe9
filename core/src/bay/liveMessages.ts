import type { ConditionFinding } from '../verdict/conditionFindings.ts';
import type { Bay, Vehicle } from '../job/job.ts';
import type { PullFinding } from '../pull/findings.ts';
import type { BaselineStanding } from '../baseline/modelRange.ts';
import type { Suspect } from '../faults/suspects.ts';
import type { Extension } from '../plan/extension.ts';
import type { VerdictSummary } from '../verdict/outcome.ts';
import type { GateReason, GateRow } from './gates.ts';
import type { BayTrack } from './bayTrack.ts';
import type { ModelCard } from './jobDay.ts';
import type { LimitCrossed } from './abortLimits.ts';
import type { PlanSees } from '../plan/planSees.ts';
import type { HalfWidth, Settled } from './roundProgress.ts';

/** Version of the live channel's messages. */
export const LIVE_VERSION = 1;

export const SHEET_STATES = [
  'no-job',
  'hold',
  'ready',
  'pulling',
  'review',
  'cooling',
  'blocked',
  'sensor-lost',
  'fitting',
  'between',
  'stop',
] as const;
export type SheetState = (typeof SHEET_STATES)[number];

export type InstrumentState = 'connected' | 'silent' | 'implausible' | 'absent';

/** One line of the device panel. */
/** What is wrong with an instrument. `detail` is what the reader of its protocol says of the bytes. */
export type InstrumentFault =
  | { readonly code: 'not-connected-yet' | 'says-nothing' | 'line-lost' | 'unreadable' }
  | { readonly code: 'not-allowed'; readonly host: string }
  | { readonly code: 'no-connection'; readonly host: string; readonly port: number }
  | { readonly code: 'too-fast'; readonly megabytesPerS: number }
  | {
      readonly code: 'line-unreadable' | 'sentence-unreadable' | 'weather-not-believed' | 'no-registers' | 'no-modbus';
      readonly detail: string;
    }
  | { readonly code: 'not-believed'; readonly channel: string; readonly value: number }
  | { readonly code: 'reduced-to-sea-level'; readonly pressureHpa: number };

export interface InstrumentStatus {
  readonly kind: 'rollers' | 'weather' | 'bus' | 'aux';
  readonly state: InstrumentState;
  /** Why it is silent or implausible; null: it is connected. */
  readonly fault: InstrumentFault | null;
  /** The last good reading by channel, in the units of the channels' names, and how many seconds ago it came. */
  readonly lastGood: Readonly<Record<string, number>> | null;
  readonly ageS: number | null;
}

/** A pull as the bay shows it: findings first; figures only once it has been judged whether it counts. */
export interface SheetPull {
  readonly id: string;
  readonly position: number;
  readonly status: 'settle' | 'counted' | 'set-aside';
  readonly reason: string | null;
  readonly marks: readonly string[];
  /** Peak wheel power, W; null while in review or not readable. */
  readonly peakW: number | null;
  /** It may be unlike the other pulls of its setup, and one pull more would tell; null: nothing of the kind. */
  readonly odd: OddPull | null;
}

/** How likely a pull is a bad one, per cent; null: it has a dip that the others lack. */
export interface OddPull {
  readonly likelyPercent: number | null;
}

export interface SheetCurve {
  readonly label: string;
  readonly setup: string;
  readonly firstRpm: number;
  /** W, one value every 25 rpm; null where the curve has a hole. */
  readonly powerW: readonly (number | null)[];
}

/** A candidate's verdict on the run sheet, with what makes the pair not comparable. */
export type SheetVerdict = VerdictSummary & { readonly blocking: readonly ConditionFinding[] };

/** Why the bay is in its state: the gate's reasons, or the limit whose crossing stopped it. */
export type SheetReason = GateReason | { readonly kind: 'limit-crossed'; readonly crossed: LimitCrossed };

/** Everything the run sheet shows, told a few times a second. */
export interface LiveSheet {
  readonly state: SheetState;
  /** Seconds until READY, or null when waiting alone does not do it. */
  readonly waitS: number | null;
  /** Interval of the wait, seconds; null without a forecast. */
  readonly waitRangeS: readonly [number, number] | null;
  readonly reasons: readonly SheetReason[];
  readonly rows: readonly GateRow[];
  readonly readings: Readonly<Partial<Record<string, { readonly value: number; readonly ageS: number }>>>;
  readonly instruments: readonly InstrumentStatus[];
  readonly atMs: number;
  readonly job: {
    readonly id: string;
    readonly version: number;
    readonly number: string;
    readonly title: string;
    readonly vehicle: string;
    readonly card: ModelCard | null;
    /** What turns roller speed into power, for the curve of a pull while it is recorded. */
    readonly rig: { readonly bay: Bay; readonly vehicle: Vehicle };
    readonly setups: readonly { readonly id: string; readonly label: string; readonly returnsTo: string | null }[];
    /** The gain that would matter, true per cent. */
  } | null;
  readonly round: {
    readonly setup: string;
    readonly label: string;
    readonly number: number;
    readonly pulls: readonly SheetPull[];
    readonly next: { readonly position: number; readonly status: 'settle' | 'counted' };
    readonly counted: number;
    readonly countedSoFar: number;
    readonly settle: number;
    readonly complete: boolean;
  } | null;
  readonly recording: { readonly pullId: string; readonly samples: number } | null;
  readonly review: {
    readonly pullId: string;
    readonly leftS: number;
    readonly findings: readonly PullFinding[];
  } | null;
  /** Samples that wait in memory because the database is full or away; 0 when everything is stored. */
  readonly waiting: number;
  /** Pulls that were made while no job was on the bay; the next job keeps them, set aside. */
  readonly unclaimed: number;
  /** Recordings of this bay that could not become pulls; they wait with their samples on the page of bays. */
  readonly quarantined: number;
  readonly repeatabilityPercent: number | null;
  readonly halfWidths: readonly HalfWidth[];
  /** Before there is an interval: what the plan will see of each measure; empty once there is one, and without a plan. */
  readonly planSees: readonly PlanSees[];
  readonly settled: Settled;
  readonly curves: readonly SheetCurve[];
  readonly override: { readonly reason: string } | null;
  readonly crossed: readonly LimitCrossed[];
  readonly fitting: { readonly setup: string; readonly startedAt: string } | null;
  /** The verdicts, only once every planned pull is in; before, none. */
  readonly verdicts: readonly SheetVerdict[];
  /** The rounds that would settle an open question about every second time; null without one. */
  readonly extension: Extension | null;
  readonly window: readonly [number, number] | null;
  readonly planComplete: boolean;
  readonly pullsMissing: number;
  /** The baseline beside its model, once its round is in, and what to look at first where it reads low. */
  readonly baseline: (BaselineStanding & { readonly suspect: Suspect | null }) | null;
  /** Setup of the next planned round that nobody has begun; null without one. */
  readonly nextSetup: string | null;
  /** The day so far and what the plan still asks for; null without a job. */
  readonly track: BayTrack | null;
  /** Air of the bay: density altitude and factor, for Today. */
  readonly air: {
    readonly densityAltitudeM: number;
    readonly factor: number;
    readonly driftPercent: number | null;
  } | null;
}

export type LiveMessage =
  | { readonly v: 1; readonly seq: number; readonly kind: 'sheet'; readonly sheet: LiveSheet }
  | {
      readonly v: 1;
      readonly seq: number;
      readonly kind: 'samples';
      readonly pullId: string;
      /** Place of the first row in the pull. */
      readonly from: number;
      readonly names: readonly string[];
      readonly rows: readonly (readonly (number | null)[])[];
      /** Server time at which the newest sample arrived, milliseconds since 1970. */
      readonly arrivedMs: number;
    };

type Members = Readonly<Record<string, unknown>>;

/**
 * The message in a text that came over the live channel; null for what is none of this version. JSON has no NaN: a sample that is missing
 * is null, and stays it.
 * @example readLiveMessage('{}') // null
 */
export function readLiveMessage(text: string): LiveMessage | null {
  let message: Members;
  try {
    message = JSON.parse(text) as Members;
  } catch {
    return null;
  }
  if (typeof message !== 'object' || message === null) return null;
  const isWhole = message.v === LIVE_VERSION && Number.isSafeInteger(message.seq);
  if (!isWhole) return null;
  if (message.kind === 'sheet') return isSheet(message.sheet) ? (message as unknown as LiveMessage) : null;
  return message.kind === 'samples' && isSamples(message) ? (message as unknown as LiveMessage) : null;
}

function isSheet(value: unknown): boolean {
  if (typeof value !== 'object' || value === null) return false;
  const { state, atMs, ...lists } = value as Members;
  return (
    SHEET_STATES.some((known) => known === state) &&
    Number.isFinite(atMs) &&
    [lists.rows, lists.reasons, lists.instruments, lists.curves, lists.crossed].every(Array.isArray)
  );
}

function isSamples({ pullId, from, names, rows, arrivedMs }: Members): boolean {
  if (typeof pullId !== 'string' || !Number.isSafeInteger(from) || !Number.isFinite(arrivedMs)) return false;
  if (!Array.isArray(names) || !names.every((name) => typeof name === 'string') || !Array.isArray(rows)) return false;
  return rows.every(
    (row) =>
      Array.isArray(row) &&
      row.length === names.length &&
      row.every((value) => value === null || typeof value === 'number'),
  );
}
