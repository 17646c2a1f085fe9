/** A verdict with its figures rounded as they are printed. */
export interface SealedVerdict {
  readonly candidate: string;
  readonly baseline: string;
  readonly measure: string;
  readonly verdict: string;
  /** As printed, with their sign: "+2.6"; null where the verdict has no estimate. */
  readonly estimate: string | null;
  readonly low: string | null;
  readonly high: string | null;
  readonly unit: string | null;
  /** The same in per cent; null for a measure that is not read in per cent. */
  readonly percent: string | null;
  readonly lowPercent: string | null;
  readonly highPercent: string | null;
}
