/** How far one of two setups is better than the other: the ends of the interval that holds for all pairs at once. */
export interface PairInterval {
  /** Better by `low` to `high` than `against`; negative is worse. */
  readonly setup: string;
  readonly against: string;
  readonly low: number;
  readonly high: number;
}

/** The places that a setup can have among m, from 1. */
export interface RankInterval {
  readonly from: number;
  readonly to: number;
}

/** The pair seen from one of its two sides; null where nobody compared them. */
function seenFrom(
  pairs: readonly PairInterval[],
  setup: string,
  against: string,
): { low: number; high: number } | null {
  for (const pair of pairs) {
    if (pair.setup === setup && pair.against === against) return { low: pair.low, high: pair.high };
    if (pair.setup === against && pair.against === setup) return { low: -pair.high, high: -pair.low };
  }
  return null;
}

/**
 * Whether one setup is surely better than another.
 * @example isSurelyBetter([{ setup: 'B', against: 'C', low: 0.2, high: 1 }], 'B', 'C') // true
 */
export function isSurelyBetter(pairs: readonly PairInterval[], setup: string, against: string): boolean {
  return (seenFrom(pairs, setup, against)?.low ?? -Infinity) > 0;
}

/**
 * Ranks as intervals: from 1 + the number surely better to m less the number surely worse (docs/method.md, Ranks; with the intervals
 * of Tukey's range all ranks hold at once).
 * @param setups the m that are ranked
 * @example rankIntervals(['B', 'C'], [{ setup: 'B', against: 'C', low: 0.2, high: 1 }]).get('C') // { from: 2, to: 2 }
 */
export function rankIntervals(
  setups: readonly string[],
  pairs: readonly PairInterval[],
): ReadonlyMap<string, RankInterval> {
  return new Map(
    setups.map((setup) => {
      const others = setups.filter((other) => other !== setup);
      const better = others.filter((other) => isSurelyBetter(pairs, other, setup)).length;
      const worse = others.filter((other) => isSurelyBetter(pairs, setup, other)).length;
      return [setup, { from: 1 + better, to: setups.length - worse }];
    }),
  );
}

/**
 * Runs of a ranked list of which no two can be told apart, each as long as it can be, as first and last place from 0. Runs of one are
 * left out.
 * @example tiedRuns(['B', 'C', 'D'], [{ setup: 'B', against: 'D', low: 0.1, high: 1 }]) // [[0, 1], [1, 2]]
 */
export function tiedRuns(ranked: readonly string[], pairs: readonly PairInterval[]): (readonly [number, number])[] {
  const apart = (a: string, b: string) => isSurelyBetter(pairs, a, b) || isSurelyBetter(pairs, b, a);
  const runs: [number, number][] = [];
  for (let from = 0; from < ranked.length; from += 1) {
    let to = from;
    while (to + 1 < ranked.length && ranked.slice(from, to + 1).every((own) => !apart(own, ranked[to + 1]!))) to += 1;
    if (to > from && !(runs.at(-1) && runs.at(-1)![1] >= to)) runs.push([from, to]);
  }
  return runs;
}

/**
 * Those that can be the first, in the order given: one name, or several of a tie.
 * @example canBeFirst(['B', 'C', 'D'], [{ setup: 'B', against: 'D', low: 0.1, high: 1 }]) // ['B', 'C']
 */
export function canBeFirst(setups: readonly string[], pairs: readonly PairInterval[]): string[] {
  const ranks = rankIntervals(setups, pairs);
  return setups.filter((setup) => ranks.get(setup)!.from === 1);
}
