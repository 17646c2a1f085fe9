import { performance } from 'node:perf_hooks';

const TICK_MS = 50;
/** A longer step between two ticks means that the event loop stood still: nothing could be heard meanwhile. */
const LONGEST_STEP_MS = 200;

let total = 0;
let last = performance.now();

function step(now: number): number {
  return Math.min(now - last, LONGEST_STEP_MS);
}

setInterval(() => {
  const now = performance.now();
  total += step(now);
  last = now;
}, TICK_MS).unref();

/**
 * Milliseconds during which this process could hear its instruments. Monotonic; a stall of the event loop counts as one step,
 * since what arrived meanwhile is read only after it. Silence is measured on this clock and on no other.
 */
export function hearingMs(): number {
  return total + step(performance.now());
}
