import {
  LIMITS,
  type Change,
  type Channel,
  type NumberState,
  type Pull,
  type PullStatus,
  type Setup,
  type WeatherReading,
  PULL_KINDS,
  type PullKind,
} from '@prandel/core';
import { UnreadableError } from '../problem.ts';
import { GrowingColumns } from '../pullFile/growingColumns.ts';
import { bytesSource } from '../text/byteSource.ts';
import { cellsOfLine } from '../text/lines.ts';
import { scanRows } from '../text/rowScanner.ts';
import { parseRecords, RecordReader } from './cells.ts';
import { changesOfSetup } from './changesTable.ts';
import {
  DECLARES,
  HELD,
  MARKS,
  PULL_KIND,
  namesOf,
  OUTCOME_COLUMNS,
  PULL_COLUMNS,
  SETUP_COLUMNS,
  SETUP_GEAR,
  SETUP_MORE,
  STATE_COLUMNS,
  WEATHER_COLUMNS,
} from './columns.ts';
import { safePath } from './members.ts';
import type { PackageFiles } from './packageFiles.ts';

/**
 * Setups of `setups.csv`, with the changes of `changes.csv` for those it names, and the cells of columns this version does not know.
 * @throws UnreadableError with the line
 */
export function readSetups(bytes: Uint8Array, path: string, typed: ReadonlyMap<string, Change[]>) {
  const records = parseRecords(path, bytes, LIMITS.setupsPerJob);
  const cells: Record<string, Record<string, string>> = {};
  const setups = records.rows.map((_, i): Setup => {
    const r = new RecordReader(records, i);
    const id = r.key('setup_id');
    if (cells[id]) r.fail(`setup_id "${id}" occurs twice.`);
    cells[id] = r.unknown([...namesOf(SETUP_COLUMNS), ...namesOf(SETUP_MORE), SETUP_GEAR.name, DECLARES.name]);
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
      ...changesOfSetup(r, typed.get(id)),
      state,
      remounted: r.flag('remounted'),
      closedCourseOnly: r.flag('closed_course_only'),
      partCost: r.number('part_cost'),
      labourHours: r.number('labour_hours'),
      currency: r.text('currency'),
      supplier: r.text('supplier'),
      ...moreOf(r),
    };
  });
  return { setups, cells };
}

/** What not every setup has. */
function moreOf(r: RecordReader): Pick<Setup, 'costs' | 'cure' | 'permanent' | 'addedAt' | 'outcomes'> {
  const costs = {
    adapters: r.number('adapters_cost'),
    consumables: r.number('consumables_cost'),
    tune: r.number('tune_cost'),
  };
  const outcomes = Object.fromEntries(
    OUTCOME_COLUMNS.flatMap(([key, column]) => {
      const value = r.text(column);
      return value === null ? [] : [[key, value]];
    }),
  );
  const addedAt = r.instant('added_at');
  return {
    ...(Object.values(costs).some((v) => v !== null) ? { costs } : {}),
    ...(r.flag('cure') ? { cure: true } : {}),
    ...(r.flag('permanent') ? { permanent: true } : {}),
    ...(addedAt === null ? {} : { addedAt }),
    ...(Object.keys(outcomes).length > 0 ? { outcomes } : {}),
  };
}

/** Pulls of `pulls.csv` with their channel files. @throws UnreadableError with the line */
export function readPulls(bytes: Uint8Array, path: string, files: PackageFiles, used: Set<string>) {
  const records = parseRecords(path, bytes, LIMITS.pullsPerJob);
  const cells: Record<string, Record<string, string>> = {};
  const places = new Map<string, number>();
  const pulls = records.rows.map((_, i): Pull => {
    const r = new RecordReader(records, i);
    const id = r.key('pull_id');
    if (cells[id]) r.fail(`pull_id "${id}" occurs twice.`);
    cells[id] = r.unknown([...namesOf(PULL_COLUMNS), MARKS.name, HELD.name, PULL_KIND.name]);
    const kind = kindOf(r);
    const setupId = r.required('setup_id');
    const round = r.number('round', 0, 100_000) ?? 1;
    const key = `${setupId}#${round}`;
    const position = r.number('position', 0, 100_000) ?? (places.get(key) ?? 0) + 1;
    places.set(key, position);
    const channelsFile = r.text('channels_file');
    const file = channelsFile === null ? null : safePath(channelsFile);
    if (file !== null && !files.has(file)) r.fail(`channels_file "${channelsFile}" is not in the package.`);
    if (file !== null) used.add(file);
    return {
      id,
      setupId,
      ...(kind === 'sweep' ? {} : { kind }),
      round,
      position,
      startedAt: r.instant('started_at'),
      status: statusOf(r),
      reason: r.text('reason'),
      gear: r.text('gear'),
      pressureHpa: r.plausible('pressure_hpa', 'pressureHpa'),
      airC: r.plausible('air_c', 'airC'),
      relativeHumidity: humidityOf(r),
      intakeStartC: r.plausible('intake_start_c', 'intakeC'),
      coolantStartC: r.plausible('coolant_start_c', 'coolantC'),
      oilStartC: r.plausible('oil_start_c', 'oilC'),
      numberState: numberStateOf(r),
      averagingRpm: r.plausible('averaging_rpm', 'averagingRpm'),
      ...(r.text('marks') ? { marks: r.text('marks')!.split(' | ') } : {}),
      ...heldOf(r),
      channels: file === null ? [] : readChannels(file, files.get(file)!),
    };
  });
  return { pulls, cells };
}

/** More gates than any bay has. */
const MOST_GATES = 40;

/** What gates kept a pull waiting: words of a key and its seconds. */
function heldOf(r: RecordReader): Pick<Pull, 'heldS'> {
  const text = r.text(HELD.name);
  if (text === null) return {};
  const pairs = text.split(/\s+/).map((word): [string, number] => {
    const [, key, seconds] = /^([A-Za-z][\w-]{0,39}):(\d{1,6}(?:\.\d+)?)$/.exec(word) ?? [];
    if (key === undefined) r.fail(`${HELD.name} "${word}" is not a gate and its seconds, as in interval:240.`);
    return [key, Number(seconds)];
  });
  if (pairs.length > MOST_GATES) r.fail(`${HELD.name} names ${pairs.length} gates; at most ${MOST_GATES} are read.`);
  const heldS = Object.fromEntries(pairs);
  if (Object.keys(heldS).length < pairs.length) r.fail(`${HELD.name} "${text}" names a gate twice.`);
  return { heldS };
}

function statusOf(r: RecordReader): PullStatus {
  const status = r.text('status') ?? 'counted';
  if (status === 'settle' || status === 'counted' || status === 'set-aside') return status;
  return r.fail(`status "${status}" is none of settle, counted, set-aside.`);
}

function kindOf(r: RecordReader): PullKind {
  const kind = r.text('kind') ?? 'sweep';
  const known = PULL_KINDS.find((k) => k === kind);
  return known ?? r.fail(`kind "${kind}" is none of ${PULL_KINDS.join(', ')}.`);
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
  const mark = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0;
  let from = mark;
  while (from < bytes.length && bytes[from] !== 10 && bytes[from] !== 13) from += 1;
  const header = cellsOfLine(new TextDecoder('utf-8').decode(bytes.subarray(mark, from)), ',').map((name) =>
    name.trim(),
  );
  if (header.length < 2) throw new UnreadableError(`${path} needs at least two columns.`);
  if (header.length > LIMITS.channelsPerPull + 1)
    throw new UnreadableError(
      `${path} has ${header.length} columns; a pull holds at most ${LIMITS.channelsPerPull} channels.`,
    );
  const long = header.find((name) => name.length > LIMITS.headerCellCharacters);
  if (long) throw new UnreadableError(`${path}: a column name of ${long.length} characters.`);
  const columns = new GrowingColumns(header.length);
  const wrong = (line: number, message: string): never => {
    throw new UnreadableError(`${path}, line ${line}: ${message}`, [{ line, message: `${path}: ${message}` }]);
  };
  const valueOf = (cell: string, column: number, line: number): number => {
    const plain = cell.trim();
    if (plain === '' || plain.toLowerCase() === 'nan') return NaN;
    const value = plain.length > LIMITS.numberCellCharacters ? NaN : Number(plain);
    if (Number.isNaN(value))
      wrong(line, `"${cell.slice(0, 40)}" in ${header[column] ?? 'a column too many'} is not a number.`);
    return Number.isFinite(value) ? value : wrong(line, `${header[column]} is infinite.`);
  };
  const add = (values: Float64Array, line: number) => {
    columns.push(values, line);
    if (columns.rows > LIMITS.rowsPerPull) wrong(line, `a pull has at most ${LIMITS.rowsPerPull / 1e6} million rows.`);
  };
  const crlf = bytes[from] === 13 && bytes[from + 1] === 10 ? 2 : 1;
  scanRows(
    bytesSource(bytes),
    { delimiter: ',', decimal: '.', encoding: 'utf-8', width: header.length, from: from + crlf, line: 2 },
    {
      row: (values, _cells, more, line) => (more ? wrong(line, 'more cells than the header has.') : add(values, line)),
      cell: valueOf,
      text: (text, line) => {
        if (text.trim() === '') return;
        const cells = cellsOfLine(text, ',');
        if (cells.length > header.length) wrong(line, 'more cells than the header has.');
        add(
          Float64Array.from(header, (_, c) => valueOf(cells[c] ?? '', c, line)),
          line,
        );
      },
    },
  );
  const read = columns.finish();
  return header.map((name, c) => ({ name, values: read.columns[c]! }));
}

/** Readings of `weather.csv`. @throws UnreadableError with the line */
export function readWeather(bytes: Uint8Array, path: string) {
  const records = parseRecords(path, bytes, LIMITS.weatherReadings);
  const cells: Record<string, string>[] = [];
  const readings = records.rows.map((_, i): WeatherReading => {
    const r = new RecordReader(records, i);
    cells.push(r.unknown(namesOf(WEATHER_COLUMNS)));
    return {
      at: r.instant('at') ?? r.fail('at is empty.'),
      pressureHpa: r.plausible('pressure_hpa', 'pressureHpa'),
      airC: r.plausible('air_c', 'airC'),
      relativeHumidity: humidityOf(r),
    };
  });
  return { readings, cells };
}
