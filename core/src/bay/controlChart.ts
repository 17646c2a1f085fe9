import { mean } from '../statistics/summary.ts';

/** d2 of two observations: the mean moving range of normal values is 1.128 standard deviations (ISO 7870-2, table of factors). */
const D2 = 1.128;
/** D4 of two observations: the upper limit of a moving range over its mean. */
const D4 = 3.267;
/** Limits come from the first points of an epoch, so that a slow drift does not move what it is held against. */
const FIRST = 10;
/** With fewer the limits are anybody's guess. */
const FEWEST = 8;
/** Points in a row on one side of the mean (Nelson 1984; value from memory). */
const RUN = 9;

/** Something on a chart that chance alone seldom makes. */
export interface ChartSignal {
  /** Place of the point at which it shows. */
  readonly index: number;
  readonly code: 'outside' | 'nine-on-one-side' | 'range';
}

/** Individuals and moving ranges of readings that should not change. */
export interface ControlChart {
  /** Null while there are too few points. */
  readonly limits: {
    readonly mean: number;
    readonly low: number;
    readonly high: number;
    readonly meanRange: number;
    readonly highestRange: number;
  } | null;
  /** |x_i − x_(i−1)|; null for the first. */
  readonly ranges: readonly (number | null)[];
  readonly signals: readonly ChartSignal[];
  /** How many points are still needed for limits. */
  readonly needed: number;
}

/**
 * Individuals and moving-range chart: mean ± 2.660·MR̄ (3/1.128), ranges up to 3.267·MR̄ (NIST/SEMATECH e-Handbook of Statistical
 * Methods, 6.3.2.2). Signals: a point outside, nine points on one side of the mean, a range above its limit.
 *
 * @param values readings in order of time, in any unit
 * @param from how many of the first points the limits come from
 * @example controlChart([1, 2, 3]).needed // 5
 */
export function controlChart(values: readonly number[], from = FIRST): ControlChart {
  const ranges = values.map((v, i) => (i === 0 ? null : Math.abs(v - values[i - 1]!)));
  if (values.length < FEWEST) return { limits: null, ranges, signals: [], needed: FEWEST - values.length };
  const own = values.slice(0, from);
  const centre = mean(own);
  const meanRange = mean(ranges.slice(1, from) as number[]);
  const half = (3 / D2) * meanRange;
  const limits = {
    ...{ mean: centre, low: centre - half, high: centre + half, meanRange },
    highestRange: D4 * meanRange,
  };
  return { limits, ranges, signals: signalsOf(values, ranges, limits), needed: 0 };
}

function signalsOf(
  values: readonly number[],
  ranges: readonly (number | null)[],
  limits: NonNullable<ControlChart['limits']>,
): ChartSignal[] {
  const found: ChartSignal[] = [];
  let [side, run] = [0, 0];
  values.forEach((value, index) => {
    if (value > limits.high || value < limits.low) found.push({ index, code: 'outside' });
    if ((ranges[index] ?? 0) > limits.highestRange) found.push({ index, code: 'range' });
    const own = Math.sign(value - limits.mean);
    run = own !== 0 && own === side ? run + 1 : Math.abs(own);
    side = own;
    // Told once when it shows, and again with every nine more.
    if (run > 0 && run % RUN === 0) found.push({ index, code: 'nine-on-one-side' });
  });
  return found;
}
