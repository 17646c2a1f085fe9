import { atGrid, boxcar, GRID_STEP_RPM, type GridCurve } from '../pull/gridCurve.ts';
import { median, quantile, steady } from '../statistics/summary.ts';
import type { DayParts } from './engine/parts.ts';

/** Judgement backed by simulated days, no published source. */
const DIP_PERCENT = 1.8;

export interface PartialDip {
  /** Index into the pulls of the day. */
  readonly index: number;
  readonly score: number;
  /** Where the dip is deepest, rpm. */
  readonly atRpm: number;
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

/** Pulls with a partial dip. @param logCurves 100·ln P of the pulls, in order */
export function partialDips(
  { pulls, heat, heatCoefficient }: DayParts,
  logCurves: readonly GridCurve[],
  window: readonly [number, number],
): PartialDip[] {
  const adjusted = logCurves.map((curve, i) => ({
    ...curve,
    values: curve.values.map((v) => v + heatCoefficient * heat[i]!),
  }));
  return pulls.flatMap((pull, index) => {
    const others = adjusted.filter((_, j) => j !== index && pulls[j]!.setup === pull.setup);
    const dip = dipScore(adjusted[index]!, others, window);
    return dip && steady(dip.score) > DIP_PERCENT ? [{ index, ...dip }] : [];
  });
}
