import { createHash } from 'node:crypto';
import { createWriteStream, readFileSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { newPull, secondExports, usablePreview, type Bay, type ComparedCurve, type Vehicle } from '@prandel/core';
import {
  asText,
  mapPullFile,
  pullTimes,
  readPullFile,
  statedOf,
  summarisePull,
  UnreadableError,
  type ColumnMapping,
  type MappedPull,
  type PullSummary,
  type RecordedAt,
  type Stated,
} from '@prandel/formats';
import { pullFindingWords } from '@prandel/presentation';
import yauzl from 'yauzl';
import { samplesDigest } from '../jobs/samplesDigest.ts';
import { readTableFile } from './tableFile.ts';

/** A pull of a file as a day shows it before anything is stored. */
export interface LaidPull extends PullSummary {
  readonly curve: { rpm: number; powerW: number }[];
  readonly findings: { code: string; severity: string; text: string }[];
  readonly durationS: number | null;
  readonly digest: string | null;
  readonly when: RecordedAt | null;
  readonly stated: Stated;
  readonly start: MappedPull['start'];
}

/** A file of an archive, unpacked. */
export interface Unpacked {
  readonly name: string;
  /** Null where it was not unpacked. */
  readonly path: string | null;
  readonly size: number;
  readonly sha256: string;
  /** When it was changed by the clock of the computer that packed it; no zone. */
  readonly changedAt: string;
  /** Why it was not unpacked. */
  readonly refused: string | null;
}

const MOST_ENTRIES = 2000;
const MOST_BYTES = 1_000_000_000;
/** What systems leave in folders. */
const LITTER = /(^|\/)(__MACOSX\/|\.|thumbs\.db$|desktop\.ini$)/i;
const NO_PULLS = /\.(jpe?g|png|gif|heic|webp|bmp|tiff?|mp4|mov|avi|mkv|mp3|wav|m4a|pdf|docx?|pptx?|exe|dll|msi)$/i;

/** Everything about a day of files that is done in a thread of its own. */
export const DAY_WORK = {
  /** Unpacks an archive of pull files beside it. @throws UnreadableError for a damaged one, or for more than can be taken */
  async unpack({
    path,
    folder,
    stem,
    largest,
  }: {
    path: string;
    folder: string;
    stem: string;
    largest: number;
  }): Promise<Unpacked[]> {
    const made: Unpacked[] = [];
    try {
      const zip = await yauzl.openPromise(path, { lazyEntries: true, strictFileNames: true });
      let [entries, total] = [0, 0];
      for await (const entry of zip.eachEntry()) {
        if (entry.fileName.endsWith('/') || LITTER.test(entry.fileName)) continue;
        if (++entries > MOST_ENTRIES)
          throw new UnreadableError(`The ZIP holds more than ${MOST_ENTRIES} files. Pack one day.`);
        const refused = refusal(entry.fileName, entry.uncompressedSize, largest);
        const changedAt = entry.getLastModDate({ timezone: 'UTC', forceDosFormat: true }).toISOString().slice(0, 19);
        const about = { name: entry.fileName, changedAt };
        if (refused) {
          made.push({ ...about, path: null, size: entry.uncompressedSize, sha256: '', refused });
          continue;
        }
        const target = join(folder, `${stem}.${entries}.part`);
        const hash = createHash('sha256');
        let size = 0;
        const counted = new Transform({
          transform: (piece: Buffer, _, next) => {
            size += piece.length;
            total += piece.length;
            hash.update(piece);
            if (total > MOST_BYTES) next(new UnreadableError('The ZIP unpacks to more than 1 GB. Pack fewer files.'));
            else next(null, piece);
          },
        });
        made.push({ ...about, path: target, size: 0, sha256: '', refused: null });
        await pipeline(await zip.openReadStreamPromise(entry), counted, createWriteStream(target, { mode: 0o600 }));
        made[made.length - 1] = { ...about, path: target, size, sha256: hash.digest('hex'), refused: null };
      }
      return made;
    } catch (error) {
      for (const { path: own } of made) if (own) await rm(own, { force: true });
      if (error instanceof UnreadableError) throw error;
      throw new UnreadableError(
        `This is not a whole ZIP file (${error instanceof Error ? error.message : String(error)}). Pack it again.`,
      );
    }
  },

  /** The pulls of a file with everything that it says of them. @throws UnreadableError */
  layPulls({
    file,
    columns,
    rpmPerKmH,
    changedAt,
    bay,
    vehicle,
  }: {
    file: { readonly name: string; readonly tablePath: string };
    columns: readonly ColumnMapping[];
    rpmPerKmH: number | null;
    changedAt: string | null;
    bay: Bay;
    vehicle: Vehicle;
  }): LaidPull[] {
    const read = readTableFile(file.tablePath);
    const times = pullTimes(read, columns, file.name, changedAt);
    return mapPullFile(read, columns, { rpmPerKmH }).map((pull, k) => {
      const { curve, findings } = usablePreview(
        { ...newPull('preview', 'A', 1), channels: pull.channels },
        bay,
        vehicle,
      );
      const time = pull.channels.find((c) => c.name === 'time_s')?.values;
      const durationS = time ? time.at(-1)! - time[0]! : NaN;
      return {
        ...summarisePull(pull),
        curve,
        findings: findings.map((f) => ({ code: f.code, severity: f.severity, text: pullFindingWords(f) })),
        durationS: Number.isFinite(durationS) ? durationS : null,
        digest: samplesDigest(pull.channels),
        when: times[k] ?? null,
        stated: statedOf(read, k),
        start: pull.start,
      };
    });
  },

  /** Peaks of the pulls of a file that belongs to no job, with what it says of its correction and its weather. @throws UnreadableError */
  async sheetPulls({ path }: { path: string; name: string }) {
    const bytes = readFileSync(path);
    const { text, written } = await asText(bytes);
    const read = readPullFile(text, { written });
    return mapPullFile(read, read.columns).map((pull, k) => {
      const { name, peakPowerW, peakTorqueNm } = summarisePull(pull);
      const { state, ...said } = statedOf(read, k);
      const of = (key: 'airC' | 'pressureHpa' | 'relativeHumidity') => pull.start[key] ?? said[key]?.value ?? null;
      return {
        ...{
          name,
          peakPowerW,
          peakTorqueNm,
          standard: state?.kind === 'uncorrected' ? 'none' : (state?.standard ?? null),
        },
        ...{ factor: state?.factor ?? null, airC: of('airC'), pressureHpa: of('pressureHpa') },
        relativeHumidity: of('relativeHumidity'),
      };
    });
  },

  /** Pairs of curves that are one pull exported twice. */
  secondExports({ curves }: { curves: readonly ComparedCurve[] }): ReturnType<typeof secondExports> {
    return secondExports(curves);
  },
};

function refusal(name: string, size: number, largest: number): string | null {
  if (/\.zip$/i.test(name)) return 'A ZIP inside a ZIP is not opened. Unpack it first.';
  if (NO_PULLS.test(name)) return 'This is no file of pulls.';
  return size > largest
    ? `The file has ${(size / 1048576).toFixed(0)} MB; at most ${largest / 1048576} MB can be read.`
    : null;
}
