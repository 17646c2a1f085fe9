import { boolean, foreignKey, index, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { NOISE_CLASSES, type NoiseClass, type Verdict } from '@prandel/core';
import { bytea, instant, number, shopId } from './columns.ts';
import { jobs } from './jobs.ts';
import { pulls } from './pulls.ts';
import { oneOf } from './records.ts';

// Derived and disposable: worked out by a queue, rebuilt by `./prandel rebuild`. Evidence is never taken from here.

/** What is known of a job without judging it: up to date while `jobVersion` and `engineVersion` are those of now. */
export const jobProjections = pgTable(
  'job_projections',
  {
    shopId: shopId(),
    jobId: uuid('job_id').primaryKey(),
    jobVersion: integer('job_version').notNull(),
    engineVersion: integer('engine_version').notNull(),
    /** Why the job cannot be judged; null: it was. */
    problem: text('problem'),
    windowFromRpm: number('window_from_rpm'),
    windowToRpm: number('window_to_rpm'),
    /** What the job tells of its bay besides its tables: return checks and reference rounds, minutes from pull to pull. */
    returnChecks: integer('return_checks').notNull().default(0),
    minutesPerPull: number('minutes_per_pull'),
    /** What the car lost per °C of start temperature in this job, with its interval; null where its pulls do not tell. */
    heatPercentPerC: number('heat_percent_per_c'),
    heatLow: number('heat_low'),
    heatHigh: number('heat_high'),
    heatPulls: integer('heat_pulls'),
    heatRounds: integer('heat_rounds'),
    /** What the job says of its bay (core, bayPoint): log-percent. */
    level: number('level'),
    squares: number('squares').notNull().default(0),
    degrees: integer('degrees').notNull().default(0),
    returned: number('returned'),
    /** Pulls before the car read as it went on to read. */
    settled: integer('settled'),
    /** Peak wheel power of the baseline's mean under the job's own correction and averaging, W. */
    baselinePeakW: number('baseline_peak_w'),
    madeAt: instant('made_at').notNull().defaultNow(),
  },
  (t) => [
    foreignKey({
      name: 'job_projections_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** What a finished job says of its bay's scatter, mounts and drift: a number for each node of the engine, as little-endian float64. */
export const bayTables = pgTable(
  'bay_tables',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    place: integer('place').notNull(),
    noiseClass: text('noise_class').$type<NoiseClass>().notNull(),
    numbers: bytea('numbers').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    oneOf('bay_tables_noise_class', t.noiseClass, NOISE_CLASSES),
    foreignKey({
      name: 'bay_tables_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** The verdict of each candidate as lists show it. */
export const verdictProjections = pgTable(
  'verdict_projections',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    place: integer('place').notNull(),
    candidate: text('candidate').notNull(),
    measure: text('measure').notNull(),
    verdict: text('verdict').$type<Verdict>().notNull(),
    unit: text('unit'),
    estimate: number('estimate'),
    low: number('low'),
    high: number('high'),
    smallerThanMatters: boolean('smaller_than_matters').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    index('verdict_projections_verdict').on(t.shopId, t.verdict, t.jobId),
    foreignKey({
      name: 'verdict_projections_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** Peak wheel power of a job's baseline under one correction and averaging; null where it was not reached. */
export const baselinePeaks = pgTable(
  'baseline_peaks',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    correction: text('correction').notNull(),
    averagingWidthRpm: number('averaging_width_rpm').notNull(),
    jobVersion: integer('job_version').notNull(),
    engineVersion: integer('engine_version').notNull(),
    peakW: number('peak_w'),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.correction, t.averagingWidthRpm] }),
    foreignKey({
      name: 'baseline_peaks_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/**
 * What stands for the samples of a pull: sums from which any averaging, correction and band follow, with what was noticed (core,
 * frameBytes). Made when a pull is stored, made anew when the rollers, the car's ratio or the way of preparing change.
 */
export const pullMoments = pgTable(
  'pull_moments',
  {
    shopId: shopId(),
    pullId: uuid('pull_id').primaryKey(),
    frame: bytea('frame').notNull(),
    /** Over all channels of the pull. */
    samplesSha256: text('samples_sha256').notNull(),
  },
  (t) => [
    foreignKey({
      name: 'pull_moments_pull_fk',
      columns: [t.shopId, t.pullId],
      foreignColumns: [pulls.shopId, pulls.id],
    }).onDelete('cascade'),
  ],
);
