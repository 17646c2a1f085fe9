import type { Job } from '../job/job.ts';
import { USUAL_DAY } from './jobDay.ts';

/** Counted pulls a round where the fade is asked about; common practice, no source (5–6 for intercoolers). */
export const FADE_PULLS = 5;

/**
 * Minutes from pull to pull where a question asks for a fade: its rounds are pulled back to back at a fixed pause, both setups alike, and
 * only the first pull of a round waits for temperatures. Null for any other question.
 * @example fixedPauseMin(newJob('1', 'x')) // null
 */
export function fixedPauseMin({ question, day }: Pick<Job, 'question' | 'day'>): number | null {
  return question.measures.some((m) => m.id === 'fade') ? (day ?? USUAL_DAY).plan.minutesPerPull : null;
}
