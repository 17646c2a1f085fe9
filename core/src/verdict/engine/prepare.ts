import { denseProjection } from './denseProjection.ts';
import { dayParts, type DayParts, type EnginePull, type PrepareOptions } from './parts.ts';
import type { Projection } from './projection.ts';
import { timeProjection } from './timeProjection.ts';

const { floor, log } = Math;

/** What does not depend on the values of the pulls: shared by window, bands, ribbon and contrasts of a job. */
export interface Prepared extends DayParts {
  readonly projection: Projection;
  /** D = 1 + (k_b·σ)²·P_ii, how firmly the others hold pull i at a node, and ½·ln D; at index node·N + i. */
  readonly held: Float64Array;
  readonly halfLogHeld: Float64Array;
}

/** From so many pulls on the work along time is less than that of decompositions (measured, `./prandel bench`). */
const MANY_PULLS = 40;

/**
 * Takes the means of setups and blocks out of the pulls at every node of mount, drift and scatter.
 * @throws RangeError without pulls
 */
export function prepare(pulls: readonly EnginePull[], options: PrepareOptions = {}): Prepared {
  const day = dayParts(pulls, options);
  const { model } = day;
  const n = pulls.length;
  const projection = (n >= MANY_PULLS ? timeProjection(day) : null) ?? denseProjection(day);
  const scatters = model.scatterNodes.length;
  const held = projection.firm.map((firm, at) => {
    const sigma = model.scatterNodes[floor(at / n) % scatters]!;
    return 1 + (model.badPullSize * sigma) ** 2 * firm;
  });
  return { ...day, projection, held, halfLogHeld: held.map((d) => 0.5 * log(d)) };
}
