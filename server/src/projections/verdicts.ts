import { VERDICTS, type Gain, type Verdict } from '@prandel/core';

/** What a list knows of a job's verdicts. */
export type KnownVerdicts =
  | { readonly state: 'judged'; readonly verdicts: readonly VerdictFigure[] }
  | { readonly state: 'pending' }
  | { readonly state: 'not-judged'; readonly problem: string };

export interface VerdictFigure {
  readonly candidate: string;
  /** Name of the measure. */
  readonly measure: string;
  readonly verdict: Verdict;
  /** Estimate and interval in the SI unit of the measure; null without an estimate. */
  readonly gain: { readonly unit: Gain['unit']; value: number; lowValue: number; highValue: number } | null;
}

/** Place of a job in a list ordered by verdict: its best verdict, 1 a verified gain to 5 not comparable; 6 without any. */
export function verdictOrderOf(verdicts: readonly Verdict[]): number {
  return Math.min(VERDICTS.length + 1, ...verdicts.map((verdict) => VERDICTS.indexOf(verdict) + 1));
}
