import { steady } from '../statistics/summary.ts';
import { logPercent } from './percent.ts';
import type { MeasureFacts } from '../measures/measureFacts.ts';
import type { Scaled } from './gain.ts';
import type { Verdict } from './outcome.ts';

/** The five verdicts in the order of their rules. */
export interface Decision {
  readonly verdict: Verdict;
  readonly smallerThanMatters: boolean;
}

/** Margins ±δ on the engine's scale: log-percent of true per cent, or the plain value on an additive scale. */
export function margins(meaningful: number, scale: 'log' | 'additive'): readonly [number, number] {
  return scale === 'log' ? [logPercent(-meaningful), logPercent(meaningful)] : [-meaningful, meaningful];
}

const VERIFIED: readonly Verdict[] = ['verified-gain', 'verified-loss'];

/** Verdict of a comparable pair: the smaller count of the two sides, the estimate, the margins ±δ, and which way is a gain; without one, higher. */
export function decide(
  fewest: number,
  estimate: Scaled | null,
  [low, high]: readonly [number, number],
  better: MeasureFacts['better'] = 'higher',
): Decision {
  const plain = (verdict: Verdict): Decision => ({ verdict, smallerThanMatters: false });
  if (fewest < 2 || !estimate) return plain('not-resolved');
  const at = (value: number) => steady(value);
  const [up, down] = better === 'lower' ? VERIFIED.toReversed() : VERIFIED;
  if (at(estimate.low) > 0) return { verdict: up!, smallerThanMatters: at(estimate.high90) < at(high) };
  if (at(estimate.high) < 0) return { verdict: down!, smallerThanMatters: at(estimate.low90) > at(low) };
  if (at(estimate.low90) > at(low) && at(estimate.high90) < at(high)) return plain('no-meaningful-change');
  return plain('not-resolved');
}

const WEAKNESS: Record<Verdict, number> = {
  'not-comparable': 0,
  'not-resolved': 1,
  'no-meaningful-change': 2,
  'verified-gain': 3,
  'verified-loss': 3,
};

/** The weaker of two verdicts; a gain against a loss is not resolved. */
export function weaker(a: Verdict, b: Verdict): Verdict {
  if (a === b) return a;
  if (WEAKNESS[a] === WEAKNESS[b]) return 'not-resolved';
  return WEAKNESS[a] < WEAKNESS[b] ? a : b;
}
