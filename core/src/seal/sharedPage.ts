import type { Verdict } from '../verdict/outcome.ts';

/** One result as a customer's page shows it; sentences and figures are as they were printed when the job was sealed. */
export interface SharedResult {
  readonly setup: string;
  readonly label: string;
  readonly measure: string;
  readonly verdict: Verdict;
  readonly sentence: string;
  /** "+2.6", with its unit; null where there is no estimate. */
  readonly estimate: string | null;
  readonly unit: string | null;
  readonly sure: string;
  /** SVG of the difference over engine speed; null where there is none. */
  readonly picture: string | null;
  readonly means: readonly string[];
}

/** What a customer's page shows of a sealed job. Plain text and pictures made by the server. */
export interface SharedPage {
  readonly number: string;
  readonly question: string;
  readonly vehicle: string;
  readonly customer: string | null;
  readonly day: string | null;
  readonly bay: string;
  readonly results: readonly SharedResult[];
  /** How it was measured, a sentence each. */
  readonly how: readonly string[];
}
