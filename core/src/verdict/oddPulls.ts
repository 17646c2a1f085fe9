import { atGrid, boxcar, GRID_STEP_RPM, type GridCurve } from '../pull/gridCurve.ts';
import { median, quantile, steady } from '../statistics/summary.ts';
import { designOf, fitPulls, heatAdjusted, type Design } from './fit.ts';

/** Flag limits: judgement backed by simulated days, no published source. */
const DIP_PERCENT = 1.8;
const WHOLE_Z = 3.5;

export interface OddPull {
  /** Index into the pulls of the design. */
  readonly index: number;
  readonly kind: 'partial-dip' | 'odd-whole';
  readonly score: number;
  /** Where the dip is deepest, rpm; null for a pull odd as a whole. */
  readonly atRpm: number | null;
}

/**
 * Score of a partial dip: the heat-adjusted curve against the median of the other pulls of its setup, averaged over
 * 250 rpm; 60th percentile minus minimum over the window, log-percent.
 */
export function dipScore(
  own: GridCurve,
  others: readonly GridCurve[],
  window: readonly [number, number],
): { score: number; atRpm: number } | null {
  if (others.length === 0) return null;
  const kFrom = Math.ceil(window[0] / GRID_STEP_RPM);
  const kTo = Math.floor(window[1] / GRID_STEP_RPM);
  const deviation = new Float64Array(Math.max(0, kTo - kFrom + 1));
  for (let i = 0; i < deviation.length; i += 1) {
    const k = kFrom + i;
    deviation[i] = atGrid(own, k) - median(others.map((curve) => atGrid(curve, k)).filter(Number.isFinite));
  }
  const smooth = boxcar({ first: kFrom, values: deviation, samples: new Uint32Array() }, 250).values;
  let lowest = -1;
  smooth.forEach((value, i) => {
    if (Number.isFinite(value) && (lowest < 0 || value < smooth[lowest]!)) lowest = i;
  });
  if (lowest < 0) return null;
  return {
    score: quantile(smooth.filter(Number.isFinite), 0.6) - smooth[lowest]!,
    atRpm: (kFrom + lowest) * GRID_STEP_RPM,
  };
}

/** Pulls with a partial dip. `logCurves` are 100·ln P of the pulls of the design, in order. */
export function partialDips(
  design: Design,
  logCurves: readonly GridCurve[],
  window: readonly [number, number],
): OddPull[] {
  const adjusted = logCurves.map((curve, i) => ({
    ...curve,
    values: curve.values.map((v) => v + design.h0 * design.x[i]!),
  }));
  const found: OddPull[] = [];
  design.pulls.forEach((pull, index) => {
    const others = adjusted.filter((_, j) => j !== index && design.pulls[j]!.side === pull.side);
    const dip = dipScore(adjusted[index]!, others, window);
    if (dip && steady(dip.score) > DIP_PERCENT) found.push({ index, kind: 'partial-dip', ...dip });
  });
  return found;
}

/** Pulls odd as a whole: both passes refitted without pull k, z_k = (y1_k − X_kθ)/√(s̃² + X_kCX_kᵀ), flagged beyond 3.5. */
export function oddAsWhole(
  design: Design,
  y: readonly number[],
  s0: number,
  d0: number,
  remounted: boolean,
): OddPull[] {
  const y1 = heatAdjusted(design, y);
  const found: OddPull[] = [];
  design.pulls.forEach((pull, k) => {
    if (design.pulls.filter((p) => p.side === pull.side).length < 2) return;
    const keep = design.pulls.map((_, i) => i).filter((i) => i !== k);
    const rest = designOf(
      keep.map((i) => design.pulls[i]!),
      design.constants,
      { heat: design.heat, remounted, centre: design },
    );
    const fit = fitPulls(
      rest,
      keep.map((i) => y[i]!),
      s0,
      d0,
    );
    const row = predictionRow(rest, design, k);
    const expected = row.reduce((acc, value, j) => acc + value * fit.theta[j]!, 0);
    let spread = fit.noise.moderated;
    row.forEach((a, i) => row.forEach((b, j) => (spread += a * b * fit.covariance.get(i, j))));
    // A round that only this pull had is unknown to the refit: its own allowance stands in.
    if (!rest.rounds.some((round) => rest.pulls[round.members[0]!]!.roundKey === pull.roundKey))
      spread += rest.tau ** 2;
    const z = (y1[k]! - expected) / Math.sqrt(spread);
    if (steady(Math.abs(z)) > WHOLE_Z) found.push({ index: k, kind: 'odd-whole', score: z, atRpm: null });
  });
  return found;
}

/** The design row that pull k of `full` would have in the columns of `rest`. */
function predictionRow(rest: Design, full: Design, k: number): number[] {
  const pull = full.pulls[k]!;
  const row = [1, ...rest.candidates.map((side) => (side === pull.side ? 1 : 0))];
  if (rest.heatColumn >= 0) row.push(full.x[k]!);
  if (rest.driftColumn >= 0) row.push(full.u[k]!);
  if (rest.tau > 0)
    for (const round of rest.rounds) row.push(rest.pulls[round.members[0]!]!.roundKey === pull.roundKey ? 1 : 0);
  return row;
}
