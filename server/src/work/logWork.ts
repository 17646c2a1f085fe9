import { readFileSync } from 'node:fs';
import {
  addableChannels,
  channelInto,
  channelWords,
  compassPoint,
  findPasses,
  layLogger,
  type Channel,
  type Laid,
  type NotLaid,
  type Pull,
} from '@prandel/core';
import { mapLogFile, readSpeedLog, UnreadableError, type ColumnMapping, type MappedPull } from '@prandel/formats';
import { readTableFile } from './tableFile.ts';

/** A file whose table was read, as a person maps it. */
export interface MappedFile {
  readonly name: string;
  readonly tablePath: string;
}

/** Speeds of one pull as both recorded them, for the picture that shows how they lie. */
export interface LaidPicture {
  readonly pull: string;
  readonly timeS: readonly number[];
  readonly own: readonly (number | null)[];
  readonly theirs: readonly (number | null)[];
}

/** Where a logger's record lies, or why it cannot be laid, with what a person needs to judge or to place it. */
export interface LoggerLook {
  readonly laid: Laid | null;
  readonly why: NotLaid | null;
  readonly channels: readonly { readonly name: string; readonly low: number; readonly high: number }[];
  /** The whole record by what it is laid by, thinned: seconds of its clock and values. */
  readonly record: {
    readonly timeS: readonly number[];
    readonly values: readonly (number | null)[];
    readonly channel: string;
  };
  readonly pictures: readonly LaidPicture[];
}

/** A pull as it is placed in a logger's record. */
export interface PlacedPull {
  readonly id: string;
  readonly timeS: Float64Array;
  readonly atS: number;
}

const RECORD_POINTS = 1500;
const PICTURE_POINTS = 120;
const SPEEDS = ['engine_rpm', 'roller_rad_s', 'speed_km_h', 'throttle_fraction'];

/** A file read in blocks is one record. */
function recordOf({ name, tablePath }: MappedFile, columns: readonly ColumnMapping[]): Channel[] {
  try {
    const parts = mapLogFile(readTableFile(tablePath), columns);
    const names = [...new Set(parts.flatMap((p) => p.channels.map((c) => c.name)))];
    return names.map((own) => ({ name: own, values: joined(parts, own) }));
  } catch (error) {
    if (!(error instanceof UnreadableError)) throw error;
    throw new UnreadableError(`${name}: ${error.message}`, error.problems);
  }
}

function joined(parts: readonly MappedPull[], name: string): Float64Array {
  const rows = (part: MappedPull) => part.channels[0]!.values.length;
  const all = new Float64Array(parts.reduce((n, p) => n + rows(p), 0)).fill(NaN);
  let at = 0;
  for (const part of parts) {
    const own = part.channels.find((c) => c.name === name);
    if (own) all.set(own.values, at);
    at += rows(part);
  }
  return all;
}

const orNull = (v: number) => (Number.isFinite(v) ? v : null);

/** Work on logs that were not recorded by the rollers. */
export const LOG_WORK = {
  /** Passes of a log of road speed, and the log itself, thinned. @throws UnreadableError */
  speedPasses({ path, fromKmH, toKmH }: { path: string; fromKmH: number; toKmH: number }) {
    const { kind, log, startedAtMs, problems } = readSpeedLog(readFileSync(path));
    const step = Math.max(1, Math.ceil(log.timeS.length / RECORD_POINTS));
    const kept = [...log.timeS.keys()].filter((i) => i % step === 0);
    return {
      ...{ kind, problems: [...problems] },
      passes: findPasses(log, fromKmH, toKmH).map(({ fromS, seconds, courseDeg, broken }) => ({
        ...{ fromS, seconds, broken, direction: compassPoint(courseDeg) },
        at: startedAtMs === null ? null : new Date(startedAtMs + 1000 * fromS).toISOString(),
      })),
      timeS: kept.map((i) => log.timeS[i]!),
      speedKmH: kept.map((i) => orNull(log.speedKmH[i]!)),
    };
  },

  /** Lays a logger's record beside pulls, or places it where a person says. @throws UnreadableError */
  layLogger({
    file,
    columns,
    pulls,
    placed,
  }: {
    file: MappedFile;
    columns: readonly ColumnMapping[];
    pulls: readonly Pull[];
    /** By hand: second 0 of these pulls in the logger's clock. */
    placed: readonly { readonly id: string; readonly atS: number }[] | null;
  }): LoggerLook {
    const record = recordOf(file, columns);
    const answer = placed === null ? layLogger(pulls, record) : null;
    const laid = answer && !('code' in answer) ? answer : null;
    const time = record.find((c) => c.name === 'time_s')!.values;
    const by = record.find((c) => SPEEDS.includes(c.name))!;
    const step = Math.max(1, Math.ceil(time.length / RECORD_POINTS));
    const kept = [...time.keys()].filter((i) => i % step === 0);
    const where = laid ? laid.pulls : (placed ?? []);
    return {
      ...{ laid, why: answer && 'code' in answer ? answer : null },
      channels: addableChannels(record).map(({ name, values }) => {
        const known = values.filter((v) => Number.isFinite(v));
        return {
          ...{ name, unit: channelWords(name).unit },
          low: known.reduce((a, b) => Math.min(a, b), Infinity),
          high: known.reduce((a, b) => Math.max(a, b), -Infinity),
        };
      }),
      record: {
        channel: by.name,
        timeS: kept.map((i) => time[i]!),
        values: kept.map((i) => orNull(by.values[i]!)),
      },
      pictures: where.flatMap(({ id, atS }): LaidPicture[] => {
        const pull = pulls.find((p) => p.id === id);
        const own = pull?.channels.find((c) => SPEEDS.includes(c.name));
        const timeS = pull?.channels.find((c) => c.name === 'time_s')?.values;
        if (!own || !timeS) return [];
        const theirs = channelInto(timeS, time, by.values, atS, (laid?.ratePpm || 0) / 1e6);
        // Speeds of two kinds are drawn to one size.
        const top = (v: Float64Array) => v.reduce((a, b) => (b > a ? b : a), 0);
        const size = own.name === by.name ? 1 : top(own.values) / top(theirs);
        const every = Math.max(1, Math.ceil(timeS.length / PICTURE_POINTS));
        const shown = [...timeS.keys()].filter((i) => i % every === 0);
        return [
          {
            pull: id,
            timeS: shown.map((i) => timeS[i]!),
            own: shown.map((i) => orNull(own.values[i]!)),
            theirs: shown.map((i) => orNull(size * theirs[i]!)),
          },
        ];
      }),
    };
  },

  /** The channels of a logger at the times of the pulls that it covers. @throws UnreadableError */
  loggerChannels({
    file,
    columns,
    pulls,
    rate,
  }: {
    file: MappedFile;
    columns: readonly ColumnMapping[];
    pulls: readonly PlacedPull[];
    rate: number;
  }): { readonly pull: string; readonly channels: Channel[] }[] {
    const record = recordOf(file, columns);
    const time = record.find((c) => c.name === 'time_s')!.values;
    return pulls.map(({ id, timeS, atS }) => ({
      pull: id,
      channels: addableChannels(record)
        .map(({ name, values }) => ({ name, values: channelInto(timeS, time, values, atS, rate) }))
        .filter(({ values }) => values.some((v) => Number.isFinite(v))),
    }));
  },
};
