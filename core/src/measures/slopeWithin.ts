import { mean } from '../statistics/summary.ts';

/** Values over something that they may follow, of one round. */
export interface RoundPairs {
  readonly x: readonly number[];
  readonly y: readonly number[];
}

/** A slope that rounds share, each with a level of its own. */
export interface SlopeWithin {
  /** Σ(x−x̄)(y−ȳ)/S; NaN where nothing differs. */
  readonly slope: number;
  /** S = Σ(x−x̄)². */
  readonly spread: number;
  /** Sum of the squares that it leaves. */
  readonly residual: number;
  readonly count: number;
  readonly rounds: number;
}

/**
 * Least squares of y on x within rounds: what differs from round to round is taken out first (analysis of covariance; Fisher 1932).
 * @example slopeWithin([{ x: [1, 2], y: [5, 7] }, { x: [1, 2], y: [0, 2] }]).slope // 2
 */
export function slopeWithin(rounds: readonly RoundPairs[]): SlopeWithin {
  const centred = rounds.flatMap(({ x, y }) => {
    const [mx, my] = [mean(x), mean(y)];
    return x.map((v, i) => [v - mx, y[i]! - my] as const);
  });
  const spread = centred.reduce((sum, [x]) => sum + x * x, 0);
  const slope = centred.reduce((sum, [x, y]) => sum + x * y, 0) / spread;
  const residual = centred.reduce((sum, [x, y]) => sum + (y - slope * x) ** 2, 0);
  return { slope, spread, residual, count: centred.length, rounds: rounds.length };
}
