import { studentT } from '../statistics/distributions.ts';
import type { Job } from '../job/job.ts';
import { atGrid, meanCurve, peakOf, type GridCurve } from '../pull/gridCurve.ts';
import { standardDeviation } from '../statistics/summary.ts';
import { BAND_NOISE_FACTOR } from '../verdict/constants.ts';
import { torqueCurve, type AnalysisSettings } from '../verdict/estimate.ts';
import type { SetupCurve, SetupPeaks } from '../verdict/outcome.ts';
import type { Candidate, Selection } from '../verdict/selection.ts';

/** Mean curve of every setup (return checks apart) with a pointwise 95 % band; a setup's peak is the peak of its mean. */
export function setupCurves(job: Job, selection: Selection, settings: AnalysisSettings): SetupCurve[] {
  return job.setups.map((setup) => {
    const own = selection.all.filter((c) => c.pull.setupId === setup.id && c.pull.status === 'counted');
    const used = own.filter((c) => c.notUsedBecause === null || c.side === null);
    const curves = used.map((c) => c.power).filter((c) => c.values.length > 1);
    const power = meanCurve(curves);
    return {
      setupId: setup.id,
      side: own[0]?.side ?? null,
      power,
      halfWidthW: halfWidths(used, power, settings),
      peaks: setupPeaks(power),
      pulls: curves.length,
    };
  });
}

/**
 * Half-width of the 95 % band of a mean: today's scatter moderated by the bay's prior (Smyth 2004), never below
 * today's own.
 */
function halfWidths(used: readonly Candidate[], power: GridCurve, settings: AnalysisSettings): Float64Array {
  const { s0, d0 } = settings.constants;
  const prior = BAND_NOISE_FACTOR * s0;
  const n = used.length;
  const d = Math.max(0, n - 1);
  const t = studentT(0.975, d0 + d);
  return power.values.map((level, i) => {
    const logs = used.map((c) => 100 * Math.log(atGrid(c.power, power.first + i)));
    const s2 = n > 1 ? standardDeviation(logs) ** 2 : 0;
    const moderated = Math.max((d0 * prior ** 2 + d * s2) / (d0 + d), s2);
    return (level * t * Math.sqrt(moderated / Math.max(1, n))) / 100;
  });
}

function setupPeaks(power: GridCurve): SetupPeaks | null {
  const peak = peakOf(power);
  const torque = peakOf(torqueCurve(power));
  return peak && torque ? { power: peak, torque } : null;
}
