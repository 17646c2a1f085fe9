import type { Job } from '../job/job.ts';
import { isCurved } from '../measures/measureFacts.ts';
import { fromRpm, toRpm, windowMean } from '../pull/gridCurve.ts';
import type { PreparedPull } from '../pull/preparedPulls.ts';
import { gainOf } from './gain.ts';
import { measuredOn } from './measured.ts';
import { answersWith } from './measuredDay.ts';
import type { Gain } from './outcome.ts';
import { selectPulls } from './selection.ts';
import { settingsOf, type AnalysisSettings } from './settings.ts';

/** Gains of the candidates over another window than the one that was declared. */
export interface WindowGains {
  readonly windowRpm: readonly [number, number];
  readonly gains: readonly { readonly candidate: string; readonly gain: Gain }[];
}

/**
 * The mean over other windows of the same pulls, also seen: only a declared window decides. A window that not every pull covers has no
 * gains.
 * @example windowGains(newJob('1', 'x'), [], [[3000, 4000]])[0].gains // []
 */
export function windowGains(
  job: Job,
  prepared: readonly PreparedPull[],
  windows: readonly (readonly [number, number])[],
): WindowGains[] {
  const selection = selectPulls(job, prepared);
  const curved = job.question.measures.find((m) => isCurved(settingsOf(job, selection, m).endpoint));
  const settings = settingsOf(job, selection, {
    id: curved?.id === 'windowMeanTorque' ? curved.id : 'windowMeanPower',
    meaningful: 1,
  });
  const { day } = measuredOn(selection, [], settings);
  return windows.map((windowRpm): WindowGains => {
    const [from, to] = windowRpm;
    const covered = day?.used.every((c) => fromRpm(c.power) <= from && toRpm(c.power) >= to && to > from);
    if (!day || !covered || day.sides.length === 0) return { windowRpm, gains: [] };
    const { endpoint } = settings;
    const own: AnalysisSettings = {
      ...settings,
      endpoint: { ...endpoint, read: (c) => windowMean(endpoint.curve(c.power), from, to) },
    };
    const answers = answersWith(day, day.used, own) ?? [];
    return {
      windowRpm,
      gains: answers.map((answer, i) => ({
        candidate: job.question.candidateSetups[day.sides[i]! - 1]!,
        gain: gainOf(day, answer, own),
      })),
    };
  });
}
