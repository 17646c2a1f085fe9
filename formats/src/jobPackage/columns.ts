/** Columns of the package's tables, in the order in which they are written. `type` is the Table Schema type. */
export interface ColumnSpec {
  readonly name: string;
  readonly type: 'string' | 'number' | 'integer' | 'boolean' | 'datetime';
  readonly unit?: string;
}

const text = (name: string): ColumnSpec => ({ name, type: 'string' });
const number = (name: string, unit?: string): ColumnSpec =>
  unit ? { name, type: 'number', unit } : { name, type: 'number' };

export const SETUP_COLUMNS: readonly ColumnSpec[] = [
  text('setup_id'),
  text('parent_id'),
  text('label'),
  text('returns_to'),
  number('part_cost'),
  number('labour_hours', 'h'),
  text('currency'),
  { name: 'closed_course_only', type: 'boolean' },
  text('changes'),
  text('fuel'),
  text('tune_digest'),
  text('hood'),
  text('fan'),
  text('safeties'),
  text('controller_state'),
  text('load_setting'),
  number('tyre_pressure_kpa', 'kPa'),
  { name: 'remounted', type: 'boolean' },
  text('supplier'),
];

export const PULL_COLUMNS: readonly ColumnSpec[] = [
  text('pull_id'),
  text('setup_id'),
  { name: 'round', type: 'integer' },
  { name: 'position', type: 'integer' },
  { name: 'started_at', type: 'datetime' },
  text('status'),
  text('reason'),
  text('gear'),
  number('pressure_hpa', 'hPa'),
  number('air_c', '°C'),
  number('relative_humidity', '1'),
  number('intake_start_c', '°C'),
  number('coolant_start_c', '°C'),
  number('oil_start_c', '°C'),
  text('channels_file'),
  text('power_state'),
  number('averaging_rpm', 'rpm'),
];

/** Written only when a pull is no sweep. */
export const PULL_KIND: ColumnSpec = text('kind');

/** Written only when a pull bears a mark; several are separated by ` | `. */
export const MARKS: ColumnSpec = text('marks');

/** Written only when a gate kept a pull waiting: `interval:240 coolantC:95`, seconds by the gate's key. */
export const HELD: ColumnSpec = text('held_s');

/** Written only when a setup's own gear was recorded; pulls carry theirs in any case. */
export const SETUP_GEAR: ColumnSpec = text('gear');

/**
 * Written only when a setup declares other states than the items of its `changes` name; its cells then hold the columns of those
 * states, separated by spaces.
 */
export const DECLARES: ColumnSpec = text('declares');

/** Each is written only when some setup has something to say in it. */
export const SETUP_MORE: readonly ColumnSpec[] = [
  number('adapters_cost'),
  number('consumables_cost'),
  number('tune_cost'),
  { name: 'cure', type: 'boolean' },
  { name: 'permanent', type: 'boolean' },
  { name: 'added_at', type: 'datetime' },
  ...['noise', 'overrun', 'cold_start', 'fit', 'fault_lamp', 'difficulty'].map(text),
];

/** Outcomes of a setup and their columns. */
export const OUTCOME_COLUMNS = [
  ['noise', 'noise'],
  ['overrun', 'overrun'],
  ['coldStart', 'cold_start'],
  ['fit', 'fit'],
  ['faultLamp', 'fault_lamp'],
  ['difficulty', 'difficulty'],
] as const;

/** Written only when the column `changes` alone would be read as other changes. */
export const CHANGE_COLUMNS: readonly ColumnSpec[] = ['setup_id', 'kind', 'part', 'text'].map(text);

export const WEATHER_COLUMNS: readonly ColumnSpec[] = [
  { name: 'at', type: 'datetime' },
  number('pressure_hpa', 'hPa'),
  number('air_c', '°C'),
  number('relative_humidity', '1'),
];

/** Written only where there was a road check. */
export const ROAD_COLUMNS: readonly ColumnSpec[] = [
  text('setup_id'),
  { name: 'at', type: 'datetime' },
  text('direction'),
  number('from_km_h', 'km/h'),
  number('to_km_h', 'km/h'),
  number('seconds', 's'),
];

/** Written only where a gauge was read by hand. */
export const READING_COLUMNS: readonly ColumnSpec[] = [
  ...['pull_id', 'quantity', 'unit', 'at'].map(text),
  number('value'),
];

export const EVENT_COLUMNS: readonly ColumnSpec[] = [
  { name: 'n', type: 'integer' },
  { name: 'at', type: 'datetime' },
  ...['person', 'kind', 'what', 'detail', 'hash'].map(text),
];

export const namesOf = (columns: readonly ColumnSpec[]): string[] => columns.map((c) => c.name);

/** Unit of a channel from the end of its name: `engine_rpm` is in rpm. */
export function channelUnit(name: string): string | undefined {
  const units: Record<string, string> = {
    rpm: 'rpm',
    s: 's',
    rad_s: 'rad/s',
    nm: 'N·m',
    w: 'W',
    c: '°C',
    hpa: 'hPa',
    kpa: 'kPa',
    fraction: '1',
  };
  const tail = Object.keys(units).find((suffix) => name.endsWith(`_${suffix}`));
  return tail ? units[tail] : undefined;
}

/** State fields of a setup and their columns. */
export const STATE_COLUMNS = [
  ['fuel', 'fuel'],
  ['tuneDigest', 'tune_digest'],
  ['hood', 'hood'],
  ['fan', 'fan'],
  ['safeties', 'safeties'],
  ['controllerState', 'controller_state'],
  ['loadSetting', 'load_setting'],
  ['tyrePressureKpa', 'tyre_pressure_kpa'],
  ['gear', 'gear'],
] as const;

/** States that a setup can declare, and their names in the column `declares`. */
export const DECLARABLE_COLUMNS = [...STATE_COLUMNS, ['averagingRpm', 'averaging_rpm']] as const;
