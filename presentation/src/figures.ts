import { fromSi, MEASURE_FACTS, type Difference, type Gain, type Measure, type UnitName } from '@prandel/core';

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

/** The unit in which a person reads a measure. */
export function unitOf(measure: Measure, units: ShownUnits): UnitName {
  return units[MEASURE_FACTS[measure].quantity];
}

/** A difference of an SI unit as a person reads it: a temperature difference has no zero point to move. */
export function differenceIn(unit: Gain['unit'], units: ShownUnits): { unit: UnitName; to: (value: number) => number } {
  if (unit === '°C') return { unit: units.temperature, to: (v) => temperatureStep(v, units.temperature) };
  const own = unit === 'W' ? units.power : units.torque;
  return { unit: own, to: (v) => fromSi(v, own) };
}

/** A gain in the measure's own unit as the person reads it. */
export function gainInterval(
  gain: Pick<Gain, 'unit' | 'value' | 'lowValue' | 'highValue'>,
  units: ShownUnits,
): Interval & { readonly unit: UnitName } {
  const { unit, to } = differenceIn(gain.unit, units);
  return { ...interval(to(gain.value), to(gain.lowValue), to(gain.highValue)), unit };
}

/** A difference in per cent or degrees as it is printed: "+1.2 ±0.4 %". */
export function differenceInterval(d: Difference, units: ShownUnits): Interval & { readonly unit: '%' | UnitName } {
  const to = (v: number) => (d.unit === '°C' ? temperatureStep(v, units.temperature) : v);
  return { ...interval(to(d.estimate), to(d.low), to(d.high)), unit: d.unit === '%' ? '%' : units.temperature };
}

/** The size that would matter, with its unit: per cent, or degrees of a temperature. */
export function matters(measure: Measure, size: number, units: ShownUnits): string {
  if (MEASURE_FACTS[measure].quantity !== 'temperature') return `${plain(size, size % 1 === 0 ? 0 : 1)} %`;
  return `${plain(temperatureStep(size, units.temperature), 1)} ${units.temperature}`;
}
