/**
 * Units a performance shop writes on its sheets, and the SI unit the core computes in.
 *
 * Factors: NIST SP 811 (2008), appendix B; the mechanical horsepower, metric horsepower, pound-force foot and
 * inch of mercury (0 °C) as printed there. Convert at the edge and nowhere else.
 */

// Bound once: the numeric loops below call them millions of times.
const { PI } = Math;

export const STANDARD_GRAVITY_M_S2 = 9.80665;
export const WATTS_PER_HP = 745.69987158;
export const WATTS_PER_PS = 735.49875;
export const NM_PER_LBFT = 1.3558179483;
export const PA_PER_INHG = 3386.389;
const KG_PER_LB = 0.45359237;
const M_PER_FT = 0.3048;

export type Quantity =
  | 'power'
  | 'torque'
  | 'temperature'
  | 'pressure'
  | 'length'
  | 'roadSpeed'
  | 'mass'
  | 'flow'
  | 'engineSpeed'
  | 'rollerSpeed'
  | 'time'
  | 'fraction';

interface Unit {
  readonly quantity: Quantity;
  /** Multiply by this and add `offset` to reach the SI unit of the quantity. */
  readonly factor: number;
  readonly offset: number;
}

const unit = (quantity: Quantity, factor: number, offset = 0): Unit => ({ quantity, factor, offset });

/** SI per quantity: W, N·m, °C, Pa, m, m/s, kg, m³/s, rpm (engine), rad/s (roller), s, fraction 0–1. */
const UNITS = {
  W: unit('power', 1),
  kW: unit('power', 1000),
  hp: unit('power', WATTS_PER_HP),
  PS: unit('power', WATTS_PER_PS),
  'N·m': unit('torque', 1),
  'lb·ft': unit('torque', NM_PER_LBFT),
  'kgf·m': unit('torque', STANDARD_GRAVITY_M_S2),
  '°C': unit('temperature', 1),
  '°F': unit('temperature', 5 / 9, -160 / 9),
  K: unit('temperature', 1, -273.15),
  Pa: unit('pressure', 1),
  hPa: unit('pressure', 100),
  kPa: unit('pressure', 1000),
  inHg: unit('pressure', PA_PER_INHG),
  mmHg: unit('pressure', 133.3224),
  psi: unit('pressure', 6894.757),
  bar: unit('pressure', 100000),
  m: unit('length', 1),
  ft: unit('length', M_PER_FT),
  'm/s': unit('roadSpeed', 1),
  'km/h': unit('roadSpeed', 1 / 3.6),
  mph: unit('roadSpeed', 0.44704),
  kg: unit('mass', 1),
  lb: unit('mass', KG_PER_LB),
  'm³/s': unit('flow', 1),
  'L/s': unit('flow', 0.001),
  cfm: unit('flow', M_PER_FT ** 3 / 60),
  rpm: unit('engineSpeed', 1),
  '1000 rpm': unit('engineSpeed', 1000),
  'rad/s': unit('rollerSpeed', 1),
  'roller rpm': unit('rollerSpeed', (2 * PI) / 60),
  s: unit('time', 1),
  ms: unit('time', 0.001),
  fraction: unit('fraction', 1),
  '%': unit('fraction', 0.01),
} as const satisfies Record<string, Unit>;

export type UnitName = keyof typeof UNITS;

export const UNIT_NAMES = Object.keys(UNITS) as UnitName[];

/**
 * Whether this names a unit that can be converted.
 * @example isUnitName('furlong') // false
 */
export function isUnitName(name: string): name is UnitName {
  return Object.hasOwn(UNITS, name);
}

/**
 * The quantity that a unit measures.
 * @example quantityOf('hp') // 'power'
 */
export function quantityOf(name: UnitName): Quantity {
  return UNITS[name].quantity;
}

/**
 * Every unit of a quantity.
 * @example unitsOf('torque').includes('lb·ft') // true
 */
export function unitsOf(quantity: Quantity): UnitName[] {
  return UNIT_NAMES.filter((name) => UNITS[name].quantity === quantity);
}

/**
 * Value in the SI unit of its quantity. `toSi(1, 'hp') === 745.69987158`.
 * @example toSi(100, 'hp') // 74570
 */
export function toSi(value: number, from: UnitName): number {
  const { factor, offset } = UNITS[from];
  return value * factor + offset;
}

/**
 * Many values in the SI unit of their quantity, times a scale; each equals `toSi(value, from) * scale`.
 * @example allToSi(Float64Array.of(1, 2), 'kW')[1] // 2000
 */
export function allToSi(values: Float64Array, from: UnitName, scale = 1): Float64Array {
  const { factor, offset } = UNITS[from];
  const out = new Float64Array(values.length);
  for (let i = 0; i < out.length; i += 1) out[i] = (values[i]! * factor + offset) * scale;
  return out;
}

/**
 * Value in `to`, from the SI unit of its quantity.
 * @example fromSi(20, '°F') // 68
 */
export function fromSi(value: number, to: UnitName): number {
  const { factor, offset } = UNITS[to];
  return (value - offset) / factor;
}

/**
 * Converts between two units of one quantity.
 * @throws RangeError when the units measure different things
 * @example convert(100, 'kW', 'hp') // 134.102
 */
export function convert(value: number, from: UnitName, to: UnitName): number {
  if (UNITS[from].quantity !== UNITS[to].quantity) {
    throw new RangeError(`${from} is a unit of ${UNITS[from].quantity}, ${to} of ${UNITS[to].quantity}`);
  }
  return from === to ? value : fromSi(toSi(value, from), to);
}

/**
 * Angular speed of a shaft in rad/s from rev/min.
 * @example radPerSecond(3000) // 314.159
 */
export function radPerSecond(rpm: number): number {
  return (rpm * PI) / 30;
}

/**
 * Torque in N·m at the engine-speed axis: wheel power divided by engine speed.
 * @example torqueAtEngineSpeed(100e3, 5000) // 190.986
 */
export function torqueAtEngineSpeed(powerW: number, rpm: number): number {
  return powerW / radPerSecond(rpm);
}
