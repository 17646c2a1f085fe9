import type { PullFinding } from './findings.ts';

/** How far apart the steps of two pulls may lie and still be one feature, rpm (judgement). */
export const SAME_STEP_RPM = 100;
/** Fewer pulls than this say nothing about what a setup always does (judgement). */
const LEAST_PULLS = 3;

/** Jumps of torque inside a pull. Those at its end stay what they are called: a gear change near the limiter comes in every pull. */
function stepsOf(findings: readonly PullFinding[]): number[] {
  return findings.flatMap((f) =>
    f.code === 'spike' && f.fromRpm !== null && f.toRpm !== null ? [(f.fromRpm + f.toRpm) / 2] : [],
  );
}

/**
 * Engine speeds, rpm, at which torque jumps in every pull of a setup: a valve lift that switches, a runner that opens. A fault
 * does not come at one speed in every pull (docs/method.md, usable window).
 * @param pulls what was noticed of each pull of one setup
 */
export function commonSteps(pulls: readonly (readonly PullFinding[])[]): number[] {
  const [first, ...others] = pulls.map(stepsOf);
  if (!first || pulls.length < LEAST_PULLS) return [];
  return first.flatMap((rpm) => {
    const near = others.map((steps) => steps.find((s) => Math.abs(s - rpm) <= SAME_STEP_RPM));
    if (near.some((s) => s === undefined)) return [];
    return [Math.round([rpm, ...near.map((s) => s!)].reduce((a, b) => a + b) / pulls.length)];
  });
}
