import type {
  Bay,
  BayLearned,
  CandidateVerdict,
  ChartAnswer,
  ChartPoint,
  ChartSignal,
  ChartStretch,
  Complaint,
  Contrast,
  FaultSearch,
  InstrumentStatus,
  Job,
  LiveMessage,
  LiveSheet,
  ModelCard,
  ModelRange,
  PooledHeat,
  SharedPage,
  ShelfAnswer,
  ShownRange,
  SuspectRecord,
  Verdict,
} from '@prandel/core';
import type { BayInstruments } from '../database/shapes.ts';
import type { StoredJob } from '../jobs/jobStore.ts';

// Answers made of types of core/. The API's document describes them from here (`npm run api`); nobody writes them down a second time.

/** A job as the server stores it, without samples. */
export type JobAnswer = StoredJob;

/** A bay as the list of bays tells it. */
export interface BayListed {
  readonly id: string;
  readonly label: string;
  readonly version: number;
  readonly rollers: Bay;
  readonly instruments: BayInstruments;
  readonly status: readonly InstrumentStatus[];
  /** The job that is on its rollers. */
  readonly job: string | null;
  /** Why it records nothing, in words; null: it records. */
  readonly fault: string | null;
  /** Another server process on the same database leads it and does not answer. */
  readonly ledElsewhere: boolean;
}

export type BaysAnswer = readonly BayListed[];
export type SheetAnswer = LiveSheet;
export type LearnedAnswer = BayLearned;
/** The numbers of a report, without its curves. */
export interface ReportNumbers {
  readonly job: Pick<Job, 'id' | 'title' | 'vehicle' | 'question' | 'method'>;
  /** SHA-256 of the inputs. */
  readonly digest: string;
  /** Engine speeds in rpm from, to. */
  readonly window: readonly [number, number] | null;
  readonly declaredWindow: readonly [number, number] | null;
  readonly verdicts: readonly Omit<CandidateVerdict, 'ribbon'>[];
  readonly contrasts: readonly Contrast[];
}
/** What the page of a shared link shows. */
export interface SharedAnswer {
  readonly shop: string;
  readonly page: SharedPage;
  readonly by: string;
  readonly sealedAt: string;
  /** Of the key that sealed it, in groups of four. */
  readonly fingerprint: string;
  readonly sealSha256: string;
  /** The job was opened again after this seal; null: it was not. */
  readonly reopened: { readonly at: string; readonly reason: string } | null;
  /** A later seal stands in place of this one. */
  readonly sealedAgain: boolean;
  readonly expiresAt: string | null;
}
/** A job that ran a part. */
export interface ShelfRow {
  readonly job: string;
  readonly number: string;
  readonly title: string;
  readonly at: string | null;
  readonly car: string;
  readonly model: string | null;
  readonly bay: string;
  readonly epoch: string | null;
  readonly setup: string;
  readonly against: string;
  readonly changes: string;
  readonly measure: string;
  readonly verdict: Verdict;
  /** True per cent, or the measure's unit; null where the job has no estimate. */
  readonly range: ShownRange | null;
  /** Share in the average; 0 where it is left out. */
  readonly weight: number;
}

/** Everything that jobs say of a part. */
export interface PartShelfAnswer {
  readonly part: {
    readonly id: string;
    readonly name: string;
    readonly number: string;
    readonly kind: string;
    readonly price: number | null;
    readonly currency: string;
    readonly hours: number | null;
    readonly promisedPercent: number | null;
    readonly closedCourseOnly: boolean;
    readonly mergedInto: string | null;
    /** Names of parts that were found to be this one. */
    readonly mergedNames: readonly string[];
  };
  readonly measures: readonly {
    readonly measure: string;
    readonly answer: ShelfAnswer;
    readonly rows: readonly ShelfRow[];
  }[];
  /** Jobs in which it was one of several changes of one step. */
  readonly apart: readonly ShelfRow[];
}
/** A signal that nobody has answered. */
export interface OpenSignal {
  readonly bay: string;
  readonly label: string;
  readonly chart: 'reference' | 'second';
  readonly code: ChartSignal['code'];
  readonly at: string;
  /** Of the point at which it shows. */
  readonly name: string;
}
export type OpenSignalsAnswer = readonly OpenSignal[];

/** How a bay stands against itself; figures in log-percent, of the second instrument in hPa. */
export interface BayChartsAnswer {
  readonly id: string;
  readonly label: string;
  readonly elevationM: number | null;
  /** Pooled over the last jobs; the limit is that of two pulls in a row. Null: no job tells. */
  readonly repeatability: { readonly sd: number; readonly limit: number; readonly jobs: number } | null;
  readonly months: readonly { readonly month: string; readonly jobs: number; readonly sd: number }[];
  readonly returns: { readonly points: readonly ChartPoint[]; readonly limit: number | null };
  readonly references: readonly { readonly car: string; readonly stretches: readonly ChartStretch[] }[];
  readonly second: readonly ChartStretch[];
  readonly answers: readonly (ChartAnswer & { readonly chart: OpenSignal['chart'] })[];
}
/** The searches of a job, with what earlier ones of the same complaint say of the suspects. */
export type SearchesAnswer = readonly { readonly search: FaultSearch; readonly seen: readonly SuspectRecord[] }[];
/** A model with how often it was there. */
export interface ModelListed {
  readonly id: string;
  readonly label: string;
  readonly jobs: number;
  readonly cars: number;
  readonly lastAt: string | null;
}
export type ModelsAnswer = readonly ModelListed[];

/** What the shop knows of a model. */
export interface ModelAnswer {
  readonly id: string;
  readonly label: string;
  readonly jobs: number;
  readonly cars: number;
  readonly card: ModelCard;
  /** One a car, in the present epoch of the bay that saw the model last. */
  readonly baselines: readonly {
    readonly job: string;
    readonly number: string;
    readonly car: string;
    readonly peakW: number;
    readonly at: string | null;
  }[];
  /** Peaks of baselines that somebody typed into the card, W. */
  readonly typedW: readonly number[];
  readonly bay: string | null;
  /** Where the next baseline is expected; null under three cars. */
  readonly range: ModelRange | null;
  readonly heat: PooledHeat | null;
  /** Pulls before a car of the model reads as it goes on to read; null under three jobs. */
  readonly settle: { readonly pulls: number; readonly jobs: number } | null;
  readonly parts: readonly {
    readonly job: string;
    readonly number: string;
    readonly at: string | null;
    readonly part: string;
    readonly partId: string | null;
    readonly alone: boolean;
    readonly measure: string;
    readonly verdict: Verdict;
    readonly range: ShownRange | null;
  }[];
  readonly searches: readonly {
    readonly job: string;
    readonly number: string;
    readonly at: string;
    readonly complaint: Complaint;
    readonly words: string;
    readonly looks: number;
    readonly culprit: { readonly suspect: string; readonly cured: boolean } | null;
  }[];
}

/** Something that was looked for. */
export interface Found {
  readonly kind: 'job' | 'part' | 'model-card' | 'vehicle' | 'customer';
  readonly id: string;
  readonly label: string;
  readonly about: string;
}
export interface FindAnswer {
  readonly found: readonly Found[];
}
/** How the shop's days go, month by month ("2026-05"). */
export interface TrendsAnswer {
  readonly months: readonly {
    readonly month: string;
    readonly jobs: number;
    readonly verdicts: readonly { readonly verdict: Verdict; readonly jobs: number }[];
  }[];
  /** Of pulls that were meant to count. */
  readonly setAside: readonly { readonly month: string; readonly pulls: number; readonly aside: number }[];
  readonly reasons: readonly {
    readonly reason: string;
    readonly pulls: number;
    readonly behind: readonly { readonly job: string; readonly number: string; readonly pull: string }[];
  }[];
  readonly minutes: readonly { readonly month: string; readonly minutes: number; readonly jobs: number }[];
  /** How long each closed gate kept pulls from starting, by the gate's key, the longest first; seconds. Two may hold at once. */
  readonly holds: readonly {
    readonly gate: string;
    readonly seconds: number;
    readonly pulls: number;
    readonly months: readonly { readonly month: string; readonly seconds: number; readonly pulls: number }[];
    /** The pulls that waited longest. */
    readonly behind: readonly {
      readonly job: string;
      readonly number: string;
      readonly pull: string;
      readonly seconds: number;
    }[];
  }[];
  readonly overrides: readonly {
    readonly person: string;
    readonly overrides: number;
    readonly behind: readonly {
      readonly job: string;
      readonly number: string;
      readonly at: string;
      readonly what: string;
    }[];
  }[];
  /** Per cent of mean power. */
  readonly promises: readonly {
    readonly id: string;
    readonly name: string;
    readonly promised: number;
    readonly cars: number;
    readonly found: number;
    readonly low: number | null;
    readonly high: number | null;
  }[];
}
/** One message of the live channel, `/api/live?bay=ID&since=N`. */
export type LiveChannelMessage = LiveMessage;
