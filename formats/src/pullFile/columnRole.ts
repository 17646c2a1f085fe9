import { isUnitName, type Quantity, type UnitName } from '@prandel/core';

/** What a column of a pull file may be. The quantity says which units fit it. */
export const COLUMN_ROLES = {
  engineSpeed: { label: 'Engine speed', quantity: 'engineSpeed', unit: 'rpm', channel: 'engine_rpm' },
  wheelPower: { label: 'Wheel power', quantity: 'power', unit: 'W', channel: 'wheel_power_w' },
  wheelTorque: { label: 'Wheel torque', quantity: 'torque', unit: 'N·m', channel: 'wheel_torque_nm' },
  time: { label: 'Time', quantity: 'time', unit: 's', channel: 'time_s' },
  rollerSpeed: { label: 'Roller speed', quantity: 'rollerSpeed', unit: 'rad/s', channel: 'roller_rad_s' },
  brakeTorque: { label: 'Brake torque', quantity: 'torque', unit: 'N·m', channel: 'brake_nm' },
  throttle: { label: 'Throttle', quantity: 'fraction', unit: 'fraction', channel: 'throttle_fraction' },
  intakeAir: { label: 'Intake air', quantity: 'temperature', unit: '°C', channel: 'intake_c' },
  coolant: { label: 'Coolant', quantity: 'temperature', unit: '°C', channel: 'coolant_c' },
  oil: { label: 'Oil', quantity: 'temperature', unit: '°C', channel: 'oil_c' },
  bayAir: { label: 'Air in the bay', quantity: 'temperature', unit: '°C', channel: 'bay_air_c' },
  stationPressure: { label: 'Station pressure', quantity: 'pressure', unit: 'hPa', channel: 'station_pressure_hpa' },
  humidity: {
    label: 'Relative humidity',
    quantity: 'fraction',
    unit: 'fraction',
    channel: 'relative_humidity_fraction',
  },
  roadSpeed: { label: 'Road speed', quantity: 'roadSpeed', unit: 'km/h', channel: 'speed_km_h' },
  pedal: { label: 'Pedal', quantity: 'fraction', unit: 'fraction', channel: 'pedal_fraction' },
  chargeIn: { label: 'Air into the cooler', quantity: 'temperature', unit: '°C', channel: 'charge_in_c' },
  charge: { label: 'Air out of the cooler', quantity: 'temperature', unit: '°C', channel: 'charge_c' },
  coolerAir: { label: 'Air ahead of the cooler', quantity: 'temperature', unit: '°C', channel: 'ambient_c' },
  gearbox: { label: 'Gearbox oil', quantity: 'temperature', unit: '°C', channel: 'gearbox_c' },
  exhaust: { label: 'Exhaust gas', quantity: 'temperature', unit: '°C', channel: 'exhaust_c' },
  manifold: { label: 'Manifold pressure, absolute', quantity: 'pressure', unit: 'kPa', channel: 'manifold_kpa' },
  chargeInPressure: { label: 'Pressure into the cooler', quantity: 'pressure', unit: 'kPa', channel: 'charge_in_kpa' },
  chargePressure: { label: 'Pressure out of the cooler', quantity: 'pressure', unit: 'kPa', channel: 'charge_kpa' },
  inletVacuum: { label: 'Inlet vacuum', quantity: 'pressure', unit: 'kPa', channel: 'inlet_vacuum_kpa' },
  fuelPressure: { label: 'Fuel pressure', quantity: 'pressure', unit: 'kPa', channel: 'fuel_kpa' },
  oilPressure: { label: 'Oil pressure', quantity: 'pressure', unit: 'bar', channel: 'oil_bar' },
  airflow: { label: 'Air mass flow, g/s', quantity: null, unit: null, channel: 'airflow_g_s' },
  ignition: { label: 'Ignition timing, °', quantity: null, unit: null, channel: 'ignition_deg' },
  knock: { label: 'Knock retard, °', quantity: null, unit: null, channel: 'knock_deg' },
  lambda: { label: 'Lambda', quantity: null, unit: null, channel: 'lambda' },
  pullName: { label: 'Name of the pull', quantity: null, unit: null, channel: null },
  other: { label: 'Keep as it is', quantity: null, unit: null, channel: null },
  ignore: { label: 'Leave out', quantity: null, unit: null, channel: null },
} as const satisfies Record<
  string,
  { label: string; quantity: Quantity | null; unit: UnitName | null; channel: string | null }
>;

export type ColumnRole = keyof typeof COLUMN_ROLES;

export function isColumnRole(text: string): text is ColumnRole {
  return Object.hasOwn(COLUMN_ROLES, text);
}

const UNIT_WORDS: readonly [RegExp, UnitName][] = [
  [/^k\.?w\.?$/i, 'kW'],
  [/^w(att)?s?$/, 'W'],
  [/^(w|b|r)?hp$/i, 'hp'],
  [/^(ps|cv|pk|ch)$/i, 'PS'],
  [/^n[\s·.*-]?m$/i, 'N·m'],
  [/^(ft[\s·.*/-]*lbf?s?|lbf?s?[\s·.*/-]*ft|ftlb|lbft)$/i, 'lb·ft'],
  [/^(kgf?[\s·.*-]*m|m[\s·.*-]*kgf?)$/i, 'kgf·m'],
  [/^(°|º|deg\.?\s*)?c(elsius)?$/i, '°C'],
  [/^(°|º|deg\.?\s*)?f(ahrenheit)?$/i, '°F'],
  [/^k(elvin)?$/, 'K'],
  [/^(mbar|hpa)$/i, 'hPa'],
  [/^kpa$/i, 'kPa'],
  [/^pa$/i, 'Pa'],
  [/^bar$/i, 'bar'],
  [/^psi[ag]?$/i, 'psi'],
  [/^in[\s.]?hg$/i, 'inHg'],
  [/^mm[\s.]?hg$/i, 'mmHg'],
  [/^(rpm|r\/min|1\/min|u\/min|min-1|rev\/min|tr\/min)$/i, 'rpm'],
  [/^(x\s*1000\s*(rpm)?|1000\s*rpm|krpm|rpm\s*[x/*]\s*1000)$/i, '1000 rpm'],
  [/^rad\/s(ec)?$/i, 'rad/s'],
  [/^(s|sec|secs|seconds?)$/i, 's'],
  [/^(ms|msec|milliseconds?)$/i, 'ms'],
  [/^(km\/h|kph|kmh)$/i, 'km/h'],
  [/^mph$/i, 'mph'],
  [/^m\/s$/i, 'm/s'],
  [/^(%|pct|percent|per cent)$/i, '%'],
  [/^(fraction|0-1)$/i, 'fraction'],
  [/^cfm$/i, 'cfm'],
  [/^l\/s$/i, 'L/s'],
];

/** The unit a word means, or null. */
export function unitFromWord(word: string): UnitName | null {
  const text = word.trim();
  return isUnitName(text) ? text : (UNIT_WORDS.find(([pattern]) => pattern.test(text))?.[1] ?? null);
}

/** Splits a header such as `Power (kW)`, `Torque [lb-ft]`, `IAT_C` or `kW` into its name and its unit. */
export function splitHeader(header: string): { name: string; unit: UnitName | null } {
  const text = header.trim().replace(/^"|"$/g, '');
  const bracketed = bracketsAtEnd(text);
  if (bracketed) {
    const unit = unitFromWord(bracketed.inside);
    if (unit) return { name: bracketed.before || text, unit };
  }
  const tailed = lastWord(text.replace(/_?rad_s$/i, ' rad/s'));
  if (tailed) {
    const unit = unitFromWord(tailed.word);
    if (unit && !(unit === 's' && tailed.before.length < 2)) return { name: tailed.before.trim(), unit };
  }
  return { name: text, unit: unitFromWord(text) };
}

/** What stands in brackets at the end of a header, and before them. */
function bracketsAtEnd(text: string): { before: string; inside: string } | null {
  if (!/[)\]}]$/.test(text)) return null;
  const open = Math.max(text.lastIndexOf('('), text.lastIndexOf('['), text.lastIndexOf('{'));
  const inside = open < 0 ? '' : text.slice(open + 1, -1).trim();
  if (inside === '' || /[)\]}]/.test(inside)) return null;
  return { before: text.slice(0, open).replace(/[\s_]+$/, ''), inside };
}

/** The last word of a header behind a separator; a unit such as `km/h` holds one itself, so ever longer tails are tried. */
function lastWord(text: string): { before: string; word: string } | null {
  const separators = /[\s_,;:/-]/;
  for (let at = 1; at < text.length - 1; at += 1) {
    if (!separators.test(text[at]!)) continue;
    const word = text.slice(at + 1);
    if (separators.test(word[0]!) || /[\s_]/.test(word)) continue;
    let end = at;
    while (end > 1 && separators.test(text[end - 1]!)) end -= 1;
    return { before: text.slice(0, end), word };
  }
  return null;
}

const NAMES: readonly [RegExp, ColumnRole, number][] = [
  [/^(pull|run|sweep|test|lauf|pass)(\s*_?(no\.?|nr\.?|number|id|name|#|label))?$/i, 'pullName', 0.9],
  [/(roller|drum|rolle|dyno)[\s_.-]*(speed|rpm|omega|rad)|^roller/i, 'rollerSpeed', 0.9],
  [/brake|retarder|absorber|bremse/i, 'brakeTorque', 0.8],
  [/\blambda\b/i, 'lambda', 0.9],
  [/\begt\b|exhaust[\s_]*(gas)?[\s_]*temp|abgastemp/i, 'exhaust', 0.85],
  [/(gear[\s_]*box|transmission|getriebe)([\s_]*oil)?[\s_]*temp/i, 'gearbox', 0.8],
  [/knock/i, 'knock', 0.75],
  [/ignition|spark[\s_]*adv|(timing|z(ü|ue)nd)/i, 'ignition', 0.75],
  [/inlet[\s_]*vacuum|filter[\s_]*vacuum/i, 'inletVacuum', 0.8],
  [/manifold[\s_]*abs|manifold[\s_]*press|\bmap\b/i, 'manifold', 0.75],
  [/fuel[\s_]*press/i, 'fuelPressure', 0.8],
  [/oil[\s_]*press/i, 'oilPressure', 0.85],
  [/air[\s_]*flow|\bmaf\b/i, 'airflow', 0.75],
  [
    /charge[\s_]*(air)?[\s_]*(temp)?[\s_]*in\b|(before|pre|into)[\s_-]*(the[\s_])?(inter|charge)?[\s_-]*cooler/i,
    'chargeIn',
    0.85,
  ],
  [
    /charge[\s_]*(air)?[\s_]*(temp)?[\s_]*out\b|(after|post|out of)[\s_-]*(the[\s_])?(inter|charge)?[\s_-]*cooler/i,
    'charge',
    0.85,
  ],
  [/(vehicle|road|car|ground|gps|wheel)[\s_]*speed|geschwindigkeit|^(speed|velocity|vss)$/i, 'roadSpeed', 0.85],
  [/\bpedal\b|accelerator/i, 'pedal', 0.85],
  [/throttle|pedal|\btps\b|drosselklappe/i, 'throttle', 0.9],
  [/\biat\b|intake|charge[\s_]*air|inlet[\s_]*(air|temp)|ansaug/i, 'intakeAir', 0.85],
  [/coolant|\bect\b|\bclt\b|water|k(ü|ue)hlmittel|k(ü|ue)hlwasser/i, 'coolant', 0.85],
  [/\boil\b|(ö|oe)l[\s_-]*temp/i, 'oil', 0.75],
  [/ambient|room|bay[\s_]*air|cell[\s_]*(air|temp)|air[\s_]*temp|umgebung/i, 'bayAir', 0.8],
  [/baro|station[\s_]*press|atmos|ambient[\s_]*press|luftdruck/i, 'stationPressure', 0.85],
  [/humid|\brh\b|feucht/i, 'humidity', 0.85],
  [/engine[\s_]*(speed|rpm)|\brpm\b|drehzahl|\brevs?\b|r(é|e)gime|^n$|motor[\s_]*speed/i, 'engineSpeed', 0.95],
  [/torque|drehmoment|\btq\b|\btrq\b|couple|coppia|\bmoment\b|^m_?d$/i, 'wheelTorque', 0.9],
  [/power|leistung|puissance|potenza|potencia|\bpwr\b|^p$/i, 'wheelPower', 0.9],
  [/^(time|zeit|temps|tempo|t|elapsed|timestamp|clock|uhrzeit)\b/i, 'time', 0.9],
];

const ROLE_BY_UNIT: Partial<Record<UnitName, ColumnRole>> = {
  kW: 'wheelPower',
  W: 'wheelPower',
  hp: 'wheelPower',
  PS: 'wheelPower',
  'N·m': 'wheelTorque',
  'lb·ft': 'wheelTorque',
  'kgf·m': 'wheelTorque',
  rpm: 'engineSpeed',
  '1000 rpm': 'engineSpeed',
  'rad/s': 'rollerSpeed',
  s: 'time',
  ms: 'time',
  'km/h': 'roadSpeed',
  mph: 'roadSpeed',
};

/** Guesses what a column is from its header name and unit. */
export function guessRole(name: string, unit: UnitName | null): { role: ColumnRole; confidence: number } {
  const words = name.replace(/([a-z])([A-Z])/g, '$1 $2').replace(/_/g, ' ');
  const named = NAMES.find(([pattern]) => pattern.test(words));
  const byUnit = unit ? ROLE_BY_UNIT[unit] : undefined;
  if (named) {
    const [, role, confidence] = named;
    const { quantity } = COLUMN_ROLES[role];
    if (quantity === null || !unit || fits(role, unit))
      return { role, confidence: unit ? Math.min(0.99, confidence + 0.08) : confidence };
    // A name and a unit that contradict each other: a pressure called "intake" is no temperature.
    return { role: 'other', confidence: 0.4 };
  }
  return byUnit ? { role: byUnit, confidence: 0.6 } : { role: 'other', confidence: 0.5 };
}

export function fits(role: ColumnRole, unit: string): boolean {
  const { quantity } = COLUMN_ROLES[role];
  if (quantity === 'time' && unit === 'hh:mm:ss') return true;
  return quantity !== null && isUnitName(unit) && quantityMatches(quantity, unit);
}

function quantityMatches(quantity: Quantity, unit: UnitName): boolean {
  const byQuantity: Partial<Record<Quantity, readonly UnitName[]>> = {
    power: ['W', 'kW', 'hp', 'PS'],
    torque: ['N·m', 'lb·ft', 'kgf·m'],
    temperature: ['°C', '°F', 'K'],
    pressure: ['Pa', 'hPa', 'kPa', 'inHg', 'mmHg', 'psi', 'bar'],
    engineSpeed: ['rpm', '1000 rpm'],
    rollerSpeed: ['rad/s', 'roller rpm'],
    time: ['s', 'ms'],
    roadSpeed: ['km/h', 'mph', 'm/s'],
    fraction: ['fraction', '%'],
  };
  // A roller's speed is often headed "rpm" too.
  if (quantity === 'rollerSpeed' && unit === 'rpm') return true;
  return byQuantity[quantity]?.includes(unit) ?? false;
}
