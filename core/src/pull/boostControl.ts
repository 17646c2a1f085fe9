import type { Channel } from '../job/job.ts';
import { median } from '../statistics/summary.ts';
import { finding, type PullFinding } from './findings.ts';
import type { SampleRange } from './risingRun.ts';

/** Manifold pressure that falls and climbs again by these shares at full throttle is being hunted for. Judgement. */
const FALLS = 0.04;
const CLIMBS = 0.03;
/** A throttle that closes this far and opens again was moved by the controller. Judgement. */
const THROTTLE_CLOSES = 0.12;
/** Readings on each side over which a median takes out single bad ones. */
const REACH = 2;

/**
 * What the controller did during the sweep: boost that swings, and a throttle that closed and opened again. Both are common
 * on the first pull after a change (common practice, no source). Channels and `rpm` hold one value a sample.
 */
export function boostControlFindings(
  channels: readonly Channel[],
  rpm: ArrayLike<number>,
  { from, to }: SampleRange,
): PullFinding[] {
  const found: PullFinding[] = [];
  const boost = channels.find((c) => /^(manifold|boost)\w*_(kpa|hpa|bar|pa)$/.test(c.name));
  if (boost) {
    const swing = swingOf(boost.values, from, to, FALLS, CLIMBS);
    if (swing)
      found.push(
        finding(
          'hunting',
          'warning',
          { percent: 100 * swing.fell },
          Math.round(rpm[from + swing.at]!),
          Math.round(rpm[Math.min(to - 1, from + swing.until)]!),
        ),
      );
  }
  const throttle = channels.find((c) => c.name.startsWith('throttle'));
  if (throttle) {
    const swing = swingOf(throttle.values, from, to, THROTTLE_CLOSES, THROTTLE_CLOSES / 2);
    if (swing)
      found.push(
        finding(
          'throttle-closes',
          'warning',
          { percent: 100 * swing.fell },
          Math.round(rpm[from + swing.at]!),
          Math.round(rpm[Math.min(to - 1, from + swing.until)]!),
        ),
      );
  }
  return found;
}

/** Single bad readings are taken out only where something moves at all: most pulls hold still. */
function swingOf(values: Float64Array, from: number, to: number, falls: number, climbs: number) {
  const raw = Array.from(values.slice(from, to));
  return firstSwing(raw, falls, climbs) ? firstSwing(smoothed(values, from, to), falls, climbs) : null;
}

/** The first place where values fall from their height so far by one share and then climb by another. Indices from 0. */
function firstSwing(
  values: readonly number[],
  falls: number,
  climbs: number,
): { at: number; until: number; fell: number } | null {
  let top = -Infinity;
  let low = Infinity;
  let at = 0;
  for (let i = 0; i < values.length; i += 1) {
    const v = values[i]!;
    if (!Number.isFinite(v)) continue;
    if (v > top && low === Infinity) top = v;
    if (v < (1 - falls) * top && v < low) {
      low = v;
      at = i;
    }
    if (low < Infinity && v > low + climbs * top) return { at, until: i, fell: 1 - low / top };
  }
  return null;
}

function smoothed(values: Float64Array, from: number, to: number): number[] {
  return Array.from({ length: Math.max(0, to - from) }, (_, k) => {
    const near = values.slice(Math.max(from, from + k - REACH), Math.min(to, from + k + REACH + 1));
    return median([...near].filter(Number.isFinite));
  });
}
