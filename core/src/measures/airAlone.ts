import { truePercent } from '../verdict/percent.ts';

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
