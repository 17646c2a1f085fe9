import type { ColumnMapping } from './mapping.ts';
import type { PullFile, PullTable } from './readPullFile.ts';
import { dayOfLines, inLines, inName, type RecordedAt } from './recordedAt.ts';

/** When a file was last changed: an instant (`Z`), or what the clock of an archive said (no zone). ISO 8601. */
export type ChangedAt = string;

/** Clock readings from this time of day on are a time of day; lower ones are the time since the recording began. Seconds. */
const DAY_BEGINS_S = 4 * 3600;
/** A clock that counts from 1970. */
const EPOCH_S = 1e8;

/**
 * When each pull of a file was made: from the lines above it, a column with the time of day, the file's name, or the day on which the file
 * was changed, in that order. A file that tells one moment and whose clock runs on from pull to pull tells it of every pull.
 * @param changedAt null where nobody knows
 * @returns one answer a pull; null where nothing tells
 */
export function pullTimes(
  file: Pick<PullFile, 'preamble' | 'fields' | 'pulls'>,
  columns: readonly Pick<ColumnMapping, 'role' | 'unit'>[],
  fileName: string,
  changedAt: ChangedAt | null,
): (RecordedAt | null)[] {
  const clock = columns.findIndex((c) => c.role === 'time');
  const unit = columns[clock]?.unit ?? null;
  const firsts = file.pulls.map((pull) => (clock < 0 ? null : firstReading(pull, clock, unit)));
  const lines = [...file.preamble, ...file.fields.map(({ key, value }) => `${key}: ${value}`)];
  const ofFile = inLines(lines);
  const named = inName(fileName);
  const day = ofFile?.local.slice(0, 10) ?? dayOfLines(lines, fileName)?.iso ?? changedAt?.slice(0, 10) ?? null;
  const dayUnsure = ofFile === null && dayOfLines(lines, fileName) === null;
  return file.pulls.map((pull, k) => {
    const own = ownTime(pull, day);
    if (own) return own;
    if (ofFile && file.pulls.length === 1) return ofFile;
    const ofColumn = unit === 'hh:mm:ss' ? timeOfDay(firsts[k] ?? null, day, dayUnsure) : null;
    if (ofColumn) return ofColumn;
    const moment = ofFile ?? named ?? dated(changedAt);
    if (!moment || file.pulls.length === 1) return moment;
    const since = runsOn(firsts) ? firsts[k]! - firsts[0]! : null;
    // The date of a file is when its last pull was written.
    return since === null
      ? null
      : later(moment, moment.source === 'file-date' ? since - (firsts.at(-1)! - firsts[0]!) : since);
  });
}

function firstReading({ columns }: PullTable, clock: number, unit: string | null): number | null {
  const value = columns[clock]!.find((v) => Number.isFinite(v));
  return value === undefined ? null : unit === 'ms' ? value / 1000 : value;
}

/** Times of a clock that runs on from pull to pull rise by more than any pull lasts at least once. */
function runsOn(firsts: readonly (number | null)[]): boolean {
  return firsts.every((v, k) => v !== null && (k === 0 || v > firsts[k - 1]! + 1));
}

function timeOfDay(reading: number | null, day: string | null, unsure: boolean): RecordedAt | null {
  if (reading === null || reading < DAY_BEGINS_S) return null;
  if (reading >= EPOCH_S) {
    const local = new Date(Math.round(reading * 1000)).toISOString().slice(0, 19);
    return { local, offset: null, source: 'time-column', words: local.replace('T', ' '), dayMonthUnsure: false };
  }
  if (day === null || reading >= 86_400) return null;
  const local = `${day}T${new Date(Math.round(reading * 1000)).toISOString().slice(11, 19)}`;
  return { local, offset: null, source: 'time-column', words: local.replace('T', ' '), dayMonthUnsure: unsure };
}

/** What the lines above one pull of several say, or its name: `Run 2, 14:35`. */
function ownTime({ name, fields }: PullTable, day: string | null): RecordedAt | null {
  const lines = [...fields.map(({ key, value }) => `${key}: ${value}`), name];
  const whole = inLines(lines);
  if (whole || day === null) return whole;
  const clock = /(?<![\d:.])([01]?\d|2[0-3]):([0-5]\d)(?::([0-5]\d))?(?![\d:])/;
  const line = lines.find((l) => clock.test(l));
  return line === undefined
    ? null
    : inLines([`${day} ${clock.exec(line)![0]}`]) && { ...inLines([`${day} ${clock.exec(line)![0]}`])!, words: line };
}

function dated(changedAt: ChangedAt | null): RecordedAt | null {
  if (changedAt === null) return null;
  const zoned = changedAt.endsWith('Z');
  const local = changedAt.slice(0, 19);
  const words = local.replace('T', ' ');
  return { local, offset: zoned ? 'Z' : null, source: 'file-date', words, dayMonthUnsure: false };
}

function later(moment: RecordedAt, seconds: number): RecordedAt {
  const at = Date.parse(`${moment.local}Z`) + Math.round(seconds) * 1000;
  return { ...moment, local: new Date(at).toISOString().slice(0, 19) };
}
