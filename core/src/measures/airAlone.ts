import type { Job } from '../job/job.ts';
import { pullWeather } from '../job/weather.ts';
import { mean } from '../statistics/summary.ts';
import type { JudgedPull, Judgement } from '../verdict/outcome.ts';
import { sideOfSetup } from '../verdict/selection.ts';
import { truePercent } from '../verdict/percent.ts';
import { channelMean } from './channelReadings.ts';

const { log } = Math;

/** What the density of the air ahead of the throttle would explain of a change of power. */
export interface AirAlone {
  readonly logPercent: number;
  /** True per cent. */
  readonly percent: number;
}

/** Absolute pressure (any unit, the same for both) and temperature of the air that the engine breathes. */
export interface Breathed {
  readonly pressure: number;
  readonly celsius: number;
}

/**
 * What the air alone would explain, to first order: power goes with the density of the air, pressure over absolute temperature
 * (ideal gas). Timing, mixture and exhaust pressure are not in it.
 * @example airAlone({ pressure: 198, celsius: 63 }, { pressure: 201, celsius: 38 }).percent.toFixed(3) // '9.672'
 */
export function airAlone(baseline: Breathed, candidate: Breathed): AirAlone {
  const kelvin = ({ celsius }: Breathed) => celsius + 273.15;
  const own = 100 * (log(candidate.pressure / baseline.pressure) - log(kelvin(candidate) / kelvin(baseline)));
  return { logPercent: own, percent: truePercent(own) };
}

/** Means over the window of the counted pulls of the two sides, and what their air would explain. */
export interface AirExplains extends AirAlone {
  readonly baseline: Breathed;
  readonly candidate: Breathed;
  /** Channel of the temperature; the pressure is the manifold's, or the station's less the vacuum ahead of the throttle. */
  readonly temperature: string;
  readonly pressure: 'manifold_kpa' | 'inlet_vacuum_kpa';
  /** Differences of what is listed beside it and not converted, in the channels' units; null where it was not recorded. */
  readonly beside: Readonly<Record<'ignition_deg' | 'lambda', number | null>>;
}

/** Ahead of the throttle, the last sensor first. */
const AHEAD = ['intake_c', 'charge_c'] as const;

/**
 * What the air alone would explain between two sides of a judged job, from the channels of their used pulls; null where pressure or
 * temperature of one side was not recorded.
 * @example airExplains(newJob('1', 'x'), judgeJob(newJob('1', 'x')), 'B') // null
 */
export function airExplains(
  job: Job,
  { pulls, window }: Pick<Judgement, 'pulls' | 'window'>,
  candidateSetup: string,
): AirExplains | null {
  if (!window) return null;
  const side = sideOfSetup(job, candidateSetup);
  if (side === null) return null;
  const own = new Map(job.pulls.map((p) => [p.id, p]));
  const used = (of: number) => pulls.filter((p) => p.used && sideOfSetup(job, p.setupId) === of);
  const over = (p: JudgedPull, name: string) => {
    const channel = p.readings.channels.find((c) => c.name === name);
    return channel ? channelMean(channel, window[0], window[1]) : NaN;
  };
  const meanOver = (of: number, read: (p: JudgedPull) => number) => {
    const values = used(of).map(read);
    return values.length > 0 && values.every(Number.isFinite) ? mean(values) : NaN;
  };
  const absolute = {
    manifold_kpa: (p: JudgedPull) => over(p, 'manifold_kpa'),
    inlet_vacuum_kpa: (p: JudgedPull) =>
      (pullWeather(job, own.get(p.id)!).air?.pressureHpa ?? NaN) / 10 - over(p, 'inlet_vacuum_kpa'),
  };
  const both = (read: (p: JudgedPull) => number) => [meanOver(0, read), meanOver(side, read)] as const;
  const known = ([a, b]: readonly [number, number]) => Number.isFinite(a) && Number.isFinite(b);
  const pressure = (['manifold_kpa', 'inlet_vacuum_kpa'] as const).find((name) => known(both(absolute[name])));
  const temperature = AHEAD.find((name) => known(both((p) => over(p, name))));
  if (!pressure || !temperature) return null;
  const [pA, pB] = both(absolute[pressure]);
  const [tA, tB] = both((p) => over(p, temperature));
  const baseline = { pressure: pA, celsius: tA };
  const candidate = { pressure: pB, celsius: tB };
  const beside = (name: string) => {
    const [a, b] = both((p) => over(p, name));
    return known([a, b]) ? b - a : null;
  };
  return {
    ...airAlone(baseline, candidate),
    ...{ baseline, candidate, temperature, pressure },
    beside: { ignition_deg: beside('ignition_deg'), lambda: beside('lambda') },
  };
}
