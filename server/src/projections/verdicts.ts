import type { Gain, Verdict } from '@prandel/core';

/** What a list knows of a job's verdicts. */
export type KnownVerdicts =
  | { readonly state: 'judged'; readonly verdicts: readonly VerdictFigure[] }
  | { readonly state: 'pending' }
  | { readonly state: 'not-judged'; readonly problem: string };

export interface VerdictFigure {
  readonly candidate: string;
  readonly verdict: Verdict;
  /** Estimate and interval in the SI unit of the measure; null without an estimate. */
  readonly gain: { readonly unit: Gain['unit']; value: number; lowValue: number; highValue: number } | null;
}
