import { normalQuantile } from '../statistics/distributions.ts';
import type { Job } from '../job/job.ts';
import { atGrid, meanCurve, peakOf, type GridCurve } from '../pull/gridCurve.ts';
import { standardDeviation } from '../statistics/summary.ts';
import { torqueCurve } from '../verdict/endpoint.ts';
import type { SetupCurve, SetupPeaks } from '../verdict/outcome.ts';
import type { Candidate, Selection } from '../verdict/selection.ts';
import type { AnalysisSettings } from '../verdict/settings.ts';

const { exp, log, max, sqrt } = Math;

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
 * Half-width of the 95 % band of a mean: 1.96·√(E σ²/n), with what the setup's own pulls and the prior of the bay's bands say of the
 * scatter σ at that speed. What rounds and the day do is not in it: that is the verdict's business.
 */
function halfWidths(
  used: readonly Candidate[],
  power: GridCurve,
  { model, bandPriors }: AnalysisSettings,
): Float64Array {
  const nodes = model.scatterNodes;
  const prior = new Float64Array(nodes.length);
  bandPriors.prior.forEach((weight, i) => (prior[i % nodes.length]! += weight));
  const n = used.length;
  const reach = normalQuantile(0.975);
  return power.values.map((level, i) => {
    const logs = used.map((c) => 100 * log(atGrid(c.power, power.first + i)));
    const squares = n > 1 ? (n - 1) * standardDeviation(logs) ** 2 : 0;
    let [all, variance] = [0, 0];
    nodes.forEach((sigma, k) => {
      const weight = prior[k]! * sigma ** -max(0, n - 1) * exp(-squares / (2 * sigma * sigma));
      all += weight;
      variance += weight * sigma * sigma;
    });
    // Curves further apart than any node can explain leave no weight anywhere.
    const own = all > 0 ? variance / all : squares / max(1, n - 1);
    return (level * reach * sqrt(own / max(1, n))) / 100;
  });
}

function setupPeaks(power: GridCurve): SetupPeaks | null {
  const peak = peakOf(power);
  const torque = peakOf(torqueCurve(power));
  return peak && torque ? { power: peak, torque } : null;
}
