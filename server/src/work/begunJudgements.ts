import { createHash } from 'node:crypto';
import { judgePrepared, judgementSteps, type Judgement, type JudgementDepth } from '@prandel/core';
import { preparedFrom, type FramedJob } from '../frames/madeFrames.ts';

/** Judgements that this thread keeps, the latest: a job that was listed is soon reported. One of 300 pulls holds some 50 MB until it is whole. */
const MOST_KEPT = 2;

/** A judgement as far as somebody wanted it. */
interface Begun {
  readonly verdicts: Judgement;
  /** What follows after the verdicts; null once it is there. */
  rest: Generator<Judgement, void> | null;
  whole: Judgement | null;
}

const kept = new Map<string, Begun>();

/**
 * Judges a job, or goes on where this thread left off: lists want verdicts only, and a report of the same job wants the rest. What was
 * judged is known by the job and everything that stands for its samples, so that nothing older is ever handed out. A job that brings
 * its samples, to be sealed, is judged from them and not kept.
 */
export function judged(framed: FramedJob, depth: JudgementDepth): Judgement {
  if (framed.job.pulls.some((p) => p.channels.length > 0))
    return judgePrepared(framed.job, preparedFrom(framed), depth);
  const key = keyOf(framed);
  const begun = kept.get(key) ?? begin(framed);
  // Steps that failed cannot be gone on with: it is kept again only when what was wanted is there.
  kept.delete(key);
  if (depth !== 'verdict' && begun.rest) {
    begun.whole = begun.rest.next().value as Judgement;
    begun.rest = null;
  }
  kept.set(key, begun);
  for (const old of [...kept.keys()].slice(0, -MOST_KEPT)) kept.delete(old);
  return depth === 'verdict' ? begun.verdicts : begun.whole!;
}

function begin(framed: FramedJob): Begun {
  const steps = judgementSteps(framed.job, preparedFrom(framed));
  steps.next();
  return { verdicts: steps.next().value as Judgement, rest: steps, whole: null };
}

function keyOf({ job, frames }: FramedJob): string {
  const hash = createHash('sha256').update(JSON.stringify(job));
  for (const [id, bytes] of frames) hash.update(id).update(bytes);
  return hash.digest('base64');
}
