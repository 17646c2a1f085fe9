import type { ShownUnits } from '@prandel/presentation';
import type { Job, Judgement, RecordedPart } from '@prandel/core';

/** What a sealed sheet prints of its seal. */
export interface PrintedSeal {
  readonly publicKey: string;
  /** Hash of the log's last row. */
  readonly head: string;
  readonly sealedAt: string;
  readonly by: string;
  /** Address of the page that checks it. */
  readonly checkAt: string;
}

/** Everything a report is made from. */
export interface ReportInput {
  readonly shop: string;
  readonly person: string;
  readonly job: Job;
  readonly judgement: Judgement;
  readonly units: ShownUnits;
  /** One chart per candidate, as SVG text. */
  readonly charts: readonly { readonly candidate: string; readonly measure: string; readonly svg: string }[];
  /** What the shop's record says of the parts. */
  readonly recorded: readonly RecordedPart[];
  readonly digest: string;
  /** Null: the job is open, and the report may change with it. */
  readonly seal: PrintedSeal | null;
  readonly printedAt: string;
}
