import { foreignKey, index, integer, pgTable, primaryKey, text, unique, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { PULL_KINDS, type NumberState, type PullKind, type PullStatus } from '@prandel/core';
import { checkedJson } from '../checkedJson.ts';
import { isBayRun, isRecordingDraft } from '../shapes.ts';
import { bays } from './bays.ts';
import { bytea, id, instant, number, shopId } from './columns.ts';
import { files } from './files.ts';
import { jobs } from './jobs.ts';
import { loggers } from './loggers.ts';
import { oneOf } from './records.ts';

export const pulls = pgTable(
  'pulls',
  {
    id: id(),
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    pullKey: text('pull_key').notNull(),
    setupKey: text('setup_key').notNull(),
    kind: text('kind').$type<PullKind>().notNull().default('sweep'),
    /** Place in the job. */
    place: integer('place').notNull(),
    round: number('round').notNull(),
    /** Place in the round from 1, settle pulls included. */
    position: number('position').notNull(),
    status: text('status').$type<PullStatus>().notNull(),
    reason: text('reason'),
    startedAt: instant('started_at'),
    /** As a package wrote it, where that is not how this program writes instants. */
    startedAtText: text('started_at_text'),
    gear: text('gear'),
    pressureHpa: number('pressure_hpa'),
    airC: number('air_c'),
    relativeHumidity: number('relative_humidity'),
    intakeStartC: number('intake_start_c'),
    coolantStartC: number('coolant_start_c'),
    oilStartC: number('oil_start_c'),
    numbers: text('numbers').$type<NumberState['kind']>().notNull(),
    numbersStandard: text('numbers_standard'),
    numbersFactor: number('numbers_factor'),
    averagingRpm: number('averaging_rpm'),
    fileId: uuid('file_id'),
    /** SHA-256 of the samples; null for a pull without any, and for one that an older version stored. */
    samplesSha256: text('samples_sha256'),
  },
  (t) => [
    unique('pulls_shop_id').on(t.shopId, t.id),
    uniqueIndex('pulls_key').on(t.jobId, t.pullKey),
    index('pulls_place').on(t.jobId, t.place),
    index('pulls_file').on(t.fileId),
    oneOf('pulls_kind', t.kind, PULL_KINDS),
    oneOf('pulls_status', t.status, ['settle', 'counted', 'set-aside']),
    oneOf('pulls_numbers', t.numbers, ['uncorrected', 'corrected', 'scaled', 'unknown']),
    foreignKey({ name: 'pulls_job_fk', columns: [t.shopId, t.jobId], foreignColumns: [jobs.shopId, jobs.id] }),
    foreignKey({ name: 'pulls_file_fk', columns: [t.shopId, t.fileId], foreignColumns: [files.shopId, files.id] }),
  ],
);

/** What every list shows beside a pull: a gate overridden, a cable lost, set aside after seeing the result. */
export const pullMarks = pgTable(
  'pull_marks',
  {
    shopId: shopId(),
    pullId: uuid('pull_id').notNull(),
    place: integer('place').notNull(),
    words: text('words').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.pullId, t.place] }),
    foreignKey({
      name: 'pull_marks_pull_fk',
      columns: [t.shopId, t.pullId],
      foreignColumns: [pulls.shopId, pulls.id],
    }).onDelete('cascade'),
  ],
);

/** How long each closed gate kept a pull from starting, seconds of bay time. */
export const pullHolds = pgTable(
  'pull_holds',
  {
    shopId: shopId(),
    pullId: uuid('pull_id').notNull(),
    gate: text('gate').notNull(),
    seconds: number('seconds').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.pullId, t.gate] }),
    foreignKey({
      name: 'pull_holds_pull_fk',
      columns: [t.shopId, t.pullId],
      foreignColumns: [pulls.shopId, pulls.id],
    }).onDelete('cascade'),
  ],
);

/** One row per channel of a pull; samples are little-endian float64, NaN where missing. */
export const channels = pgTable(
  'channels',
  {
    shopId: shopId(),
    pullId: uuid('pull_id').notNull(),
    place: integer('place').notNull(),
    name: text('name').notNull(),
    samples: bytea('samples').notNull(),
    /** The logger that it was taken from; null: the pull's own. */
    loggerId: uuid('logger_id'),
  },
  (t) => [
    primaryKey({ columns: [t.pullId, t.place] }),
    foreignKey({
      name: 'channels_logger_fk',
      columns: [t.shopId, t.loggerId],
      foreignColumns: [loggers.shopId, loggers.id],
    }).onDelete('cascade'),
    index('channels_logger').on(t.loggerId),
    foreignKey({
      name: 'channels_pull_fk',
      columns: [t.shopId, t.pullId],
      foreignColumns: [pulls.shopId, pulls.id],
    }),
  ],
);

/** What goes on in a bay right now: one job at a time, and a job on one bay only. */
export const bayRuns = pgTable(
  'bay_runs',
  {
    bayId: uuid('bay_id').primaryKey(),
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    run: checkedJson('run', isBayRun).notNull(),
  },
  (t) => [
    unique('bay_runs_job').on(t.jobId),
    foreignKey({ name: 'bay_runs_bay_fk', columns: [t.shopId, t.bayId], foreignColumns: [bays.shopId, bays.id] }),
    foreignKey({ name: 'bay_runs_job_fk', columns: [t.shopId, t.jobId], foreignColumns: [jobs.shopId, jobs.id] }),
  ],
);

/** A pull while it is being recorded, or until a job claims it; closed ones have become rows of `pulls`. */
export const recordings = pgTable(
  'recordings',
  {
    id: id(),
    shopId: shopId(),
    bayId: uuid('bay_id').notNull(),
    /** Null while nobody has said whose pull it is. */
    jobId: uuid('job_id'),
    /** The key that is kept for the pull in its job; null without a job. */
    pullKey: text('pull_key'),
    draft: checkedJson('draft', isRecordingDraft).notNull(),
    /** Set when the recording could not become a pull: it waits with its samples until a person decides. */
    quarantinedAt: instant('quarantined_at'),
    quarantineReason: text('quarantine_reason'),
  },
  (t) => [
    unique('recordings_shop_id').on(t.shopId, t.id),
    uniqueIndex('recordings_pull_key').on(t.jobId, t.pullKey),
    index('recordings_bay').on(t.bayId),
    foreignKey({ name: 'recordings_bay_fk', columns: [t.shopId, t.bayId], foreignColumns: [bays.shopId, bays.id] }),
    foreignKey({ name: 'recordings_job_fk', columns: [t.shopId, t.jobId], foreignColumns: [jobs.shopId, jobs.id] }),
  ],
);

/** Samples as they arrived: rows of float64, one column per channel of the recording, written before any screen sees them. */
export const recordingChunks = pgTable(
  'recording_chunks',
  {
    shopId: shopId(),
    recordingId: uuid('recording_id').notNull(),
    n: integer('n').notNull(),
    samples: bytea('samples').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.recordingId, t.n] }),
    foreignKey({
      name: 'recording_chunks_recording_fk',
      columns: [t.shopId, t.recordingId],
      foreignColumns: [recordings.shopId, recordings.id],
    }).onDelete('cascade'),
  ],
);
