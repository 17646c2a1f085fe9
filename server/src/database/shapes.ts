import type { LimitCrossed, Pull, Setup, SharedPage } from '@prandel/core';
import type { RegisterMap } from '@prandel/formats';

/** What a package carried beyond a job; its unknown files are rows of `files`. */
export interface PackageExtrasRecord {
  readonly descriptor: Record<string, unknown>;
  readonly setupCells: Record<string, Record<string, string>>;
  readonly pullCells: Record<string, Record<string, string>>;
  readonly weatherCells: Record<string, string>[];
}

export const INSTRUMENT_KINDS = ['rollers', 'weather', 'bus', 'aux'] as const;
export type InstrumentKind = (typeof INSTRUMENT_KINDS)[number];

/** Where an instrument is reached; null: the bay has none of this kind. */
export interface InstrumentAddress {
  readonly host: string;
  readonly port: number;
}
export type BayInstruments = Readonly<Record<InstrumentKind, InstrumentAddress | null>> & {
  readonly registers: RegisterMap;
};

/** The state of a job in a bay. It survives a restart; live readings do not belong to it. */
export interface BayRun {
  readonly phase: 'round' | 'fitting' | 'between';
  readonly setup: Setup['id'];
  readonly round: number;
  readonly extraSettle: number;
  /** Bay time of the last pull's end, ISO; drives the interval and the cool-down. */
  readonly lastPullEndedAt: string | null;
  readonly lastPullId: string | null;
  /** Setup and round of the last pull. */
  readonly lastPullRound: string | null;
  /** A deliberate override of the closed gate for the next pull. */
  readonly override: { readonly reason: string; readonly person: string } | null;
  readonly stop: { readonly crossed: LimitCrossed; readonly at: string } | null;
}

/** A pull that is being recorded: what is known of it before its samples are. */
export interface RecordingDraft {
  readonly pull: Omit<Pull, 'channels'>;
  readonly channels: readonly string[];
  /** Bay time at which the recording began, milliseconds since 1970. */
  readonly startMs: number;
}

type Members = Readonly<Record<string, unknown>>;
const isObject = (value: unknown): value is Members =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const isText = (value: unknown) => typeof value === 'string';
const isNumber = (value: unknown) => typeof value === 'number' && Number.isFinite(value);
const orNull = (is: (value: unknown) => boolean) => (value: unknown) => value === null || is(value);

/** Whether this is a table whose values are all of one kind. */
const tableOf =
  <T>(is: (value: unknown) => boolean) =>
  (value: unknown): value is Record<string, T> =>
    isObject(value) && Object.values(value).every(is);
export const isTextTable = tableOf<string>(isText);
export const isNumberTable = tableOf<number>(isNumber);

function isStop(value: unknown): boolean {
  if (!isObject(value) || !isText(value.at) || !isObject(value.crossed)) return false;
  const { limit, value: read, level } = value.crossed;
  return isNumber(read) && (level === 'warn' || level === 'stop') && isObject(limit) && isText(limit.channel);
}

export function isBayRun(value: unknown): value is BayRun {
  if (!isObject(value)) return false;
  const { phase, setup, round, extraSettle, lastPullEndedAt, lastPullId, lastPullRound, override, stop } = value;
  return (
    ['round', 'fitting', 'between'].some((known) => known === phase) &&
    isText(setup) &&
    [round, extraSettle].every(isNumber) &&
    [lastPullEndedAt, lastPullId, lastPullRound].every(orNull(isText)) &&
    orNull((o) => isObject(o) && isText(o.reason) && isText(o.person))(override) &&
    orNull(isStop)(stop)
  );
}

export function isRecordingDraft(value: unknown): value is RecordingDraft {
  if (!isObject(value) || !isObject(value.pull)) return false;
  const { pull, channels, startMs } = value;
  return (
    isNumber(startMs) &&
    Array.isArray(channels) &&
    channels.every(isText) &&
    isText(pull.setupId) &&
    isNumber(pull.round)
  );
}

/** Members of any kind: what a newer version or another program wrote beside what is known. */
export const isMembers = (value: unknown): value is Record<string, unknown> => isObject(value);

export function isPackageExtras(value: unknown): value is PackageExtrasRecord {
  if (!isObject(value)) return false;
  const { descriptor, setupCells, pullCells, weatherCells } = value;
  return (
    isObject(descriptor) &&
    [setupCells, pullCells].every((cells) => isObject(cells) && Object.values(cells).every(isTextTable)) &&
    Array.isArray(weatherCells) &&
    weatherCells.every(isTextTable)
  );
}

/** What a person said that the columns of a file are. */
export const isMapping = (value: unknown): value is { role: string; unit: string | null }[] =>
  Array.isArray(value) && value.every((c) => isObject(c) && isText(c.role) && orNull(isText)(c.unit));

/** What a person said of the numbers of files with one header. */
export interface ShapeAnswers {
  /** `as-stated`: each file says its standard and its factor. */
  readonly state: 'uncorrected' | 'as-stated' | 'corrected' | 'scaled' | 'unknown';
  readonly standard: string | null;
  readonly factor: number | null;
  /** Averaging width of the source, rpm. */
  readonly averagingRpm: number | null;
  /** Engine speed over road speed, rpm per km/h, for files over road speed. */
  readonly rpmPerKmH: number | null;
}

const NUMBER_STATES = ['uncorrected', 'as-stated', 'corrected', 'scaled', 'unknown'];
export const isShapeAnswers = (value: unknown): value is ShapeAnswers =>
  isObject(value) &&
  NUMBER_STATES.includes(value.state as string) &&
  orNull(isText)(value.standard) &&
  [value.factor, value.averagingRpm, value.rpmPerKmH].every(orNull(isNumber));

const isList = (is: (value: unknown) => boolean) => (value: unknown) => Array.isArray(value) && value.every(is);

/** What a customer's page shows of a sealed job. */
export const isSharedPage = (value: unknown): value is SharedPage =>
  isObject(value) &&
  [value.number, value.question, value.vehicle, value.bay].every(isText) &&
  [value.customer, value.day].every(orNull(isText)) &&
  isList(isText)(value.how) &&
  isList(
    (r) =>
      isObject(r) &&
      [r.setup, r.label, r.measure, r.verdict, r.sentence, r.sure].every(isText) &&
      [r.estimate, r.unit, r.picture].every(orNull(isText)) &&
      isList(isText)(r.means),
  )(value.results);
