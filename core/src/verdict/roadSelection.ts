import { newPull } from '../job/defaults.ts';
import type { Job, RoadPass } from '../job/job.ts';
import { NO_READINGS } from '../measures/channelReadings.ts';
import type { DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { EMPTY_CURVE } from '../pull/gridCurve.ts';
import { pullWeather } from '../job/weather.ts';
import { sideOfSetup, type Candidate } from './selection.ts';

/** Without times: minutes from pass to pass, and from the last of a setup to the first of the next. */
const PASS_MIN = 3;
const CHANGE_MIN = 60;

/** The passes of a job as what enters a fit: side, time, direction. They carry no curve and no channel. */
export function roadCandidates(job: Job): Candidate[] {
  const passes = job.roadPasses ?? [];
  const hours = passHours(passes);
  const counts = new Map<string, number>();
  return passes.map((pass, i) => {
    const place = (counts.get(pass.setupId) ?? 0) + 1;
    counts.set(pass.setupId, place);
    const side = sideOfSetup(job, pass.setupId);
    const pull = { ...newPull(`road-${i + 1}`, pass.setupId, place), startedAt: pass.at };
    return {
      ...{ pull, pass, side, hours: hours[i]!, name: `${pass.setupId} road ${place}` },
      ...{ weather: pullWeather(job, pull), factor: null, startC: null },
      ...{ uncorrected: EMPTY_CURVE, power: EMPTY_CURVE, readings: NO_READINGS, findings: [] },
      notUsedBecause: side === null ? { code: 'outside-question' } : null,
    };
  });
}

function passHours(passes: readonly RoadPass[]): number[] {
  if (passes.every(({ at }) => at !== null)) {
    const first = Math.min(...passes.map(({ at }) => Date.parse(at!)));
    return passes.map(({ at }) => (Date.parse(at!) - first) / 3_600_000);
  }
  let minutes = 0;
  return passes.map((pass, i) => {
    if (i > 0) minutes += passes[i - 1]!.setupId === pass.setupId ? PASS_MIN : CHANGE_MIN;
    return minutes / 60;
  });
}

/** Passes between the speeds of a measure. A direction in which the baseline was not driven compares with nothing: it is apart. */
export function passesOn(road: readonly Candidate[], { fromKmH, toKmH }: DeclaredMeasure) {
  const own = road.filter(({ pass, side }) => side !== null && pass!.fromKmH === fromKmH && pass!.toKmH === toKmH);
  const driven = new Set(own.filter(({ side }) => side === 0).map(({ pass }) => pass!.direction));
  const used = own.filter(({ pass }) => driven.has(pass!.direction));
  return { all: own, used, apart: own.filter((c) => !used.includes(c)) };
}
