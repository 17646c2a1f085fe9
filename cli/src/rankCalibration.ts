import { rankIntervals, type PairInterval } from '@prandel/core';
import { aimAt, fitAims, intervalAt, pairLevel, prepare, usualPrior } from '@prandel/core/engine';
import { Random, worldDay, WORLDS, type World } from '@prandel/simulator';

/** What simulated shootouts gave. */
export interface RanksCalibrated {
  /** Share of the days on which the true place of every setup lies inside its rank interval. */
  readonly allInside: number;
  /** Places that a rank interval spans on average, of so many. */
  readonly width: number;
  readonly places: number;
}

const SEED = 20261201;
/** True gains are spread over so many per cent. */
const SPREAD = 3;

/** Shootouts of six parts and the baseline, ranked by all pairs at once: the seven setups, gains drawn anew every day. */
export function calibrateRanks(world: World, plan: string, days: number): RanksCalibrated {
  const random = new Random(SEED);
  const setups = [...new Set(plan.split(' ').map((step) => step.charCodeAt(0) - 65))].sort((a, b) => a - b);
  const names = setups.map(String);
  const level = pairLevel(setups.length);
  const contrasts = setups.flatMap((a, i) =>
    setups.slice(i + 1).map((b) => ({ a, b, contrast: setups.map((s) => (s === b ? 1 : s === a ? -1 : 0)) })),
  );
  let [inside, width] = [0, 0];
  for (let day = 0; day < days; day += 1) {
    const gains = setups.slice(1).map(() => SPREAD * random.uniform());
    const { pulls, y } = worldDay(world, plan, gains, random);
    const prepared = prepare(pulls);
    const mixtures = fitAims(
      prepared,
      y,
      contrasts.map(({ contrast }) => aimAt(prepared, contrast)),
      usualPrior(),
    );
    const pairs = mixtures.map((mixture, i): PairInterval => {
      const { low, high } = intervalAt(mixture, level);
      return { setup: String(contrasts[i]!.b), against: String(contrasts[i]!.a), low, high };
    });
    const ranks = rankIntervals(names, pairs);
    const truth = [0, ...gains];
    const place = (s: number) => 1 + truth.filter((g) => g > truth[s]!).length;
    if (setups.every((s) => ranks.get(String(s))!.from <= place(s) && place(s) <= ranks.get(String(s))!.to))
      inside += 1;
    for (const { from, to } of ranks.values()) width += to - from + 1;
  }
  return { allInside: inside / days, width: width / days / setups.length, places: setups.length };
}

const PLANS = {
  'one return': 'A3 B3 C3 D3 E3 F3 G3 A3',
  'baseline in the middle': 'A3 B3 C3 D3 A3 E3 F3 G3 A3',
} as const;

/** Prints how often all true places lie inside the rank intervals. */
export function printRankCalibration(days: number, print: (line: string) => void): void {
  print(
    `ranks over ${days} simulated shootouts a row: six parts over 0–${SPREAD} %; all true places inside at least 95 %`,
  );
  for (const world of [WORLDS.usual, WORLDS.calm, WORLDS.wild])
    for (const [name, plan] of Object.entries(PLANS)) {
      const own = calibrateRanks(world, plan, days);
      print(
        `${world.name}, ${name}: all inside on ${(100 * own.allInside).toFixed(1)} % of days, a rank spans ${own.width.toFixed(1)} of ${own.places} places`,
      );
    }
}
