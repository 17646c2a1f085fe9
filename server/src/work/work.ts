import { pullFindingWords } from '@prandel/presentation';
import type { ReportNumbers } from '../http/coreAnswers.ts';
import { readFileSync, statSync } from 'node:fs';
import { move, transferableSymbol, valueSymbol } from 'piscina';
import {
  baselinePeakW,
  heatCoefficient,
  type HeatCoefficient,
  bayLearned,
  bayPoint,
  bayRecord,
  detectedKind,
  newPull,
  partSteps,
  rawWarmUpDay,
  stepsBeyondBaseline,
  usablePreview,
  warmUp,
  warmUpDay,
  type Bay,
  type BayLearned,
  type BayPoint,
  type BayRecord,
  type CandidateVerdict,
  type Channel,
  type Job,
  type Judgement,
  type PartStep,
  type Pull,
  type PullKind,
  type RecordedPart,
  type SealCheck,
  type Vehicle,
} from '@prandel/core';
import {
  brokenEvidence,
  headerSignature,
  isZip,
  mapPullFile,
  nodeSha256,
  readPackage,
  readPullFile,
  recordedAt,
  summarisePull,
  UnreadableError,
  unzip,
  workbookText,
  writePackage,
  zip,
  type ColumnMapping,
  type EvidenceRow,
  type JobPackage,
  type MappedPull,
  type PackageExtras,
  type PullFile,
  type PullSummary,
  type RecordedAt,
} from '@prandel/formats';
import { madeFrames, type FramedJob, type FrameWork, type MadeFrame } from '../frames/madeFrames.ts';
import { sealJob } from '../seals/sealWork.ts';
import { digestOf, reportHtml, type ReportedJob, type ReportFor } from '../reports/reportHtml.ts';
import { samplesDigestOf } from '../jobs/pullDigests.ts';
import { samplesDigest } from '../jobs/samplesDigest.ts';
import { judged } from './begunJudgements.ts';
import { DAY_WORK } from './dayWork.ts';
import { LOG_WORK, type MappedFile } from './logWork.ts';
import { fileSource, readTableFile, writeTableFile } from './tableFile.ts';

type Progress = (share: number) => void;

/** A file as the reader understands it, without its numbers. */
export interface FileRead extends Omit<PullFile, 'pulls'> {
  readonly signature: string;
  readonly pulls: readonly { name: string; rows: number; sample: (number | null)[][] }[];
}

/** What is kept of a judgement. */
export interface Projection {
  readonly window: Judgement['window'];
  readonly verdicts: readonly Pick<
    CandidateVerdict,
    'candidate' | 'measure' | 'verdict' | 'gain' | 'smallerThanMatters'
  >[];
  readonly bay: BayRecord;
  readonly point: BayPoint;
  readonly baselinePeakW: number | null;
  readonly parts: readonly PartStep[];
  readonly heat: HeatCoefficient | null;
}

export interface PullPreview extends PullSummary {
  readonly curve: { rpm: number; powerW: number }[];
  readonly findings: { code: string; severity: string; text: string }[];
}

/** A pull of a file with what only a look at all its samples tells. */
export interface ReadPull extends MappedPull {
  /** See `samplesDigest`. */
  readonly telling: string | null;
  /** Digest of all its samples. */
  readonly samples: string | null;
  readonly kind: PullKind;
}

/** Problems of a file say which file. */
function mapped<T>(
  { name, tablePath }: MappedFile,
  columns: readonly ColumnMapping[],
  use: (pulls: MappedPull[], signature: string, recorded: RecordedAt | null) => T,
  rpmPerKmH: number | null = null,
): T {
  try {
    const file = readTableFile(tablePath);
    return use(mapPullFile(file, columns, { rpmPerKmH }), headerSignature(file), recordedAt(file.preamble, name));
  } catch (error) {
    if (!(error instanceof UnreadableError)) throw error;
    throw new UnreadableError(
      `${name}: ${error.message}`,
      error.problems.map((p) => ({ line: p.line, message: `${name}: ${p.message}` })),
    );
  }
}

/** Everything that is done in a thread of its own; input and answer are plain data. */
export const WORK = {
  ...LOG_WORK,
  ...DAY_WORK,

  /** Reads a pull file from disk and keeps its numbers beside it. @throws UnreadableError */
  async readPullFile({ path, tablePath }: { path: string; tablePath: string }, progress: Progress): Promise<FileRead> {
    const source = fileSource(path, statSync(path).size);
    try {
      const workbook = isZip(source.read(0, 4)) ? await workbookText(readFileSync(path)) : null;
      const file = readPullFile(workbook ?? source, {
        ...{ onProgress: progress, written: workbook ? 'workbook' : 'separated' },
      });
      writeTableFile(tablePath, file);
      const { pulls, ...rest } = file;
      return {
        ...rest,
        signature: headerSignature(file),
        pulls: pulls.map((p) => ({
          name: p.name,
          rows: p.lines.length,
          sample: file.columns.map((_, i) =>
            Array.from(p.columns[i]!.slice(0, 3), (v) => (Number.isNaN(v) ? null : v)),
          ),
        })),
      };
    } finally {
      source.close();
    }
  },

  /** Time and roller speed of a coast-down file. @throws UnreadableError when it holds none */
  rollerTrace({ path }: { path: string }): { timeS: number[]; rollerRadS: number[] } {
    const source = fileSource(path, statSync(path).size);
    try {
      const file = readPullFile(source);
      const at = (role: string) => file.columns.findIndex((c) => c.role === role);
      const [time, speed] = [at('time'), at('rollerSpeed')];
      if (time < 0 || speed < 0)
        throw new UnreadableError(
          'A coast-down file has a column of time and one of roller speed (rad/s or roller rpm).',
        );
      const columns = file.columns.map(({ role, unit }, i) =>
        i === time || i === speed ? { role, unit } : { role: 'ignore' as const, unit: null },
      );
      const pull = mapPullFile(file, columns)[0]!;
      const values = (name: string) => Array.from(pull.channels.find((c) => c.name === name)!.values);
      return { timeS: values('time_s'), rollerRadS: values('roller_rad_s') };
    } finally {
      source.close();
    }
  },

  /** What a file would become under a mapping. @throws UnreadableError */
  previewPulls({
    file,
    columns,
    bay,
    vehicle,
  }: {
    file: MappedFile;
    columns: readonly ColumnMapping[];
    bay: Bay;
    vehicle: Vehicle;
  }): PullPreview[] {
    return mapped(file, columns, (pulls) =>
      pulls.map((pull) => {
        const { curve, findings } = usablePreview(
          { ...newPull('preview', 'A', 1), channels: pull.channels },
          bay,
          vehicle,
        );
        return {
          ...summarisePull(pull),
          curve,
          findings: findings.map((f) => ({ code: f.code, severity: f.severity, text: pullFindingWords(f) })),
        };
      }),
    );
  },

  /** The pulls of a file in SI channels, the signature under which the mapping is remembered, and when it was recorded. @throws UnreadableError */
  mapPulls({
    file,
    columns,
    rpmPerKmH = null,
  }: {
    file: MappedFile;
    columns: readonly ColumnMapping[];
    rpmPerKmH?: number | null;
  }): { signature: string; pulls: ReadPull[]; recorded: RecordedAt | null } {
    return mapped(
      file,
      columns,
      (pulls, signature, recorded) => {
        // What has to look at every sample is done here: the thread of the pages has others to serve.
        const read = pulls.map((p) => ({
          ...p,
          ...{ telling: samplesDigest(p.channels), samples: samplesDigestOf(p), kind: detectedKind(p) },
        }));
        return moved(
          { signature, pulls: read, recorded },
          pulls.flatMap((p) => p.channels),
        );
      },
      rpmPerKmH,
    );
  },

  /** Runs what is to come before there is work. */
  warmUp(): null {
    const raw = rawWarmUpDay();
    madeFrames({ job: raw, wanted: raw.pulls.map((p) => p.id), known: [] });
    for (const _ of warmUp()) continue;
    const job = warmUpDay();
    const frames = madeFrames({ job, wanted: job.pulls.map((p) => p.id), known: [] });
    const framed = { frames: frames.map(({ pull, frame }) => [pull, frame] as const), samples: new Map() };
    const pulls = job.pulls.map((p) => ({ ...p, channels: [] }));
    // Of another title each, so that each is judged.
    for (const title of ['a', 'b', 'c', 'd'])
      reportHtml({ ...framed, job: { ...job, pulls, title } }, { shop: '', name: '', units: {} });
    return null;
  },

  /** Prepares pulls: their samples go over, what stands for them comes back. */
  madeFrames(work: FrameWork): MadeFrame[] {
    return madeFrames(work);
  },

  /** What lists and histories know of a job without judging it. */
  projection(framed: FramedJob): Projection {
    const { job } = framed;
    // Steps from one setup to the next are contrasts, of which only the full judgement tells.
    const depth = stepsBeyondBaseline(job) ? 'full' : 'verdict';
    const judgement = judged(framed, depth);
    return {
      window: judgement.window,
      verdicts: judgement.verdicts.map(({ candidate, measure, verdict, gain, smallerThanMatters }) => ({
        ...{ candidate, measure, verdict, gain, smallerThanMatters },
      })),
      bay: bayRecord(job, judgement),
      point: bayPoint(job, judgement),
      baselinePeakW: baselinePeakW(job, judgement),
      parts: partSteps(job, judgement),
      heat: heatCoefficient(job, judgement),
    };
  },

  /** What the jobs of a bay say of it together. */
  bayLearned({ records }: { records: readonly BayRecord[] }): BayLearned {
    return bayLearned(records);
  },

  /** Peak wheel power of the baseline, W; null where it was not reached. */
  baselinePeak(framed: FramedJob): number | null {
    return baselinePeakW(framed.job, judged(framed, 'verdict'));
  },

  reportHtml({
    reader,
    recorded,
    ...framed
  }: ReportedJob & { reader: ReportFor; recorded: readonly RecordedPart[] }): string {
    return reportHtml(framed, reader, recorded);
  },

  /** The report's numbers, for programs. */
  reportNumbers(framed: ReportedJob): ReportNumbers {
    const { job } = framed;
    const { verdicts, window, declaredWindow, contrasts } = judged(framed, 'full');
    return {
      job: { id: job.id, title: job.title, vehicle: job.vehicle, question: job.question, method: job.method },
      digest: digestOf(framed),
      window,
      declaredWindow,
      verdicts: verdicts.map(({ ribbon: _, ...v }) => v),
      contrasts,
    };
  },

  /** Rebuilds a job from a package on disk, and checks its log and its seal. @throws UnreadableError */
  async readPackage({ path }: { path: string }): Promise<JobPackage & { readonly broken: readonly SealCheck[] }> {
    const files = await unzip(readFileSync(path));
    const read = readPackage(files);
    return moved(
      { ...read, broken: brokenEvidence(files, read.job, nodeSha256) },
      read.job.pulls.flatMap((p: Pull) => p.channels),
    );
  },

  /** See `sealJob`. */
  sealJob,

  async writePackage({
    job,
    extras,
    log,
  }: {
    job: Job;
    extras: PackageExtras | undefined;
    log: readonly EvidenceRow[];
  }): Promise<Uint8Array> {
    return zip(writePackage(job, extras, log));
  },
};

export type Work = typeof WORK;
export type WorkName = keyof Work;

/** An answer whose samples go over to the other thread instead of being copied. */
function moved<T extends object>(answer: T, channels: readonly Channel[]): T {
  const buffers = [...new Set(channels.map((c) => c.values.buffer))];
  const movable = { [transferableSymbol]: buffers, [valueSymbol]: answer };
  return move(movable) as unknown as T;
}
