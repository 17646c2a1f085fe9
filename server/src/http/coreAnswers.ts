import type {
  Bay,
  BayLearned,
  CandidateVerdict,
  ChartAnswer,
  ChartPoint,
  ChartSignal,
  ChartStretch,
  Contrast,
  FaultSearch,
  InstrumentStatus,
  Job,
  LiveMessage,
  LiveSheet,
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
/** One message of the live channel, `/api/live?bay=ID&since=N`. */
export type LiveChannelMessage = LiveMessage;
