import type { FaultSearch } from '../faults/faultSearch.ts';
import type { PlanStep } from '../job/job.ts';

/** The day's papers of a job: who brought the car, how it runs on rollers, the plan, limits, and what was fitted when. */
export interface JobDay {
  readonly customer: string | null;
  /** The claim being tested, as the customer or the seller words it. */
  readonly claim: string | null;
  readonly intake: Readonly<Record<string, string>>;
  readonly modelCard: ModelCard;
  readonly plan: DayPlan;
  readonly abortLimits: readonly AbortLimit[];
  readonly fittings: readonly Fitting[];
  /** Why the part cannot come off again; null when it can. */
  readonly cannotBeUndone: string | null;
  /** Channels that are shown and printed beside power, at most four; absent: those that the question is asked of. */
  readonly channels?: readonly string[];
  /** Engine speeds at which values are kept and printed, rpm; absent: none were chosen. */
  readonly readAtRpm?: readonly number[];
  /** Rounds closed before their plan was in (`A#1`), with the reason. */
  readonly closedEarly?: Readonly<Record<string, string>>;
  /** Changes of the question after its first counted pull, each with its reason; absent where there were none. */
  readonly amendments?: readonly Amendment[];
  /** Searches for what is wrong with the car; absent where nobody had to. */
  readonly searches?: readonly FaultSearch[];
}

/** A change of a frozen question. */
export interface Amendment {
  /** ISO 8601 instant. */
  readonly at: string;
  readonly who: string;
  readonly reason: string;
  /** What the question was before and is now, in words. */
  readonly what: string;
}

/** How this model runs on rollers: reusable, copied into the job. */
export interface ModelCard {
  readonly label: string;
  readonly gear: string | null;
  /** Gates exist only for sensors the car has. */
  readonly sensors: { readonly intake: boolean; readonly coolant: boolean; readonly oil: boolean };
  readonly safeRpm: readonly [number, number] | null;
  readonly settlePulls: number | null;
  readonly notes: string;
  /** Peak wheel power of baselines of this model that were seen before, W; those of the app's own jobs come on top. */
  readonly baselinesSeenW?: readonly number[];
  /** Limits of charge air on a boosted car, and where its sensor sits; absent: after the cooler, the house's limits. */
  readonly chargeAir?: {
    readonly sensor: 'after-cooler' | 'before-cooler';
    readonly warnC: number | null;
    readonly stopC: number | null;
  };
}

export interface DayPlan {
  readonly shape: PlanShape;
  /** ISO 8601 instant of the first pull; null until somebody plans the day. */
  readonly startAt: string | null;
  readonly minutesPerPull: number;
  readonly fittingMinutes: number;
  /** Minutes after midnight, in the job's time zone. */
  readonly openFromMin: number;
  readonly openUntilMin: number;
  /** The forecast somebody read and typed: coldest and warmest bay air over the day, °C. */
  readonly forecastC: readonly [number, number] | null;
  readonly order: 'fixed' | 'randomised';
  /** The order that was drawn; it stands for the life of the question, so that nobody draws until one pleases. */
  readonly drawn: DrawnOrder | null;
  /** Minutes from setup to setup where somebody said so; the hours of the parts stand for the rest. */
  readonly times?: readonly FittingTime[];
  /** Rounds that were added after the planned pulls were in; absent while nobody added any. */
  readonly extended?: { readonly at: string; readonly declared: boolean; readonly rounds: readonly PlanStep[] };
}
/** `own`: rounds that somebody put in order by hand. */
export const PLAN_SHAPES = ['return', 'middle', 'second', 'twice', 'hold', 'plain', 'own'] as const;
export type PlanShape = (typeof PLAN_SHAPES)[number];

/** Minutes from one setup to another on the car. */
export interface FittingTime {
  readonly from: string;
  readonly to: string;
  readonly minutes: number;
}

/** Candidates as they were drawn, and the seed from which anybody can draw them again. */
export interface DrawnOrder {
  readonly seed: number;
  readonly candidates: readonly string[];
}

/** Warn and stop thresholds on a channel; armed per job. */
export interface AbortLimit {
  readonly channel: string;
  readonly warn: number | null;
  readonly stop: number;
  /** `above`: too high is bad; `below`: too low is (oil pressure). */
  readonly side: 'above' | 'below';
}

/** One fitting: the clock, who, and everything that was touched. */
export interface Fitting {
  readonly setup: string;
  readonly who: string;
  readonly startedAt: string;
  readonly stoppedAt: string | null;
  readonly changed: string;
  readonly disturbed: string;
  readonly parts: string;
  readonly cost: number | null;
  readonly notes: string;
  /** Pictures taken while the clock ran or afterwards; absent where nobody took any. */
  readonly photos?: readonly FittingPhoto[];
}

/** A picture kept with the job and in its package; the digest is in the evidence log too. */
export interface FittingPhoto {
  /** Where it lies in the job package: `photos/…`. */
  readonly path: string;
  /** What the camera or the person called it. */
  readonly name: string;
  readonly sha256: string;
  /** When it was added, ISO 8601. */
  readonly addedAt: string;
}

export const UNKNOWN_CARD: ModelCard = {
  label: '',
  gear: null,
  sensors: { intake: true, coolant: true, oil: true },
  safeRpm: null,
  settlePulls: null,
  notes: '',
};

/** Five minutes a pull and fifty a fitting until somebody measured better. Common practice, no source. */
export const USUAL_DAY: JobDay = {
  customer: null,
  claim: null,
  intake: {},
  modelCard: UNKNOWN_CARD,
  plan: {
    shape: 'return',
    startAt: null,
    minutesPerPull: 5,
    fittingMinutes: 50,
    openFromMin: 8 * 60,
    openUntilMin: 18 * 60,
    forecastC: null,
    order: 'fixed',
    drawn: null,
  },
  abortLimits: [],
  fittings: [],
  cannotBeUndone: null,
};
