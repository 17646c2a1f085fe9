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
  const nodes = Float64Array.from(model.scatterNodes);
  const n = used.length;
  // What of a node's weight does not depend on the speed.
  const fixed = nodes.map((sigma) => sigma ** -max(0, n - 1));
  const prior = new Float64Array(nodes.length);
  bandPriors.prior.forEach((weight, i) => (prior[i % nodes.length]! += weight));
  const reach = normalQuantile(0.975);
  const logs = new Float64Array(n);
  const halfs = new Float64Array(power.values.length);
  for (let i = 0; i < halfs.length; i += 1) {
    for (let p = 0; p < n; p += 1) logs[p] = 100 * log(atGrid(used[p]!.power, power.first + i));
    const squares = n > 1 ? (n - 1) * standardDeviation(logs) ** 2 : 0;
    let [all, variance] = [0, 0];
    for (let k = 0; k < nodes.length; k += 1) {
      const sigma2 = nodes[k]! * nodes[k]!;
      const weight = prior[k]! * fixed[k]! * exp(-squares / (2 * sigma2));
      all += weight;
      variance += weight * sigma2;
    }
    // Curves further apart than any node can explain leave no weight anywhere.
    const own = all > 0 ? variance / all : squares / max(1, n - 1);
    halfs[i] = (power.values[i]! * reach * sqrt(own / max(1, n))) / 100;
  }
  return halfs;
}

function setupPeaks(power: GridCurve): SetupPeaks | null {
  const peak = peakOf(power);
  const torque = peakOf(torqueCurve(power));
  return peak && torque ? { power: peak, torque } : null;
}
