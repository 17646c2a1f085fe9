import { channelValues, type Pull } from '../job/job.ts';
import { longestRisingRun, type SampleRange } from '../pull/risingRun.ts';

// Bound once: the loops below run over every sample.
const { max } = Math;

/** A throttle at and above this share of its widest opening is full. Judgement, no source. */
const OPEN_SHARE = 0.95;

/**
 * The stretch of a recording at full throttle: the longest in which the throttle is open; without a throttle the rising run of the
 * engine speed.
 * @param rpm engine speed of every sample
 * @example fullThrottle(newPull('p', 'A', 1), Float64Array.of(2000, 3000, 4000)) // { from: 0, to: 3 }
 */
export function fullThrottle(pull: Pick<Pull, 'channels'>, rpm: Float64Array): SampleRange {
  const throttle = channelValues(pull, 'throttle_fraction');
  if (!throttle) return longestRisingRun(rpm);
  let widest = -Infinity;
  for (let i = 0; i < throttle.length; i += 1) if (throttle[i]! > widest) widest = throttle[i]!;
  const open = OPEN_SHARE * widest;
  let best: SampleRange = { from: 0, to: 0 };
  for (let i = 0; i < throttle.length; i += 1) {
    if (!(throttle[i]! >= open)) continue;
    const from = i;
    while (i < throttle.length && throttle[i]! >= open) i += 1;
    if (i - from > best.to - best.from) best = { from, to: i };
  }
  return best;
}

/**
 * Mean of the samples of a stretch that are numbers; NaN of none.
 * @example meanOf(Float64Array.of(1, NaN, 3), 0, 3) // 2
 */
export function meanOf(values: Float64Array, from: number, to: number): number {
  let sum = 0;
  let n = 0;
  for (let i = max(0, from); i < to; i += 1) {
    const value = values[i]!;
    if (value - value !== 0) continue;
    sum += value;
    n += 1;
  }
  return n > 0 ? sum / n : NaN;
}
