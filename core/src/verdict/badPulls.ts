import { badPullsIn, caseAlone, merged, mixtureMean, mixtureQuantile } from './engine/answer.ts';
import type { Mixture } from './engine/fit.ts';
import { decide } from './decide.ts';
import { scaledAnswer, type Scaled } from './gain.ts';
import type { MeasuredDay } from './measuredDay.ts';
import type { Verdict } from './outcome.ts';
import type { AnalysisSettings } from './settings.ts';

/** Under this weight a pull is not spoken of; over `NAMED` it is named; up to `SURE` a repeat would tell. */
const SUSPECTED = 0.2;
export const NAMED = 0.5;
const SURE = 0.8;

/** A pull that the day may not be like. */
export interface BadPull {
  /** Index into the pulls of the day. */
  readonly index: number;
  /** How likely it is a bad one, 0–1. */
  readonly likely: number;
  /** Repeating it while the setup is on the car would help: nobody knows what it was, or the verdict hangs on it. */
  readonly repeat: boolean;
}

/** Pulls that are likelier than not a bad one, or on which something hangs. Nothing is dropped: the interval holds both readings. */
export function badPullsOf(
  day: MeasuredDay,
  settings: AnalysisSettings,
  margins: readonly [number, number],
): BadPull[] {
  const likelihoods = badPullsIn(day.noise);
  return day.used.flatMap((_, index) => {
    const likely = likelihoods[index]!;
    if (likely <= SUSPECTED) return [];
    const hangs = day.mixtures.some(
      (m) => verdictOf(caseAlone(m, 0), settings, margins) !== verdictOf(caseAlone(m, index + 1), settings, margins),
    );
    return [{ index, likely, repeat: likely < SURE || hangs }];
  });
}

function verdictOf(
  mixture: Mixture,
  { endpoint, confidence }: AnalysisSettings,
  margins: readonly [number, number],
): Verdict {
  const read = merged(mixture);
  const answer: Scaled = {
    estimate: mixtureMean(mixture),
    low: mixtureQuantile(read, (1 - confidence) / 2),
    high: mixtureQuantile(read, (1 + confidence) / 2),
    low90: mixtureQuantile(read, 0.05),
    high90: mixtureQuantile(read, 0.95),
  };
  return decide(Infinity, scaledAnswer(answer, endpoint.factor), margins, endpoint.better).verdict;
}
