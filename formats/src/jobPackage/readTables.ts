import type { Channel, NumberState, Pull, PullStatus, Setup, WeatherReading } from '@prandel/core';
import Papa from 'papaparse';
import { UnreadableError } from '../problem.ts';
import { parseRecords, RecordReader } from './cells.ts';
import { namesOf, MARKS, PULL_COLUMNS, SETUP_COLUMNS, SETUP_GEAR, STATE_COLUMNS, WEATHER_COLUMNS } from './columns.ts';
import { safePath } from './members.ts';
import type { PackageFiles } from './zip.ts';

/** Setups of `setups.csv`, and the cells of columns this version does not know. @throws UnreadableError with the line */
export function readSetups(bytes: Uint8Array, path: string) {
  const records = parseRecords(path, bytes);
  const cells: Record<string, Record<string, string>> = {};
  const setups = records.rows.map((_, i): Setup => {
    const r = new RecordReader(records, i);
    const id = r.required('setup_id');
    if (cells[id]) r.fail(`setup_id "${id}" occurs twice.`);
    cells[id] = r.unknown([...namesOf(SETUP_COLUMNS), SETUP_GEAR.name]);
    const state: Record<string, string> = {};
    for (const [key, column] of STATE_COLUMNS) {
      const value = r.text(column);
      if (value !== null) state[key] = value;
    }
    return {
      id,
      parentId: r.text('parent_id'),
      label: r.text('label') ?? id,
      returnsTo: r.text('returns_to'),
      changes: r.text('changes') ?? '',
      state,
      remounted: r.flag('remounted'),
      closedCourseOnly: r.flag('closed_course_only'),
      partCost: r.number('part_cost'),
      labourHours: r.number('labour_hours'),
      currency: r.text('currency'),
      supplier: r.text('supplier'),
    };
  });
  return { setups, cells };
}

/** Pulls of `pulls.csv` with their channel files. @throws UnreadableError with the line */
export function readPulls(bytes: Uint8Array, path: string, files: PackageFiles, used: Set<string>) {
  const records = parseRecords(path, bytes);
  const cells: Record<string, Record<string, string>> = {};
  const places = new Map<string, number>();
  const pulls = records.rows.map((_, i): Pull => {
    const r = new RecordReader(records, i);
    const id = r.required('pull_id');
    if (cells[id]) r.fail(`pull_id "${id}" occurs twice.`);
    cells[id] = r.unknown([...namesOf(PULL_COLUMNS), MARKS.name]);
    const setupId = r.required('setup_id');
    const round = r.number('round', 0) ?? 1;
    const key = `${setupId}#${round}`;
    const position = r.number('position', 0) ?? (places.get(key) ?? 0) + 1;
    places.set(key, position);
    const channelsFile = r.text('channels_file');
    const file = channelsFile === null ? null : safePath(channelsFile);
    if (file !== null && !files.has(file)) r.fail(`channels_file "${channelsFile}" is not in the package.`);
    if (file !== null) used.add(file);
    return {
      id,
      setupId,
      round,
      position,
      startedAt: r.instant('started_at'),
      status: statusOf(r),
      reason: r.text('reason'),
      gear: r.text('gear'),
      pressureHpa: r.number('pressure_hpa', 500, 1100, 'station pressure in hPa is wanted'),
      airC: r.number('air_c', -60, 80),
      relativeHumidity: humidityOf(r),
      intakeStartC: r.number('intake_start_c', -60, 400),
      coolantStartC: r.number('coolant_start_c', -60, 200),
      oilStartC: r.number('oil_start_c', -60, 300),
      numberState: numberStateOf(r),
      averagingRpm: r.number('averaging_rpm', 0),
      ...(r.text('marks') ? { marks: r.text('marks')!.split(' | ') } : {}),
      channels: file === null ? [] : readChannels(file, files.get(file)!),
    };
  });
  return { pulls, cells };
}

function statusOf(r: RecordReader): PullStatus {
  const status = r.text('status') ?? 'counted';
  if (status === 'settle' || status === 'counted' || status === 'set-aside') return status;
  return r.fail(`status "${status}" is none of settle, counted, set-aside.`);
}

function humidityOf(r: RecordReader): number | null {
  const value = r.number('relative_humidity');
  if (value !== null && value > 1)
    r.fail(`relative_humidity ${value} looks like per cent; write it as a fraction 0–1.`);
  return value !== null && value < 0 ? r.fail(`relative_humidity ${value} is negative.`) : value;
}

function numberStateOf(r: RecordReader): NumberState {
  const cell = r.text('power_state') ?? 'uncorrected';
  const [kind, ...rest] = cell.split(':');
  const factor = Number(rest.at(-1));
  if (kind === 'uncorrected' || kind === 'unknown') return { kind };
  if ((kind === 'corrected' || kind === 'scaled') && !(factor > 0 && factor < 10))
    r.fail(
      `power_state "${cell}" has no factor; write ${kind === 'scaled' ? 'scaled:<factor>' : 'corrected:<standard>:<factor>'}.`,
    );
  if (kind === 'corrected') return { kind, standard: rest.slice(0, -1).join(':'), factor };
  if (kind === 'scaled') return { kind, factor };
  return r.fail(
    `power_state "${cell}" is none of uncorrected, corrected:<standard>:<factor>, scaled:<factor>, unknown.`,
  );
}

/** Columns of a channel file as float64 arrays; an empty cell is NaN. */
function readChannels(path: string, bytes: Uint8Array): Channel[] {
  const text = new TextDecoder('utf-8').decode(bytes).replace(/^\uFEFF/, '');
  const { data } = Papa.parse<string[]>(text, { delimiter: ',', skipEmptyLines: true });
  const header = (data[0] ?? []).map((name) => name.trim());
  if (header.length < 2) throw new UnreadableError(`${path} needs at least two columns.`);
  const columns = header.map(() => new Float64Array(data.length - 1));
  for (let i = 1; i < data.length; i += 1) {
    const row = data[i]!;
    for (let c = 0; c < header.length; c += 1) {
      const cell = row[c];
      const value = cell === undefined || cell === '' ? NaN : Number(cell);
      if (Number.isNaN(value) && cell !== undefined && cell.trim() !== '' && cell.trim().toLowerCase() !== 'nan') {
        throw new UnreadableError(`${path}, line ${i + 1}: "${cell.slice(0, 40)}" in ${header[c]} is not a number.`, [
          { line: i + 1, message: `${path}: "${cell.slice(0, 40)}" in ${header[c]} is not a number.` },
        ]);
      }
      columns[c]![i - 1] = value;
    }
  }
  return header.map((name, c) => ({ name, values: columns[c]! }));
}

/** Readings of `weather.csv`. @throws UnreadableError with the line */
export function readWeather(bytes: Uint8Array, path: string) {
  const records = parseRecords(path, bytes);
  const cells: Record<string, string>[] = [];
  const readings = records.rows.map((_, i): WeatherReading => {
    const r = new RecordReader(records, i);
    cells.push(r.unknown(namesOf(WEATHER_COLUMNS)));
    return {
      at: r.instant('at') ?? r.fail('at is empty.'),
      pressureHpa: r.number('pressure_hpa', 500, 1100),
      airC: r.number('air_c', -60, 80),
      relativeHumidity: humidityOf(r),
    };
  });
  return { readings, cells };
}
