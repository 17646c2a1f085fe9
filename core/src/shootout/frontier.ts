/** A setup by what it costs and what it gains. */
export interface PricedGain {
  readonly setup: string;
  readonly cost: number;
  /** In any one unit; more is better. */
  readonly gain: number;
}

/** `surely`: another costs no more and is surely no worse; `likely`: only by the estimates. */
export type Dominated = 'surely' | 'likely' | null;

/**
 * Whether another setup, or leaving the car as it is, makes a setup needless.
 * @param leastBetter lower end of how much the first is better than the second; null: nobody knows. The baseline is called null
 * @example dominatedBy({ setup: 'B', cost: 100, gain: 1 }, [{ setup: 'C', cost: 90, gain: 2 }], () => 0.4).how // 'surely'
 */
export function dominatedBy(
  own: PricedGain,
  others: readonly PricedGain[],
  leastBetter: (setup: string | null, than: string) => number | null,
): { readonly how: Dominated; readonly by: string | null } {
  const cheaper = [{ setup: null, cost: 0, gain: 0 }, ...others.filter((o) => o.setup !== own.setup)].filter(
    (o) => o.cost <= own.cost,
  );
  const sure = cheaper.find((o) => (leastBetter(o.setup, own.setup) ?? -Infinity) >= 0);
  if (sure) return { how: 'surely', by: sure.setup };
  const likely = cheaper
    .filter((o) => o.gain > own.gain || (o.gain === own.gain && o.cost < own.cost))
    .sort((a, b) => b.gain - a.gain)[0];
  return likely ? { how: 'likely', by: likely.setup } : { how: null, by: null };
}

/**
 * How often each setup stands on the frontier of gain against cost over draws of the gains: nothing that costs no more gains more. The
 * baseline costs and gains nothing.
 * @param draws a row a draw, a column a setup, in the order of `costs`
 * @returns share of the draws, 0 to 1, a setup
 * @example frontierChances([100, 50], Float64Array.of(2, 1, 2, 3)) // [0.5, 1]
 */
export function frontierChances(costs: readonly number[], draws: Float64Array): number[] {
  const m = costs.length;
  const rows = Math.floor(draws.length / m);
  const times = new Array<number>(m).fill(0);
  for (let row = 0; row < rows; row += 1)
    for (let i = 0; i < m; i += 1) {
      const gain = draws[row * m + i]!;
      let beaten = costs[i]! > 0 && gain <= 0;
      for (let j = 0; j < m && !beaten; j += 1) {
        if (j === i) continue;
        const other = draws[row * m + j]!;
        beaten =
          costs[j]! <= costs[i]! &&
          other >= gain &&
          (costs[j]! < costs[i]! || other > gain || (other === gain && j < i));
      }
      if (!beaten) times[i]! += 1;
    }
  return times.map((t) => (rows > 0 ? t / rows : 0));
}
