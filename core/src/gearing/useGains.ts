import type { Job, UseProfile } from '../job/job.ts';
import { measureName } from '../measures/declaredMeasure.ts';
import { isCurved } from '../measures/measureFacts.ts';
import { fromRpm, toRpm, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import type { PreparedPull } from '../pull/preparedPulls.ts';
import { measuredOn } from '../verdict/measured.ts';
import { answersWith } from '../verdict/measuredDay.ts';
import { truePercent } from '../verdict/percent.ts';
import { selectPulls } from '../verdict/selection.ts';
import { settingsOf } from '../verdict/settings.ts';
import { USE_STEP_RPM } from './useProfile.ts';

/** A gain weighed by how the car is used, true per cent. */
export interface UseGain {
  readonly candidate: string;
  readonly estimate: number;
  readonly low: number;
  readonly high: number;
  /** Share of the use that the pulls cover, 0 to 1; the rest is left out. */
  readonly covered: number;
}

/** The classes of a profile that every curve covers, with shares that sum to 1 again. */
function coveredClasses(curves: readonly GridCurve[], { shares }: UseProfile) {
  const low = Math.max(...curves.map(fromRpm));
  const high = Math.min(...curves.map(toRpm));
  const inside = shares.filter((s) => s.share > 0 && s.fromRpm >= low && s.fromRpm + USE_STEP_RPM <= high);
  const covered = inside.reduce((a, s) => a + s.share, 0);
  return { covered, classes: inside.map((s) => ({ ...s, share: s.share / covered })) };
}

/**
 * Gains under a use profile: Σ share · 100·ln(mean power of the class) of every pull goes through the engine like any other number, so
 * that what the classes have in common is in the interval (docs/method.md, Use).
 * @returns empty where power was not asked, or no class of the profile was pulled
 * @example useGains(newJob('1', 'x'), [], USE_PRESETS.street) // []
 */
export function useGains(job: Job, prepared: readonly PreparedPull[], profile: UseProfile): UseGain[] {
  const asked = job.question.measures.find((m) => m.id === 'windowMeanPower') ?? job.question.measures[0]!;
  const selection = selectPulls(job, prepared);
  const settings = settingsOf(job, selection, asked);
  if (!isCurved(settings.endpoint) || measureName(asked) === 'fade') return [];
  const { day } = measuredOn(selection, [], settings);
  if (!day || day.sides.length === 0) return [];
  const { covered, classes } = coveredClasses(
    day.used.map((c) => settings.endpoint.curve(c.power)),
    profile,
  );
  if (classes.length === 0) return [];
  const read = (curve: GridCurve) =>
    Math.exp(
      classes.reduce((a, s) => a + s.share * Math.log(windowMean(curve, s.fromRpm, s.fromRpm + USE_STEP_RPM)), 0),
    );
  const weighed = {
    ...settings,
    endpoint: { ...settings.endpoint, read: (c: { power: GridCurve }) => read(settings.endpoint.curve(c.power)) },
  };
  const answers = answersWith(day, day.used, weighed);
  return (answers ?? []).map(({ estimate, low, high }, i) => ({
    candidate: job.question.candidateSetups[day.sides[i]! - 1]!,
    ...{ estimate: truePercent(estimate), low: truePercent(low), high: truePercent(high), covered },
  }));
}
