import { merged, mixtureQuantile } from './answer.ts';
import type { Mixture } from './fit.ts';
import { pointwiseLevel, tukeyCritical } from './simultaneous.ts';

/** The level at which the interval of a pair is read off its own mixture, so that those of all pairs of k setups hold at once. */
export function pairLevel(k: number, confidence = 0.95): number {
  return pointwiseLevel(tukeyCritical(k, confidence));
}

/** Ends of an interval at a level, log-percent. */
export function intervalAt(mixture: Mixture, level: number): { readonly low: number; readonly high: number } {
  return endsAt(merged(mixture), level);
}

/** The same of a mixture whose cells were put together already. */
export function endsAt(read: Mixture, level: number): { readonly low: number; readonly high: number } {
  return { low: mixtureQuantile(read, level / 2), high: mixtureQuantile(read, 1 - level / 2) };
}
