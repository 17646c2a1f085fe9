import { finding } from '../pull/findings.ts';
import { peakOf, windowMean } from '../pull/gridCurve.ts';
import { isCurved } from '../measures/measureFacts.ts';
import { NAMED, type BadPull } from './badPulls.ts';
import type { MeasuredDay } from './measuredDay.ts';
import type { JudgedPull } from './outcome.ts';
import { partialDips } from './partialDips.ts';
import type { Candidate } from './selection.ts';
import type { AnalysisSettings } from './settings.ts';

/** What is known of one pull, whatever it is asked about. */
export function judgedPull(c: Candidate, used: boolean, window: readonly [number, number] | null): JudgedPull {
  return {
    id: c.pull.id,
    setupId: c.pull.setupId,
    name: c.name,
    status: c.pull.status,
    used,
    notUsedBecause: c.notUsedBecause,
    power: c.power,
    factor: c.factor,
    windowMeanW: window ? windowMean(c.power, window[0], window[1]) : NaN,
    peak: peakOf(c.power),
    startAboveAirC: c.startC,
    hours: c.hours,
    findings: c.findings,
    readings: c.readings,
  };
}

/** Writes what is odd about a pull into its findings; nothing is dropped. */
export function findOdd(day: MeasuredDay, suspected: readonly BadPull[], { endpoint }: AnalysisSettings): void {
  const { used, prepared, window } = day;
  const logs = used.map((c) => ({ ...c.power, values: c.power.values.map((p) => (p > 0 ? 100 * Math.log(p) : NaN)) }));
  if (isCurved(endpoint))
    for (const { index, score, atRpm } of partialDips(prepared, logs, window))
      used[index]!.findings.push(finding('partial-dip', 'warning', { percent: score, atRpm }, atRpm, atRpm));
  for (const { index, likely, repeat } of suspected)
    used[index]!.findings.push(
      finding('unlike-the-others', likely > NAMED ? 'warning' : 'info', { likelyPercent: 100 * likely, repeat }),
    );
}
