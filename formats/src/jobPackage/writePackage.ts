import { changesColumn, type Job, type NumberState, type Pull } from '@prandel/core';
import { evidenceCsv, type EvidenceRow } from '../evidence/chain.ts';
import { formatRecords } from './cells.ts';
import { changeRows, declaresColumn } from './changesTable.ts';
import {
  CHANGE_COLUMNS,
  channelUnit,
  DECLARES,
  EVENT_COLUMNS,
  HELD,
  MARKS,
  PULL_KIND,
  namesOf,
  OUTCOME_COLUMNS,
  PULL_COLUMNS,
  READING_COLUMNS,
  ROAD_COLUMNS,
  SETUP_COLUMNS,
  SETUP_GEAR,
  SETUP_MORE,
  STATE_COLUMNS,
  WEATHER_COLUMNS,
  type ColumnSpec,
} from './columns.ts';
import { readingsCsv } from './readingsTable.ts';
import { roadPassesCsv } from './roadTable.ts';
import { FORMAT_VERSION, type PackageExtras } from './readPackage.ts';
import type { PackageFiles } from './packageFiles.ts';

type Json = Record<string, unknown>;

/** Files of a job package (Frictionless Tabular Data Package), with everything a reader did not understand put back. */
export function writePackage(job: Job, extras?: PackageExtras, log: readonly EvidenceRow[] = []): PackageFiles {
  const files: PackageFiles = new Map();
  const put = (path: string, text: string) => files.set(path, new TextEncoder().encode(text));
  const channelFiles = new Map(
    job.pulls.map((pull, i) => [pull.id, pull.channels.length > 0 ? channelsPath(pull, i) : null]),
  );
  files.set('datapackage.json', new Uint8Array());
  const setupExtra = extraColumns(Object.values(extras?.setupCells ?? {}));
  const pullExtra = extraColumns(Object.values(extras?.pullCells ?? {}));
  const pullColumns = [
    ...PULL_COLUMNS,
    ...(job.pulls.some((p) => p.kind) ? [PULL_KIND] : []),
    ...(job.pulls.some((p) => p.marks?.length) ? [MARKS] : []),
    ...(job.pulls.some(heldText) ? [HELD] : []),
  ];
  const declares = declaresColumn(job.setups);
  const setupColumns = [
    ...SETUP_COLUMNS,
    ...(job.setups.some((s) => s.state.gear) ? [SETUP_GEAR] : []),
    ...(declares ? [DECLARES] : []),
    ...SETUP_MORE.filter(({ name }) => job.setups.some((s) => (setupMore(s)[name] ?? null) !== null)),
  ];
  const changes = changeRows(job.setups);
  const weatherExtra = extraColumns(extras?.weatherCells ?? []);
  put(
    'setups.csv',
    formatRecords(
      [...namesOf(setupColumns), ...setupExtra],
      job.setups.map((s) => ({
        ...extras?.setupCells[s.id],
        ...setupRecord(s),
        ...setupMore(s),
        declares: declares?.(s),
      })),
    ),
  );
  if (changes.length > 0) put('changes.csv', formatRecords(namesOf(CHANGE_COLUMNS), changes));
  put(
    'pulls.csv',
    formatRecords(
      [...namesOf(pullColumns), ...pullExtra],
      job.pulls.map((p) => ({ ...extras?.pullCells[p.id], ...pullRecord(p, channelFiles.get(p.id) ?? null) })),
    ),
  );
  if (job.weather.length > 0) {
    put(
      'weather.csv',
      formatRecords(
        [...namesOf(WEATHER_COLUMNS), ...weatherExtra],
        job.weather.map((w, i) => ({
          ...extras?.weatherCells[i],
          at: w.at,
          pressure_hpa: w.pressureHpa,
          air_c: w.airC,
          relative_humidity: w.relativeHumidity,
        })),
      ),
    );
  }
  const readings = job.readings ?? [];
  const readingExtra = extraColumns(extras?.readingCells ?? []);
  if (readings.length > 0) put('readings.csv', readingsCsv(readings, extras?.readingCells ?? [], readingExtra));
  const roadExtra = extraColumns(extras?.roadCells ?? []);
  const passes = job.roadPasses ?? [];
  if (passes.length > 0) put('road_passes.csv', roadPassesCsv(passes, extras?.roadCells ?? [], roadExtra));
  for (const pull of job.pulls) {
    const path = channelFiles.get(pull.id);
    if (path) put(path, channelsText(pull));
  }
  if (log.length > 0) put('events.csv', evidenceCsv(log));
  for (const [path, bytes] of extras?.files ?? []) if (!files.has(path)) files.set(path, bytes);
  const resources = [
    resource('setups', 'setups.csv', [...setupColumns, ...setupExtra.map(textColumn)]),
    resource('pulls', 'pulls.csv', [...pullColumns, ...pullExtra.map(textColumn)]),
    ...(changes.length > 0 ? [resource('changes', 'changes.csv', CHANGE_COLUMNS)] : []),
    ...(job.weather.length > 0
      ? [resource('weather', 'weather.csv', [...WEATHER_COLUMNS, ...weatherExtra.map(textColumn)])]
      : []),
    ...(readings.length > 0
      ? [resource('readings', 'readings.csv', [...READING_COLUMNS, ...readingExtra.map(textColumn)])]
      : []),
    ...(passes.length > 0
      ? [resource('road_passes', 'road_passes.csv', [...ROAD_COLUMNS, ...roadExtra.map(textColumn)])]
      : []),
    ...(log.length > 0 ? [resource('events', 'events.csv', EVENT_COLUMNS)] : []),
    ...job.pulls
      .filter((p) => channelFiles.get(p.id))
      .map((p) =>
        resource(
          resourceName(channelFiles.get(p.id)!),
          channelFiles.get(p.id)!,
          p.channels.map((c) => ({ name: c.name, type: 'number' as const, unit: channelUnit(c.name) })),
        ),
      ),
  ];
  put('datapackage.json', JSON.stringify(descriptor(job, resources, extras), null, 2) + '\n');
  return files;
}

const textColumn = (name: string): ColumnSpec => ({ name, type: 'string' });

function extraColumns(rows: readonly Readonly<Record<string, string>>[]): string[] {
  return [...new Set(rows.flatMap((row) => Object.keys(row)))];
}

function channelsPath(pull: Pull, index: number): string {
  const plain = pull.id
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9_-]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40);
  return `channels/${String(index + 1).padStart(3, '0')}${plain ? `-${plain}` : ''}.csv`;
}

function resourceName(path: string): string {
  return path
    .replace(/^channels\//, 'channels-')
    .replace(/\.csv$/, '')
    .toLowerCase();
}

function resource(
  name: string,
  path: string,
  columns: readonly (Omit<ColumnSpec, 'unit'> & { unit?: string | undefined })[],
): Json {
  return {
    name,
    path,
    profile: 'tabular-data-resource',
    format: 'csv',
    mediatype: 'text/csv',
    encoding: 'utf-8',
    schema: {
      fields: columns.map((c) => ({ name: c.name, type: c.type, ...(c.unit ? { unit: c.unit } : {}) })),
      missingValues: [''],
    },
  };
}

function descriptor(job: Job, resources: Json[], extras?: PackageExtras): Json {
  const old = extras?.descriptor ?? {};
  const oldPrandel = (old.prandel ?? {}) as Json;
  const kept = (key: string) =>
    typeof oldPrandel[key] === 'object' && oldPrandel[key] !== null ? (oldPrandel[key] as Json) : {};
  const known = new Set(resources.map((r) => r.path));
  const oldResources = Array.isArray(old.resources)
    ? (old.resources as Json[]).filter(
        (r) => typeof r?.path === 'string' && !known.has(r.path) && extras?.files.has(r.path),
      )
    : [];
  return {
    ...old,
    profile: 'tabular-data-package',
    name: typeof old.name === 'string' ? old.name : slug(job.title),
    title: job.title,
    resources: [...resources, ...oldResources],
    prandel: {
      ...oldPrandel,
      formatVersion: FORMAT_VERSION,
      job: {
        ...kept('job'),
        ...present({ id: job.id, title: job.title, openedAt: job.openedAt, timeZone: job.timeZone }),
      },
      vehicle: { ...kept('vehicle'), ...present(job.vehicle) },
      bay: { ...without(kept('bay'), 'prior'), ...present(job.bay) },
      // The list of measures stands in place of the one measure that an older package had.
      question: { ...without(kept('question'), 'measure', 'meaningfulGainPercent'), ...job.question },
      method: { ...kept('method'), ...job.method },
      ...(job.loggers ? { loggers: job.loggers } : {}),
      ...(job.money ? { money: { ...kept('money'), ...present(job.money) } } : {}),
      ...(job.gearing ? { gearing: { ...kept('gearing'), ...job.gearing } } : {}),
      ...(job.use ? { use: { ...kept('use'), ...job.use } } : {}),
      ...(job.road ? { road: { ...kept('road'), ...present(job.road) } } : {}),
      ...(job.day ? { day: { ...kept('day'), ...job.day } } : {}),
    },
  };
}

function without(value: Json, ...keys: string[]): Json {
  return Object.fromEntries(Object.entries(value).filter(([k]) => !keys.includes(k)));
}

/** Members that are known; an absent member means the default, null is not written. */
function present(value: object): Json {
  return Object.fromEntries(Object.entries(value).filter(([, v]) => v !== null && v !== undefined));
}

function slug(title: string): string {
  return (
    title
      .toLowerCase()
      .normalize('NFKD')
      .replace(/[^a-z0-9._-]+/g, '-')
      .replace(/^-+|-+$/g, '') || 'job'
  );
}

function setupRecord(s: Job['setups'][number]) {
  const state = Object.fromEntries(STATE_COLUMNS.map(([key, column]) => [column, s.state[key] ?? null]));
  return {
    setup_id: s.id,
    parent_id: s.parentId,
    label: s.label,
    returns_to: s.returnsTo,
    part_cost: s.partCost,
    labour_hours: s.labourHours,
    currency: s.currency,
    closed_course_only: s.closedCourseOnly,
    changes: changesColumn(s.changes),
    ...state,
    remounted: s.remounted,
    supplier: s.supplier,
  };
}

/** What not every setup has, by column; null where it has not. */
function setupMore({ costs, cure, permanent, addedAt, outcomes }: Job['setups'][number]): Record<string, unknown> {
  return {
    ...{
      adapters_cost: costs?.adapters ?? null,
      consumables_cost: costs?.consumables ?? null,
      tune_cost: costs?.tune ?? null,
    },
    ...{ cure: cure ? true : null, permanent: permanent ? true : null, added_at: addedAt ?? null },
    ...Object.fromEntries(OUTCOME_COLUMNS.map(([key, column]) => [column, outcomes?.[key] ?? null])),
  };
}

function pullRecord(p: Pull, channelsFile: string | null) {
  return {
    pull_id: p.id,
    setup_id: p.setupId,
    round: p.round,
    position: p.position,
    started_at: p.startedAt,
    status: p.status,
    reason: p.reason,
    gear: p.gear,
    pressure_hpa: p.pressureHpa,
    air_c: p.airC,
    relative_humidity: p.relativeHumidity,
    intake_start_c: p.intakeStartC,
    coolant_start_c: p.coolantStartC,
    oil_start_c: p.oilStartC,
    channels_file: channelsFile,
    power_state: numberStateText(p.numberState),
    averaging_rpm: p.averagingRpm,
    kind: p.kind ?? 'sweep',
    ...(p.marks?.length ? { marks: p.marks.join(' | ') } : {}),
    ...(heldText(p) ? { [HELD.name]: heldText(p) } : {}),
  };
}

function heldText({ heldS = {} }: Pick<Pull, 'heldS'>): string {
  return Object.entries(heldS)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([key, seconds]) => `${key}:${seconds}`)
    .join(' ');
}

export function numberStateText(state: NumberState): string {
  switch (state.kind) {
    case 'corrected':
      return `corrected:${state.standard}:${state.factor}`;
    case 'scaled':
      return `scaled:${state.factor}`;
    default:
      return state.kind;
  }
}

function channelsText(pull: Pull): string {
  const lines = [
    pull.channels.map((c) => (/[",\r\n]/.test(c.name) ? `"${c.name.replaceAll('"', '""')}"` : c.name)).join(','),
  ];
  const n = Math.max(0, ...pull.channels.map((c) => c.values.length));
  for (let i = 0; i < n; i += 1) {
    lines.push(
      pull.channels
        .map((c) => {
          const v = c.values[i];
          return v === undefined || Number.isNaN(v) ? '' : String(v);
        })
        .join(','),
    );
  }
  return lines.join('\r\n') + '\r\n';
}
