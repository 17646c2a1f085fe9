/** A half-open range of samples. */
export interface SampleRange {
  readonly from: number;
  readonly to: number;
}

/**
 * The longest rising run in rpm: the pull inside a recording. A fall is sustained when three samples in a row lie under
 * the highest speed so far by 1 % (at least 40 rpm); the run ends at that highest speed, so nothing of the coast-down
 * after it is averaged in. Pickup noise smaller than that does not end a run. The 1 % are judgement, no source.
 * @example longestRisingRun([2000, 1990, 2010, 2030, 2060, 1500]) // { from: 1, to: 5 }
 */
export function longestRisingRun(rpm: ArrayLike<number>): SampleRange {
  let best: SampleRange = { from: 0, to: 0 };
  let bestSpan = -1;
  let start = 0;
  let top = 0;
  let below = 0;
  const close = () => {
    const span = rpm[top]! - rpm[start]!;
    if (span > bestSpan) {
      bestSpan = span;
      best = { from: start, to: top + 1 };
    }
  };
  for (let i = 0; i < rpm.length; i += 1) {
    if (i === 0 || rpm[i]! >= rpm[top]!) {
      top = i;
      below = 0;
      continue;
    }
    // A new lowest speed before any real rise moves the start.
    if (rpm[i]! < rpm[start]! && rpm[top]! - rpm[start]! < 40) {
      start = i;
      top = i;
      below = 0;
      continue;
    }
    below = rpm[i]! < rpm[top]! - Math.max(40, 0.01 * rpm[top]!) ? below + 1 : 0;
    if (below >= 3) {
      close();
      start = i;
      top = i;
      below = 0;
    }
  }
  if (rpm.length > 0) close();
  return best;
}
