import { atGrid, boxcar, GRID_STEP_RPM, type GridCurve } from '../pull/gridCurve.ts';
import { mediansOfOthers, quantile, steady } from '../statistics/summary.ts';
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
 * Scores of a partial dip of the pulls of one setup: the heat-adjusted curve against the median of the other pulls, averaged over
 * 250 rpm; 60th percentile minus minimum over the window, log-percent. Null for a pull that stands alone.
 */
export function dipScores(
  curves: readonly GridCurve[],
  window: readonly [number, number],
): ({ readonly score: number; readonly atRpm: number } | null)[] {
  if (curves.length < 2) return curves.map(() => null);
  const kFrom = Math.ceil(window[0] / GRID_STEP_RPM);
  const points = Math.max(0, Math.floor(window[1] / GRID_STEP_RPM) - kFrom + 1);
  const deviations = curves.map(() => new Float64Array(points));
  const here = new Float64Array(curves.length);
  for (let i = 0; i < points; i += 1) {
    for (let c = 0; c < curves.length; c += 1) here[c] = atGrid(curves[c]!, kFrom + i);
    const others = mediansOfOthers(here);
    for (let c = 0; c < curves.length; c += 1) deviations[c]![i] = here[c]! - others[c]!;
  }
  return deviations.map((values) => {
    const smooth = boxcar({ first: kFrom, values, samples: new Uint32Array() }, 250).values;
    let lowest = -1;
    smooth.forEach((value, i) => {
      if (Number.isFinite(value) && (lowest < 0 || value < smooth[lowest]!)) lowest = i;
    });
    if (lowest < 0) return null;
    return {
      score: quantile(smooth.filter(Number.isFinite), 0.6) - smooth[lowest]!,
      atRpm: (kFrom + lowest) * GRID_STEP_RPM,
    };
  });
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
  const dips: PartialDip[] = [];
  for (const setup of new Set(pulls.map((p) => p.setup))) {
    const own = [...pulls.keys()].filter((i) => pulls[i]!.setup === setup);
    dipScores(
      own.map((i) => adjusted[i]!),
      window,
    ).forEach((dip, i) => {
      if (dip && steady(dip.score) > DIP_PERCENT) dips.push({ index: own[i]!, ...dip });
    });
  }
  return dips.sort((a, b) => a.index - b.index);
}
