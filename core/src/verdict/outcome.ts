import type { PullStatus } from '../job/job.ts';
import type { PullReadings } from '../measures/channelReadings.ts';
import type { MeasureFacts } from '../measures/measureFacts.ts';
import type { GridCurve, Peak } from '../pull/gridCurve.ts';
import type { PullFinding } from '../pull/findings.ts';
import type { ConditionFinding } from './conditionFindings.ts';
import type { ConditionRow } from './conditions.ts';
import type { CorrectionId } from '../correction/standards.ts';
import type { WidthShares } from './engine/plugIn.ts';
import type { NotUsed } from './selection.ts';
import type { StateRow } from './states.ts';
import type { MorePulls, Narrower } from './planning.ts';
import type { School } from '../compare/schools.ts';

export const VERDICTS = [
  'verified-gain',
  'verified-loss',
  'no-meaningful-change',
  'not-resolved',
  'not-comparable',
] as const;
/** `verified-gain` means better: more power, or a lower temperature; of a measure without a better it means higher. */
export type Verdict = (typeof VERDICTS)[number];

/** An estimate as it leaves the engine: the measure's own unit (SI, or the channel's), and true per cent where that means something. */
export interface Gain {
  /** Null on an additive scale, of which there is no per cent. */
  readonly percent: number | null;
  readonly lowPercent: number | null;
  readonly highPercent: number | null;
  readonly low90Percent: number | null;
  readonly high90Percent: number | null;
  readonly value: number;
  readonly lowValue: number;
  readonly highValue: number;
  readonly unit: string;
  readonly confidence: number;
  readonly p: number;
  /** Log-percent, or the measure's unit. */
  readonly estimate: number;
}

export interface Band {
  readonly fromRpm: number;
  readonly toRpm: number;
  readonly inWindow: boolean;
  readonly percent: number;
  readonly lowPercent: number;
  readonly highPercent: number;
  /** Excludes zero in the simultaneous interval. */
  readonly verified: boolean;
  readonly verdict: 'verified-gain' | 'verified-loss' | 'no-meaningful-change' | 'not-resolved';
  /** Levels of the two sides, SI unit of the measure. */
  readonly baseline: number;
  readonly candidate: number;
}

/** Difference over rpm with its pointwise interval, every 100 rpm, true per cent of the baseline at that speed. */
export interface Ribbon {
  readonly rpm: Float64Array;
  readonly percent: Float64Array;
  readonly lowPercent: Float64Array;
  readonly highPercent: Float64Array;
  /** Level of the baseline, SI unit of the measure. */
  readonly baseline: Float64Array;
  readonly crossovers: readonly number[];
}

export interface SidePulls {
  readonly counted: number;
  readonly used: number;
  readonly settle: number;
  readonly setAside: number;
}

/** The rule that decided a verdict; `scatter`: the pulls scatter by more than 3 %, `conditions`: the blocking findings say which. */
export type VerdictReason =
  | 'scatter'
  | 'conditions'
  | 'too-few-pulls'
  | 'correction-decides'
  | 'one-side-of-zero'
  | 'inside-what-matters'
  | 'open';

/** `meant-to-change`: the part is meant to change it, or the measure is a temperature; `missing`: start temperatures are not known. */
export type HeatUse = 'adjusted' | 'meant-to-change' | 'missing';

/** Steps from the naive figure to the result, in order. */
export const STEP_KINDS = ['measured', 'weather', 'start-temperature', 'drift', 'bad-pulls'] as const;

/** A step and the difference as it stands after it, true per cent or °C; after the last it is the result. */
export interface Step {
  readonly kind: (typeof STEP_KINDS)[number];
  readonly after: number;
}

/** A pull that may be unlike the others: how likely (0–1), and whether repeating it would help. */
export interface SuspectedPull {
  readonly pullId: string;
  readonly name: string;
  readonly likely: number;
  readonly repeat: boolean;
}

/** What the interval is made of, and what the day's pulls say of the bay. */
export interface Width {
  readonly shares: WidthShares;
  /** Pull scatter today, the measure's per cent or °C. */
  readonly scatter: number;
}

/** How an estimate was made: counted pulls, confidence 0–1, what became of heat and weather, averaging in rpm (0 = none). */
export interface MethodUsed {
  readonly pulls: number;
  readonly confidence: number;
  readonly quantity: MeasureFacts['quantity'];
  readonly heat: HeatUse;
  /** Null where the numbers were not corrected for weather. */
  readonly correction: CorrectionId | null;
  readonly averagingRpm: number;
  /** Torque that roll-ons are to reach; null of other measures. */
  readonly targetNm: number | null;
}

export interface CandidateVerdict {
  readonly candidate: string;
  readonly baseline: string;
  /** Name of the measure (`measureName`). */
  readonly measure: string;
  /** The size that was agreed to matter: true per cent, or the measure's unit. */
  readonly meaningful: number;
  readonly verdict: Verdict;
  readonly reason: VerdictReason;
  /** A verified gain whose 90 % high end stays under the gain that would matter. */
  readonly smallerThanMatters: boolean;
  readonly gain: Gain | null;
  /** Plain means of the two sides' counted pulls, the measure's unit; null without a pull that reads. */
  readonly levels: { readonly baseline: number | null; readonly candidate: number | null };
  readonly bands: readonly Band[];
  readonly ribbon: Ribbon | null;
  readonly peaks: { readonly baseline: SetupPeaks | null; readonly candidate: SetupPeaks | null };
  readonly schools: readonly School[];
  readonly pulls: { readonly baseline: SidePulls; readonly candidate: SidePulls };
  readonly conditions: {
    readonly comparable: boolean;
    readonly findings: readonly ConditionFinding[];
    readonly rows: readonly ConditionRow[];
    readonly state: readonly StateRow[];
  };
  readonly morePullsNeeded: MorePulls | null;
  /** How the result came about; empty without one. */
  readonly steps: readonly Step[];
  readonly width: Width | null;
  /** What would make the interval narrower, and by how much. */
  readonly narrower: readonly Narrower[];
  /** Pulls of the two sides that may be unlike the others; they stay in, weighed down. */
  readonly suspected: readonly SuspectedPull[];
  /** The same on uncorrected power, for boost-controlled turbo cars. */
  readonly uncorrected: { readonly verdict: Verdict; readonly gain: Gain | null } | null;
  /** Later minus earlier round of the widest bracket, true per cent or the measure's unit; null without a return check, and of a fade. */
  readonly returnCheck: { readonly value: number; readonly unit: string } | null;
  readonly method: MethodUsed;
}

/** What the sentences about a candidate need. */
export type VerdictSummary = Pick<
  CandidateVerdict,
  | 'candidate'
  | 'baseline'
  | 'measure'
  | 'meaningful'
  | 'verdict'
  | 'reason'
  | 'gain'
  | 'smallerThanMatters'
  | 'morePullsNeeded'
  | 'suspected'
>;

export interface SetupPeaks {
  readonly power: Peak;
  readonly torque: Peak;
}

/** Everything known about one pull: its curve at the method's width, corrected, and whether it entered the fit. */
export interface JudgedPull {
  readonly id: string;
  readonly setupId: string;
  readonly name: string;
  readonly status: PullStatus;
  readonly used: boolean;
  readonly notUsedBecause: NotUsed | null;
  readonly power: GridCurve;
  readonly factor: number | null;
  readonly windowMeanW: number;
  readonly peak: Peak | null;
  readonly startAboveAirC: number | null;
  readonly hours: number;
  readonly findings: readonly PullFinding[];
  /** Of its channels. */
  readonly readings: PullReadings;
}

/** Mean curve of a setup's counted pulls (its return checks apart) with a pointwise 95 % band. */
export interface SetupCurve {
  readonly setupId: string;
  readonly side: number | null;
  readonly power: GridCurve;
  readonly halfWidthW: Float64Array;
  readonly peaks: SetupPeaks | null;
  readonly pulls: number;
}

/** Two candidates compared with each other, or what two changes do together beyond what each does alone. */
export interface Contrast extends Difference {
  readonly of:
    | { readonly kind: 'pair'; readonly candidate: string; readonly against: string }
    | { readonly kind: 'interaction'; readonly both: string; readonly alone: readonly [string, string] };
  /** Name of the measure. */
  readonly measure: string;
  /** The interval contains zero. */
  readonly tie: boolean;
  /** Ends that hold for all pairs of setups at once, in the same unit; null of an interaction. */
  readonly together: { readonly low: number; readonly high: number } | null;
}

/** A difference with its interval, in true per cent or, on an additive measure, in its own unit. */
export interface Difference {
  readonly estimate: number;
  readonly low: number;
  readonly high: number;
  readonly unit: string;
}

export interface Judgement {
  readonly declaredWindow: readonly [number, number] | null;
  readonly window: readonly [number, number] | null;
  /** Whether the air of every counted pull is known: temperatures are then compared above it. */
  readonly airKnown: boolean;
  readonly pulls: readonly JudgedPull[];
  readonly setups: readonly SetupCurve[];
  readonly verdicts: readonly CandidateVerdict[];
  readonly contrasts: readonly Contrast[];
  /** Intervals that hold for all candidates at once, from two candidates on. */
  readonly simultaneous: readonly ({ readonly candidate: string; readonly measure: string } & Difference)[];
}
