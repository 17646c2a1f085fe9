import {
  CORRECTION_IDS,
  DEFAULT_METHOD,
  DEFAULT_QUESTION,
  isCorrectionId,
  MEASURES,
  UNKNOWN_BAY,
  UNKNOWN_VEHICLE,
  type Channel,
  type Job,
  type NumberState,
  type Pull,
  type PullStatus,
  type Setup,
  type WeatherReading,
} from '@prandel/core';
import Papa from 'papaparse';
import { UnreadableError } from '../problem.ts';
import { parseRecords, RecordReader } from './cells.ts';
import { namesOf, PULL_COLUMNS, SETUP_COLUMNS, WEATHER_COLUMNS } from './columns.ts';
import type { PackageFiles } from './zip.ts';

export const FORMAT_VERSION = 1;

type Json = Record<string, unknown>;

/** What a package carries beyond what this version understands; it survives a round trip. */
export interface PackageExtras {
  readonly descriptor: Json;
  readonly setupCells: Readonly<Record<string, Readonly<Record<string, string>>>>;
  readonly pullCells: Readonly<Record<string, Readonly<Record<string, string>>>>;
  readonly weatherCells: readonly Readonly<Record<string, string>>[];
  /** Files that are no part of a job as this version knows it, by path. */
  readonly files: ReadonlyMap<string, Uint8Array>;
}

export interface JobPackage {
  readonly job: Job;
  readonly extras: PackageExtras;
}

/**
 * Rebuilds a job from the files of a package. Lenient on form (missing schemas, LF or CRLF, one folder at the top,
 * undeclared channel files), strict on meaning.
 * @throws UnreadableError saying what is wrong and where; nothing is returned halfway
 */
export function readPackage(all: PackageFiles): JobPackage {
  const files = withoutTopFolder(all);
  const descriptor = readDescriptor(files);
  const prandel = object(descriptor.prandel, 'prandel');
  const version = prandel.formatVersion;
  if (typeof version !== 'number') throw new UnreadableError('datapackage.json: prandel.formatVersion is missing.');
  if (version > FORMAT_VERSION)
    throw new UnreadableError(
      `This package was written by a newer version (format ${version}); this one reads format ${FORMAT_VERSION}. Update first.`,
    );
  const setupPath = resourcePath(descriptor, 'setups');
  const pullPath = resourcePath(descriptor, 'pulls');
  const weatherPath = resourcePath(descriptor, 'weather');
  const used = new Set(['datapackage.json', setupPath, pullPath, weatherPath]);
  const setups = readSetups(required(files, setupPath), setupPath);
  const pulls = readPulls(required(files, pullPath), pullPath, files, used);
  const weather = files.has(weatherPath)
    ? readWeather(files.get(weatherPath)!, weatherPath)
    : { readings: [], cells: [] };
  const job = assemble(prandel, descriptor, setups.setups, pulls.pulls, weather.readings);
  checkReferences(job);
  return {
    job,
    extras: {
      descriptor,
      setupCells: setups.cells,
      pullCells: pulls.cells,
      weatherCells: weather.cells,
      files: new Map([...files].filter(([path]) => !used.has(path))),
    },
  };
}

function withoutTopFolder(files: PackageFiles): PackageFiles {
  const at = [...files.keys()]
    .filter((p) => p === 'datapackage.json' || /^[^/]+\/datapackage\.json$/.test(p))
    .sort((a, b) => a.length - b.length)[0];
  if (!at)
    throw new UnreadableError('There is no datapackage.json at the top of the package, so this is not a job package.');
  const prefix = at.slice(0, -'datapackage.json'.length);
  return new Map([...files].filter(([p]) => p.startsWith(prefix)).map(([p, bytes]) => [p.slice(prefix.length), bytes]));
}

function readDescriptor(files: PackageFiles): Json {
  const text = new TextDecoder('utf-8').decode(files.get('datapackage.json')).replace(/^\uFEFF/, '');
  try {
    return object(JSON.parse(text), 'datapackage.json');
  } catch (error) {
    if (error instanceof UnreadableError) throw error;
    throw new UnreadableError(`datapackage.json is not valid JSON (${(error as Error).message}).`);
  }
}

function object(value: unknown, name: string): Json {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new UnreadableError(`datapackage.json: "${name}" is missing or not an object.`);
  return value as Json;
}

const part = (value: unknown): Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Json) : {};

function resourcePath(descriptor: Json, name: string): string {
  const resources = Array.isArray(descriptor.resources) ? (descriptor.resources as Json[]) : [];
  const found = resources.find((r) => part(r).name === name);
  const path = part(found).path;
  return typeof path === 'string' ? safePath(path) : `${name}.csv`;
}

function safePath(path: string): string {
  const plain = path.replace(/\\/g, '/').replace(/^\.\//, '');
  if (plain.startsWith('/') || /^[a-z]+:/i.test(plain) || plain.split('/').includes('..'))
    throw new UnreadableError(`The package names a file outside its own folder ("${path}"). It was refused.`);
  return plain;
}

function required(files: PackageFiles, path: string): Uint8Array {
  const bytes = files.get(path);
  if (!bytes) throw new UnreadableError(`${path} is missing from the package.`);
  return bytes;
}

function readSetups(bytes: Uint8Array, path: string) {
  const records = parseRecords(path, bytes);
  const cells: Record<string, Record<string, string>> = {};
  const setups = records.rows.map((_, i): Setup => {
    const r = new RecordReader(records, i);
    const id = r.required('setup_id');
    if (cells[id]) r.fail(`setup_id "${id}" occurs twice.`);
    cells[id] = r.unknown(namesOf(SETUP_COLUMNS));
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
] as const;

function readPulls(bytes: Uint8Array, path: string, files: PackageFiles, used: Set<string>) {
  const records = parseRecords(path, bytes);
  const cells: Record<string, Record<string, string>> = {};
  const places = new Map<string, number>();
  const pulls = records.rows.map((_, i): Pull => {
    const r = new RecordReader(records, i);
    const id = r.required('pull_id');
    if (cells[id]) r.fail(`pull_id "${id}" occurs twice.`);
    cells[id] = r.unknown(namesOf(PULL_COLUMNS));
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

function readWeather(bytes: Uint8Array, path: string) {
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

function assemble(prandel: Json, descriptor: Json, setups: Setup[], pulls: Pull[], weather: WeatherReading[]): Job {
  const job = part(prandel.job);
  const vehicle = part(prandel.vehicle);
  const bay = part(prandel.bay);
  const question = part(prandel.question);
  const method = part(prandel.method);
  const text = (from: Json, key: string) => (typeof from[key] === 'string' && from[key] !== '' ? from[key] : null);
  const number = (from: Json, key: string) =>
    typeof from[key] === 'number' && Number.isFinite(from[key]) ? from[key] : null;
  const title = text(job, 'title') ?? text(descriptor, 'title') ?? text(descriptor, 'name') ?? 'Job';
  const baselineSetup = text(question, 'baselineSetup');
  const candidateSetups = Array.isArray(question.candidateSetups)
    ? question.candidateSetups.filter((s) => typeof s === 'string')
    : [];
  if (!baselineSetup || candidateSetups.length === 0)
    throw new UnreadableError('datapackage.json: prandel.question needs baselineSetup and candidateSetups.');
  const choice = <T extends string>(value: string | null, allowed: readonly T[], name: string): T | null => {
    if (value === null) return null;
    if (!(allowed as readonly string[]).includes(value))
      throw new UnreadableError(`datapackage.json: ${name} "${value}" is none of ${allowed.join(', ')}.`);
    return value as T;
  };
  const correction = text(method, 'correction') ?? DEFAULT_METHOD.correction;
  if (!isCorrectionId(correction))
    throw new UnreadableError(
      `datapackage.json: method.correction "${correction}" is none of ${CORRECTION_IDS.join(', ')}.`,
    );
  const loss = bay.lossTorqueNm;
  const ci = part(method.compressionIgnition);
  return {
    id: text(job, 'id') ?? title,
    title,
    openedAt: text(job, 'openedAt'),
    timeZone: text(job, 'timeZone'),
    vehicle: {
      ...UNKNOWN_VEHICLE,
      label: text(vehicle, 'label') ?? '',
      massKg: number(vehicle, 'massKg'),
      engineToRollerRatio: number(vehicle, 'engineToRollerRatio'),
      drivenWheels: choice(
        text(vehicle, 'drivenWheels'),
        ['front', 'rear', 'all', 'motorcycle'],
        'vehicle.drivenWheels',
      ),
      aspiration: choice(text(vehicle, 'aspiration'), ['natural', 'turbo', 'supercharged'], 'vehicle.aspiration'),
      transmission: choice(text(vehicle, 'transmission'), ['manual', 'automatic', 'cvt'], 'vehicle.transmission'),
      ...(vehicle.heatSensitive === true ? { heatSensitive: true } : {}),
    },
    bay: {
      ...UNKNOWN_BAY,
      label: text(bay, 'label') ?? '',
      kind: choice(text(bay, 'kind'), ['inertia', 'braked', 'linked', 'split', 'hub'], 'bay.kind'),
      rollerInertiaKgM2: number(bay, 'rollerInertiaKgM2'),
      readoutScale: number(bay, 'readoutScale') ?? 1,
      calibrationEpoch: text(bay, 'calibrationEpoch'),
      elevationM: number(bay, 'elevationM'),
      lossTorqueNm:
        Array.isArray(loss) && loss.length === 3 && loss.every((v) => typeof v === 'number')
          ? (loss as [number, number, number])
          : null,
      verdictConstants: Object.fromEntries(
        Object.entries(part(bay.verdictConstants)).filter(([, v]) => typeof v === 'number'),
      ),
    },
    question: {
      ...DEFAULT_QUESTION,
      text: text(question, 'text') ?? title,
      baselineSetup,
      candidateSetups,
      measure: choice(text(question, 'measure'), MEASURES, 'question.measure') ?? DEFAULT_QUESTION.measure,
      windowRpm: windowOf(question.windowRpm),
      meaningfulGainPercent: number(question, 'meaningfulGainPercent') ?? DEFAULT_QUESTION.meaningfulGainPercent,
      confidence: confidenceOf(number(question, 'confidence')),
      partChangesIntakeTemperature: question.partChangesIntakeTemperature === true,
      plan: Array.isArray(question.plan)
        ? question.plan
            .map(part)
            .map((s) => ({ setup: String(s.setup), settle: Number(s.settle ?? 0), counted: Number(s.counted ?? 0) }))
        : [],
      extension: question.extension === 'declared' || question.extension === 'undeclared' ? question.extension : null,
    },
    method: {
      correction,
      averagingWidthRpm: number(method, 'averagingWidthRpm') ?? DEFAULT_METHOD.averagingWidthRpm,
      settlePulls: number(method, 'settlePulls') ?? DEFAULT_METHOD.settlePulls,
      gates: part(method.gates),
      ...(number(ci, 'fuelMgPerLitreCycle') !== null
        ? {
            compressionIgnition: {
              turbocharged: ci.turbocharged === true,
              fuelMgPerLitreCycle: number(ci, 'fuelMgPerLitreCycle')!,
              boostPressureRatio: number(ci, 'boostPressureRatio') ?? 1,
            },
          }
        : {}),
    },
    setups,
    pulls,
    weather,
  };
}

function windowOf(value: unknown): [number, number] | null {
  if (value === undefined || value === null) return null;
  if (
    Array.isArray(value) &&
    value.length === 2 &&
    value.every((v) => typeof v === 'number' && v > 0) &&
    value[1] > value[0]
  )
    return value as [number, number];
  throw new UnreadableError(
    'datapackage.json: question.windowRpm must be two rising engine speeds, such as [3000, 7000].',
  );
}

function confidenceOf(value: number | null): number {
  if (value === null) return DEFAULT_QUESTION.confidence;
  if (value > 0.5 && value < 1) return value;
  throw new UnreadableError(`datapackage.json: question.confidence ${value} is not between 0.5 and 1.`);
}

function checkReferences(job: Job): void {
  const ids = new Set(job.setups.map((s) => s.id));
  const missing = (id: string, where: string) => {
    if (!ids.has(id)) throw new UnreadableError(`${where} names setup "${id}", which setups.csv does not have.`);
  };
  missing(job.question.baselineSetup, 'The question');
  job.question.candidateSetups.forEach((id) => missing(id, 'The question'));
  job.pulls.forEach((pull) => missing(pull.setupId, `Pull ${pull.id}`));
  job.setups.forEach((setup) => setup.returnsTo && missing(setup.returnsTo, `Setup ${setup.id}`));
}
