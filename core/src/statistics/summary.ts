/** Sums, means and spreads in stated order, so that every engine gives the same digits. */

// Bound once: the numeric loops below call them millions of times.
const { abs, floor, min, round, sqrt } = Math;

/**
 * Sum with Neumaier's compensation (Neumaier 1974).
 * @example sum([0.1, 0.2, 0.3]) // 0.6
 */
export function sum(values: ArrayLike<number>): number {
  let total = 0;
  let lost = 0;
  for (let i = 0; i < values.length; i += 1) {
    const value = values[i]!;
    const next = total + value;
    lost += abs(total) >= abs(value) ? total - next + value : value - next + total;
    total = next;
  }
  return total + lost;
}

/**
 * Arithmetic mean; NaN for no values.
 * @example mean([1, 2, 6]) // 3
 */
export function mean(values: ArrayLike<number>): number {
  return sum(values) / values.length;
}

/**
 * Sample standard deviation (n − 1), two passes; NaN under two values.
 * @example standardDeviation([1, 2, 3]) // 1
 */
export function standardDeviation(values: ArrayLike<number>): number {
  if (values.length < 2) return NaN;
  const centre = mean(values);
  const squares = new Float64Array(values.length);
  for (let i = 0; i < squares.length; i += 1) squares[i] = (values[i]! - centre) ** 2;
  return sqrt(sum(squares) / (values.length - 1));
}

/**
 * Quantile by linear interpolation between order statistics (Hyndman & Fan 1996, type 7).
 * @example quantile([1, 2, 3, 4], 0.25) // 1.75
 */
export function quantile(values: ArrayLike<number>, probability: number): number {
  // A typed array sorts numbers as numbers, several times faster than a comparison would.
  const sorted = new Float64Array(values).sort();
  const place = (sorted.length - 1) * probability;
  const below = floor(place);
  const low = sorted[below];
  const high = sorted[min(below + 1, sorted.length - 1)];
  return low === undefined || high === undefined ? NaN : low + (place - below) * (high - low);
}

/**
 * The middle of the values; NaN of none.
 * @example median([3, 1, 2]) // 2
 */
export function median(values: ArrayLike<number>): number {
  return quantile(values, 0.5);
}

/**
 * Of every value the median of all others, sorted once; what is not finite counts for none.
 * @example [...mediansOfOthers([3, 1, 2, NaN])] // [1.5, 2.5, 2, 2]
 */
export function mediansOfOthers(values: ArrayLike<number>): Float64Array {
  const sorted = Float64Array.from(values).filter(Number.isFinite).sort();
  const others = sorted.length - 1;
  // Between the two in the middle of the others, which lie one place on from where the value itself stood.
  const place = (others - 1) / 2;
  const without = (rank: number, at: number) => sorted[at < rank ? at : at + 1]!;
  return Float64Array.from(values, (value) => {
    if (!Number.isFinite(value)) return median(sorted);
    if (others === 0) return NaN;
    const rank = rankOf(sorted, value);
    const low = without(rank, floor(place));
    return low + (place - floor(place)) * (without(rank, min(floor(place) + 1, others - 1)) - low);
  });
}

/** Place of the first of the sorted values that is not below a value. */
function rankOf(sorted: Float64Array, value: number): number {
  let [from, to] = [0, sorted.length];
  while (from < to) {
    const middle = (from + to) >> 1;
    if (sorted[middle]! < value) from = middle + 1;
    else to = middle;
  }
  return from;
}

/**
 * Rounded to 1e-9 before a threshold decides, because engines differ in the last bit of exp, log and pow.
 * @example steady(0.1 + 0.2) // 0.3
 */
export function steady(value: number): number {
  const rounded = round(value * 1e9) / 1e9;
  return Object.is(rounded, -0) ? 0 : rounded;
}

/**
 * One-way analysis of variance: sums of squares and mean squares between and within groups.
 * The root of the within mean square is the repeatability standard deviation of ISO 5725-2.
 * @example analysisOfVariance([[1, 2], [3, 4]]).residualSd // 0.707107
 */
export function analysisOfVariance(groups: readonly (readonly number[])[]) {
  const used = groups.filter((group) => group.length > 0);
  const count = used.reduce((n, group) => n + group.length, 0);
  const grand = mean(used.flat());
  const between = sum(used.map((group) => group.length * (mean(group) - grand) ** 2));
  const within = sum(
    used.flatMap((group) => {
      const m = mean(group);
      return group.map((value) => (value - m) ** 2);
    }),
  );
  const betweenDf = used.length - 1;
  const withinDf = count - used.length;
  return {
    between: { squares: between, df: betweenDf, mean: between / betweenDf },
    within: { squares: within, df: withinDf, mean: within / withinDf },
    f: between / betweenDf / (within / withinDf),
    residualSd: sqrt(within / withinDf),
  };
}
