import { boolean, foreignKey, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import type { MeasureId } from '@prandel/core';
import { instant, number, shopId } from './columns.ts';
import { jobs } from './jobs.ts';
import { oneOf } from './records.ts';

const jobId = () => uuid('job_id').notNull();

/** The question, a row for every state it has had; the newest is in force. */
export const questionVersions = pgTable(
  'question_versions',
  {
    shopId: shopId(),
    jobId: jobId(),
    n: integer('n').notNull(),
    text: text('text').notNull(),
    baselineSetup: text('baseline_setup').notNull(),
    candidateSetups: text('candidate_setups').array().notNull(),
    windowFromRpm: number('window_from_rpm'),
    windowToRpm: number('window_to_rpm'),
    confidence: number('confidence').notNull(),
    partChangesIntakeTemperature: boolean('part_changes_intake_temperature').notNull(),
    extension: text('extension').$type<'declared' | 'undeclared'>(),
    since: instant('since').notNull().defaultNow(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.n] }),
    oneOf('question_versions_extension', t.extension, ['declared', 'undeclared']),
    foreignKey({
      name: 'question_versions_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** What a version of a question is asked of, in the order in which it was agreed. */
export const questionMeasures = pgTable(
  'question_measures',
  {
    shopId: shopId(),
    jobId: jobId(),
    n: integer('n').notNull(),
    place: integer('place').notNull(),
    measure: text('measure').$type<MeasureId>().notNull(),
    channel: text('channel'),
    rpm: number('rpm'),
    target: number('target'),
    fromKmH: number('from_km_h'),
    toKmH: number('to_km_h'),
    windowFromRpm: number('window_from_rpm'),
    windowToRpm: number('window_to_rpm'),
    meaningful: number('meaningful').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.n, t.place] }),
    foreignKey({
      name: 'question_measures_version_fk',
      columns: [t.jobId, t.n],
      foreignColumns: [questionVersions.jobId, questionVersions.n],
    }).onDelete('cascade'),
    foreignKey({
      name: 'question_measures_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** Why a frozen question was changed, and what changed. */
export const questionAmendments = pgTable(
  'question_amendments',
  {
    shopId: shopId(),
    jobId: jobId(),
    place: integer('place').notNull(),
    at: text('at').notNull(),
    who: text('who').notNull(),
    reason: text('reason').notNull(),
    what: text('what').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    foreignKey({
      name: 'question_amendments_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** Rounds that are planned, and those that an extension added to the plan. */
export const planSteps = pgTable(
  'plan_steps',
  {
    shopId: shopId(),
    jobId: jobId(),
    part: text('part').$type<'plan' | 'extension'>().notNull(),
    place: integer('place').notNull(),
    setupKey: text('setup_key').notNull(),
    settle: number('settle').notNull(),
    counted: number('counted').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.part, t.place] }),
    oneOf('plan_steps_part', t.part, ['plan', 'extension']),
    foreignKey({
      name: 'plan_steps_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);
