import type { Bay, Pull, Vehicle } from '../job/job.ts';
import { finding, type PullFinding } from './findings.ts';
import { GRID_STEP_RPM, peakOf, type GridCurve } from './gridCurve.ts';
import { momentsCurve } from './moments.ts';
import { preparePulls, type PreparedPull } from './preparedPulls.ts';

/** A pull as a curve of uncorrected wheel power in W on the 25-rpm grid, with everything noticed on the way. */
export interface PullCurve {
  readonly pull: Pull;
  readonly power: GridCurve;
  readonly findings: readonly PullFinding[];
}

/**
 * The curve of a prepared pull at an averaging width in rpm (0 = raw).
 * @example pullCurve(preparePulls([newPull('p', 'A', 1)], UNKNOWN_BAY, UNKNOWN_VEHICLE)[0], 100).findings[0].code // 'no-power'
 */
export function pullCurve({ pull, moments, ...own }: PreparedPull, widthRpm: number): PullCurve {
  const power = momentsCurve(moments, widthRpm);
  const findings: PullFinding[] = [...own.findings];
  const peak = peakOf(power);
  if (peak && !peak.reached) {
    findings.push(finding('peak-not-reached', 'info', {}, peak.rpm, peak.rpm));
  }
  if (power.values.some(Number.isNaN)) {
    findings.push(finding('hole', 'warning', { where: 'stretch' }));
  }
  return { pull, power, findings };
}

/**
 * What an importer shows before anything is stored: the curve at 100 rpm averaging and what was noticed.
 * @example usablePreview(newPull('p', 'A', 1), UNKNOWN_BAY, UNKNOWN_VEHICLE).curve // []
 */
export function usablePreview(
  pull: Pull,
  bay: Bay,
  vehicle: Vehicle,
): { curve: { rpm: number; powerW: number }[]; findings: readonly PullFinding[] } {
  const { power, findings } = pullCurve(preparePulls([pull], bay, vehicle)[0]!, 100);
  const curve = Array.from(power.values, (powerW, i) => ({ rpm: (power.first + i) * GRID_STEP_RPM, powerW })).filter(
    (_, i) => i % 4 === 0,
  );
  return { curve, findings };
}
