import { conditionFinding, type ConditionFinding, type Stretch } from '../verdict/conditionFindings.ts';
import type { Band, SetupPeaks, Verdict } from '../verdict/outcome.ts';

/** A peak that moved by less than this stood still, per cent. Judgement: about what nobody should call a gain back to back. */
const STILL_PERCENT = 0.3;

/**
 * Where the peak tells another story than the range: a peak that rose while a stretch verifiably lost, and a verified gain
 * that the peak does not show. Peaks are single points without an interval.
 */
export function peakFindings(
  peaks: { readonly baseline: SetupPeaks | null; readonly candidate: SetupPeaks | null },
  bands: readonly Band[],
  verdict: Verdict,
): ConditionFinding[] {
  if (!peaks.baseline || !peaks.candidate) return [];
  const percent = 100 * (peaks.candidate.power.value / peaks.baseline.power.value - 1);
  const lost = bands.filter((b) => b.verdict === 'verified-loss');
  if (percent > STILL_PERCENT && lost.length > 0)
    return [conditionFinding('peak-hides-loss', 'warning', { percent, lostRpm: stretches(lost) })];
  if (percent <= STILL_PERCENT && verdict === 'verified-gain')
    return [conditionFinding('gain-beside-peak', 'info', { percent })];
  return [];
}

/** Neighbouring bands joined. */
function stretches(bands: readonly Band[]): Stretch[] {
  const joined: [number, number][] = [];
  for (const { fromRpm, toRpm } of bands) {
    const last = joined.at(-1);
    if (last && last[1] === fromRpm) last[1] = toRpm;
    else joined.push([fromRpm, toRpm]);
  }
  return joined;
}
