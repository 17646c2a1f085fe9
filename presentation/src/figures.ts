import { factsNamed, fromSi, type Difference, type Gain, type UnitName } from '@prandel/core';

/** The units a person chose, one per quantity that is shown. */
export interface ShownUnits {
  readonly power: UnitName;
  readonly torque: UnitName;
  readonly temperature: UnitName;
  readonly pressure: UnitName;
}

export const USUAL_UNITS: ShownUnits = { power: 'kW', torque: 'N·m', temperature: '°C', pressure: 'hPa' };

const MINUS = '\u2212';
const digitsOf: Partial<Record<UnitName, number>> = {
  'N·m': 0,
  'lb·ft': 0,
  'kgf·m': 1,
  hPa: 1,
  kPa: 2,
  inHg: 2,
  mmHg: 1,
  bar: 4,
  psi: 3,
};

/** A plain number with U+2212 for minus and never "−0.0". */
export function plain(value: number | null | undefined, digits: number): string {
  if (value === null || value === undefined || !Number.isFinite(value)) return '–';
  const text = Math.abs(value).toFixed(digits);
  return value < 0 && Number(text) !== 0 ? MINUS + text : text;
}

/** A difference: always signed, zero as "0.0". */
export function signed(value: number | null | undefined, digits = 1): string {
  const text = plain(value, digits);
  return value !== null && value !== undefined && value > 0 && Number(text) !== 0 ? `+${text}` : text;
}

/** A value of SI in the chosen unit, with that unit's usual digits. */
export function shown(value: number | null | undefined, unit: UnitName, digits = digitsOf[unit] ?? 1): string {
  return value === null || value === undefined || !Number.isFinite(value) ? '–' : plain(fromSi(value, unit), digits);
}

/** A temperature difference in the chosen unit. */
export function temperatureStep(celsius: number, unit: UnitName): number {
  return unit === '°F' ? celsius * 1.8 : celsius;
}

/** Estimate, half-width and ends as they are printed: the half-width rounds up, the ends derive from the two and never cross a zero that the interval does not hold. */
export interface Interval {
  readonly estimate: string;
  readonly half: string;
  readonly low: string;
  readonly high: string;
}

export function interval(estimate: number, low: number, high: number, digits = 1): Interval {
  const scale = 10 ** digits;
  const centre = Math.round(estimate * scale) / scale;
  const half = Math.ceil(Math.max(high - estimate, estimate - low) * scale - 1e-9) / scale;
  return {
    estimate: signed(centre, digits),
    half: plain(half, digits),
    low: signed(low >= 0 ? Math.max(0, centre - half) : centre - half, digits),
    high: signed(high <= 0 ? Math.min(0, centre + half) : centre + half, digits),
  };
}

/** The unit in which a person reads power and torque; of any other measure its own. */
export function unitOf(measure: string, units: ShownUnits): UnitName {
  return units[factsNamed(measure).quantity === 'torque' ? 'torque' : 'power'];
}

/** How differences of a measure are read: the unit, the figure in it, and the decimals that it is worth. */
export interface ReadDifference {
  readonly unit: string;
  readonly to: (value: number) => number;
  readonly digits: number;
}

/** Decimals of units that are not worth one. */
const FINE: Readonly<Record<string, number>> = { '': 3, V: 2, s: 2, bar: 2, '%/pull': 2 };

/** A difference in a measure's unit as a person reads it: a temperature difference has no zero point to move. */
export function differenceIn(unit: Gain['unit'], units: ShownUnits): ReadDifference {
  if (unit === '°C') return { unit: units.temperature, to: (v) => temperatureStep(v, units.temperature), digits: 1 };
  if (unit !== 'W' && unit !== 'N·m') return { unit, to: (v) => v, digits: FINE[unit] ?? 1 };
  const own = unit === 'W' ? units.power : units.torque;
  return { unit: own, to: (v) => fromSi(v, own), digits: 1 };
}

/** A gain in the measure's own unit as the person reads it. */
export function gainInterval(
  gain: Pick<Gain, 'unit' | 'value' | 'lowValue' | 'highValue'>,
  units: ShownUnits,
): Interval & { readonly unit: string } {
  const { unit, to, digits } = differenceIn(gain.unit, units);
  return { ...interval(to(gain.value), to(gain.lowValue), to(gain.highValue), digits), unit };
}

/** A difference in per cent or in the measure's own unit as it is printed: "+1.2 ±0.4 %". */
export function differenceInterval(d: Difference, units: ShownUnits): Interval & { readonly unit: string } {
  const { unit, to, digits } = differenceIn(d.unit, units);
  return { ...interval(to(d.estimate), to(d.low), to(d.high), digits), unit };
}

/** The size that would matter, with its unit: per cent, or the measure's own unit. */
export function matters(measure: string, size: number, units: ShownUnits): string {
  const facts = factsNamed(measure);
  if (facts.scale === 'log') return `${plain(size, size % 1 === 0 ? 0 : 1)} %`;
  const { unit, to, digits } = differenceIn(facts.unit, units);
  return withUnit(plain(to(size), digits), unit);
}

/** A figure with its unit; some quantities have none. */
export function withUnit(figure: string, unit: string): string {
  return unit === '' ? figure : `${figure} ${unit}`;
}
