import type { ShownUnits } from '@prandel/presentation';
import type { Job, Judgement, RecordedPart } from '@prandel/core';

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
  readonly printedAt: string;
}
