import { normalQuantile, studentT } from '../statistics/distributions.ts';
import { slopeWithin, type RoundPairs, type SlopeWithin } from './slopeWithin.ts';

const { max, sqrt } = Math;

/** Scatter of a pull about its round's line beforehand, per cent of a log measure, and how many pulls' worth that is. Judgement. */
const USUAL_SCATTER = 0.5;
const USUAL_PULLS = 6;
/** Fewer pulls back to back are no fade. */
export const LEAST_FADE_PULLS = 3;

/** How fast two setups fade: the measure's change per pull, and the difference with its intervals. */
export interface Fade {
  readonly baseline: number;
  readonly candidate: number;
  /** Candidate minus baseline. */
  readonly difference: number;
  readonly low: number;
  readonly high: number;
  readonly low90: number;
  readonly high90: number;
  /** Two-sided, that the difference is zero. */
  readonly standardError: number;
  readonly degrees: number;
  readonly variance: number;
}

/**
 * Fade of two setups whose counted pulls were made back to back: slope over the position, pooled over the rounds of a setup, with
 * the scatter about the lines moderated by what is usual. No heat term: heat is what fades.
 * @param baseline its rounds: positions, and readings (100·ln of a log measure, or the unit over k)
 * @param scatter usual scatter on that scale
 * @returns null with under three pulls on a side
 * @example fadeOf([{ x: [1, 2, 3], y: [0, -1, -2] }], [{ x: [1, 2, 3], y: [0, 0, 0] }], 0.95).difference // 1
 */
export function fadeOf(
  baseline: readonly RoundPairs[],
  candidate: readonly RoundPairs[],
  confidence: number,
  scatter = USUAL_SCATTER,
): Fade | null {
  const usable = (rounds: readonly RoundPairs[]) => rounds.filter(({ x }) => x.length >= LEAST_FADE_PULLS);
  const [a, b] = [slopeWithin(usable(baseline)), slopeWithin(usable(candidate))];
  if (!(a.spread > 0 && b.spread > 0)) return null;
  const { variance, degrees } = moderated([a, b], scatter);
  const standardError = sqrt(variance * (1 / a.spread + 1 / b.spread));
  const difference = b.slope - a.slope;
  const reach = (share: number) => studentT((1 + share) / 2, degrees) * standardError;
  const [half, half90] = [reach(confidence), reach(0.9)];
  return {
    ...{ baseline: a.slope, candidate: b.slope, difference, standardError, degrees, variance },
    ...{ low: difference - half, high: difference + half },
    ...{ low90: difference - half90, high90: difference + half90 },
  };
}

/** s̃² = max((d0·s0² + RSS)/(d0 + d), RSS/d), d = pulls − 2·rounds. */
function moderated(slopes: readonly SlopeWithin[], scatter: number): { variance: number; degrees: number } {
  const sum = (of: (s: SlopeWithin) => number) => slopes.reduce((total, s) => total + of(s), 0);
  const residual = sum((s) => s.residual);
  const own = sum((s) => s.count - 2 * s.rounds);
  const variance = (USUAL_PULLS * scatter ** 2 + residual) / (USUAL_PULLS + own);
  return { variance: own > 0 ? max(variance, residual / own) : variance, degrees: USUAL_PULLS + own };
}

/**
 * Half-width of the interval of a planned fade: so many pulls a round and rounds a side, at the usual scatter.
 * @example fadeSees(6, 1).toFixed(2) // '0.33'
 */
export function fadeSees(pulls: number, rounds: number, scatter = USUAL_SCATTER): number {
  const spread = (rounds * pulls * (pulls * pulls - 1)) / 12;
  return normalQuantile(0.975) * scatter * sqrt(2 / spread);
}
