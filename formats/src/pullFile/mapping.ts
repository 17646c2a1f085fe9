import {
  allToSi,
  implausible,
  isUnitName,
  PLAUSIBLE,
  toSi,
  type Channel,
  type PlausibleQuantity,
  type UnitName,
} from '@prandel/core';
import type { Problem } from '../problem.ts';
import { UnreadableError } from '../problem.ts';
import { COLUMN_ROLES, fits, isColumnRole, type ColumnRole } from './columnRole.ts';
import { statedIn } from './stated.ts';
import type { PullFile, PullTable } from './readPullFile.ts';

/** What a person says a column is. */
export interface ColumnMapping {
  readonly role: ColumnRole;
  readonly unit: string | null;
}

/** A pull of a file in SI channels, with what its columns say of the conditions at its start. */
export interface MappedPull {
  readonly name: string;
  readonly channels: readonly Channel[];
  readonly start: {
    readonly intakeStartC: number | null;
    readonly coolantStartC: number | null;
    readonly oilStartC: number | null;
    readonly airC: number | null;
    readonly pressureHpa: number | null;
    readonly relativeHumidity: number | null;
  };
}

/**
 * Turns a file and its mapping into pulls. A file comes in whole or not at all.
 * @throws UnreadableError listing every problem with its line
 */
export function mapPullFile(
  file: PullFile,
  mapping: readonly ColumnMapping[],
  { rpmPerKmH = null }: MappingOptions = {},
): MappedPull[] {
  const ratio = rpmPerKmH ?? statedIn(file.fields).rpmPerKmH?.value ?? null;
  const pulls = mapped(file, mapping, pullProblems(file, mapping, ratio));
  return ratio === null ? pulls : pulls.map((pull) => withEngineSpeed(pull, ratio));
}

/** What a person says of a file beside its columns. */
export interface MappingOptions {
  /** Engine speed over road speed, rpm per km/h, for files with a speed axis; null: as the file says, if it does. */
  readonly rpmPerKmH?: number | null;
}

/** A pull over road speed gets the engine speed that belongs to it. */
function withEngineSpeed(pull: MappedPull, rpmPerKmH: number): MappedPull {
  const speed = pull.channels.find((c) => c.name === 'speed_km_h');
  if (!speed || pull.channels.some((c) => c.name === 'engine_rpm')) return pull;
  return {
    ...pull,
    channels: [...pull.channels, { name: 'engine_rpm', values: speed.values.map((v) => v * rpmPerKmH) }],
  };
}

/**
 * Turns a logger's record and its mapping into channels over time: seconds, a speed (of engine, rollers or road) or a throttle, and
 * whatever else it holds.
 * @throws UnreadableError listing every problem with its line
 */
export function mapLogFile(file: PullFile, mapping: readonly ColumnMapping[]): MappedPull[] {
  return mapped(file, mapping, logProblems(file, mapping));
}

function mapped(file: PullFile, mapping: readonly ColumnMapping[], own: readonly Problem[]): MappedPull[] {
  const problems: Problem[] = [...file.problems, ...own, ...mappingProblems(file, mapping)];
  if (problems.length > 0) throw new UnreadableError(problems[0]!.message, problems);
  const pulls = file.pulls.map((table) => mapTable(file, table, mapping, problems));
  if (problems.length > 0) throw new UnreadableError(problems[0]!.message, problems);
  return pulls;
}

/** What a logger's record can be laid beside pulls by. */
const LAID_BY: readonly ColumnRole[] = ['engineSpeed', 'rollerSpeed', 'roadSpeed', 'throttle'];

function logProblems(file: PullFile, mapping: readonly ColumnMapping[]): Problem[] {
  const line = file.headerLine;
  const has = (role: ColumnRole) => mapping.some((m) => m.role === role);
  return [
    ...(has('time') ? [] : [{ line, message: 'No column is time. Say which one it is.' }]),
    ...(LAID_BY.some(has)
      ? []
      : [{ line, message: 'No column is engine, roller or road speed, nor throttle. Say which one it is.' }]),
  ];
}

function pullProblems(file: PullFile, mapping: readonly ColumnMapping[], rpmPerKmH: number | null): Problem[] {
  const problems: Problem[] = [];
  const line = file.headerLine;
  const has = (role: ColumnRole) => mapping.some((m) => m.role === role);
  if (!has('engineSpeed') && !has('rollerSpeed') && !(has('roadSpeed') && rpmPerKmH !== null))
    problems.push({
      line,
      message: has('roadSpeed')
        ? 'The pull is over road speed: say how many rpm the engine turns at 1 km/h.'
        : 'No column is engine speed (rpm). Say which one it is.',
    });
  if (!has('wheelPower') && !has('wheelTorque') && !(has('rollerSpeed') && has('time'))) {
    problems.push({
      line,
      message: 'No column is wheel power or wheel torque, nor time with roller speed. Say which one it is.',
    });
  }
  return problems;
}

function mappingProblems(file: PullFile, mapping: readonly ColumnMapping[]): Problem[] {
  const problems: Problem[] = [];
  const line = file.headerLine;
  if (mapping.length !== file.columns.length)
    return [{ line, message: `The mapping names ${mapping.length} columns, the file has ${file.columns.length}.` }];
  mapping.forEach(({ role, unit }, i) => {
    if (!isColumnRole(role)) problems.push({ line, message: `"${String(role)}" is nothing a column can be.` });
    else if (COLUMN_ROLES[role].quantity !== null && (unit === null || !fits(role, unit))) {
      problems.push({
        line,
        message: `Column "${file.columns[i]!.name}": ${unit ?? 'no unit'} is no unit of ${COLUMN_ROLES[role].label.toLowerCase()}.`,
      });
    }
  });
  for (const role of Object.keys(COLUMN_ROLES) as ColumnRole[]) {
    if (role !== 'other' && role !== 'ignore' && mapping.filter((m) => m.role === role).length > 1) {
      problems.push({ line, message: `Two columns are called ${COLUMN_ROLES[role].label.toLowerCase()}; keep one.` });
    }
  }
  return problems;
}

function mapTable(
  file: PullFile,
  table: PullTable,
  mapping: readonly ColumnMapping[],
  problems: Problem[],
): MappedPull {
  const channels: Channel[] = [];
  const taken = new Set<string>();
  mapping.forEach(({ role, unit }, i) => {
    if (role === 'ignore' || role === 'pullName') return;
    const raw = table.columns[i]!;
    if (role === 'other') {
      if (raw.some((v) => !Number.isNaN(v)))
        channels.push({ name: channelName(file.columns[i]!.name, unit, taken), values: raw });
      return;
    }
    const name = COLUMN_ROLES[role].channel;
    taken.add(name);
    channels.push({
      name,
      values: role === 'time' && unit === 'hh:mm:ss' ? clockSeconds(raw) : inSi(raw, role, unit!),
    });
  });
  checkValues(table, channels, problems);
  const before = beforeFullThrottle(channels);
  const start = (name: string) => startValue(channels.find((c) => c.name === name)?.values, before);
  const pressure = start('station_pressure_hpa');
  return {
    name: table.name,
    channels,
    start: {
      intakeStartC: start('intake_c'),
      coolantStartC: start('coolant_c'),
      oilStartC: start('oil_c'),
      airC: start('bay_air_c'),
      pressureHpa: pressure,
      relativeHumidity: start('relative_humidity_fraction'),
    },
  };
}

/** Throttle from which on it is full. Common practice, no source. */
const FULL = 0.9;

/** Rows of the last second before full throttle, from and to; null where the pull begins with it or nobody recorded it. */
function beforeFullThrottle(channels: readonly Channel[]): [number, number] | null {
  const of = (name: string) => channels.find((c) => c.name === name)?.values;
  const [time, throttle] = [of('time_s'), of('throttle_fraction')];
  const to = time && throttle ? throttle.findIndex((v) => v >= FULL) : -1;
  if (!time || to < 1) return null;
  const from = time.findIndex((t) => t >= time[to]! - 1);
  return [Math.max(0, from), to];
}

/** Mean of those rows, else the first value. */
function startValue(values: Float64Array | undefined, rows: [number, number] | null): number | null {
  if (!values) return null;
  const known = values.subarray(...(rows ?? [0, 0])).filter(Number.isFinite);
  if (known.length > 0) return known.reduce((sum, v) => sum + v, 0) / known.length;
  return values.find(Number.isFinite) ?? null;
}

function inSi(raw: Float64Array, role: ColumnRole, unit: string): Float64Array {
  const name = role === 'rollerSpeed' && unit === 'rpm' ? 'roller rpm' : unit;
  if (!isUnitName(name)) return raw;
  // A channel is in the unit that its name says.
  const own: string | null = COLUMN_ROLES[role].unit;
  return allToSi(raw, name, own === null || !IN_NAMED_UNIT.includes(own) ? 1 : 1 / toSi(1, own as UnitName));
}

/** Units of channels that are no SI units. */
const IN_NAMED_UNIT: readonly string[] = ['hPa', 'kPa', 'bar', 'km/h'];

/** Clock readings as seconds from the first, across midnight. */
function clockSeconds(raw: Float64Array): Float64Array {
  let carried = 0;
  return raw.map((v, i) => {
    if (i > 0 && v < raw[i - 1]! - 43_200) carried += 86_400;
    return v + carried - raw[0]!;
  });
}

function channelName(header: string, unit: string | null, taken: Set<string>): string {
  const plain =
    header
      .toLowerCase()
      .normalize('NFKD')
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '') || 'channel';
  const suffix = unit ? `_${unit.toLowerCase().replace(/[^a-z0-9]+/g, '')}` : '';
  const base = suffix !== '_' && suffix && !plain.endsWith(suffix) ? plain + suffix : plain;
  let name = base;
  for (let n = 2; taken.has(name); n += 1) name = `${base}_${n}`;
  taken.add(name);
  return name;
}

/** Channels of which no single value may be implausible: the pull itself. */
const NONE_WRONG: readonly (readonly [string, PlausibleQuantity])[] = [
  ['engine_rpm', 'engineRpm'],
  ['roller_rad_s', 'rollerRadS'],
  ['wheel_torque_nm', 'wheelTorqueNm'],
  ['wheel_power_w', 'wheelPowerW'],
  ['brake_nm', 'brakeNm'],
];
/** Channels that are in another unit when most values are implausible; a single one is a glitch of the sensor. */
const MOST_RIGHT: readonly (readonly [string, PlausibleQuantity])[] = [
  ['intake_c', 'intakeC'],
  ['coolant_c', 'coolantC'],
  ['oil_c', 'oilC'],
  ['bay_air_c', 'airC'],
  ['station_pressure_hpa', 'pressureHpa'],
  ['relative_humidity_fraction', 'relativeHumidity'],
];

/** The first value outside a range, and how many there are. */
function outside(values: Float64Array, low: number, high: number): { at: number; count: number } {
  let at = -1;
  let count = 0;
  for (let i = 0; i < values.length; i += 1)
    if (values[i]! > high || values[i]! < low) {
      if (at < 0) at = i;
      count += 1;
    }
  return { at, count };
}

/** What no road vehicle does, and what no pull is. */
function checkValues(table: PullTable, channels: readonly Channel[], problems: Problem[]): void {
  const values = (name: string) => channels.find((c) => c.name === name)?.values;
  const where = (index: number) => table.lines[index] ?? null;
  const say = (index: number, message: string) => index >= 0 && problems.push({ line: where(index), message });
  const time = values('time_s');
  if (time)
    say(
      time.findIndex((v, i) => i > 0 && v < time[i - 1]!),
      'Time runs backwards here.',
    );
  const speed = values('engine_rpm') ?? values('roller_rad_s');
  if (!speed) return;
  if (speed.length < 5)
    problems.push({ line: where(0), message: `"${table.name}" has ${speed.length} rows; a pull needs at least five.` });
  else if (!speed.some((v) => v > 0))
    problems.push({ line: where(0), message: 'No engine speed above zero: is this the right column?' });
  else if (speed.every((v) => v === speed[0] || Number.isNaN(v)))
    problems.push({ line: where(0), message: 'Engine speed never changes: all rows are equal.' });
  say(outside(speed, 0, Infinity).at, 'Negative engine speed.');
  for (const [list, share] of [
    [NONE_WRONG, 0],
    [MOST_RIGHT, 0.5],
  ] as const)
    for (const [name, quantity] of list) {
      const own = values(name);
      if (!own) continue;
      const { low, high } = PLAUSIBLE[quantity];
      // Negative engine speed has a sentence of its own.
      const { at, count } = outside(own, quantity === 'engineRpm' ? -Infinity : low, high);
      if (at < 0 || count <= share * own.length) continue;
      const wrong = implausible(quantity, own[at]!)!;
      say(at, `${wrong[0]!.toUpperCase()}${wrong.slice(1)}: is the unit right?`);
    }
}
