import { windowMean } from '../pull/gridCurve.ts';
import { fadeOf, type Fade } from '../measures/fade.ts';
import type { RoundPairs } from '../measures/slopeWithin.ts';
import { tDistribution } from '../statistics/distributions.ts';
import type { Gain } from './outcome.ts';
import { roundKeys } from './rounds.ts';
import type { Candidate, Selection } from './selection.ts';

/** How power over the window fades from pull to pull, of the baseline and of one side; null with too few pulls back to back. */
export function fadeAgainst({ used, window }: Selection, side: number, confidence: number): Fade | null {
  if (!window) return null;
  return fadeOf(roundsOf(used, 0, window), roundsOf(used, side, window), confidence);
}

function roundsOf(used: readonly Candidate[], side: number, [from, to]: readonly [number, number]): RoundPairs[] {
  const own = used.filter((c) => c.side === side);
  const keys = roundKeys(own.map(({ pull, hours }) => ({ setupId: pull.setupId, round: pull.round, hours })));
  return [...new Set(keys)].map((key) => {
    const round = own.filter((_, i) => keys[i] === key);
    return {
      x: round.map(({ pull }) => pull.position),
      y: round.map(({ power }) => 100 * Math.log(windowMean(power, from, to))),
    };
  });
}

/** A fade as it leaves: per cent a pull, candidate minus baseline; above zero is nearer to none where the baseline falls. */
export function fadeGain(fade: Fade, confidence: number): Gain {
  const none = { percent: null, lowPercent: null, highPercent: null, low90Percent: null, high90Percent: null };
  const { difference, low, high, standardError, degrees } = fade;
  return {
    ...none,
    ...{ value: difference, lowValue: low, highValue: high, unit: '%/pull', confidence, estimate: difference },
    p: 2 * tDistribution(-Math.abs(difference / standardError), degrees),
  };
}
