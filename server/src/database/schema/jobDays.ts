import {
  bigint,
  boolean,
  foreignKey,
  index,
  integer,
  pgTable,
  primaryKey,
  text,
  unique,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core';
import {
  COMPLAINTS,
  LOOK_RESULTS,
  PLAN_SHAPES,
  type AbortLimit,
  type Complaint,
  type PlanShape,
  type SearchLook,
} from '@prandel/core';
import { checkedJson } from '../checkedJson.ts';
import { isMembers } from '../shapes.ts';
import { id, number, shopId } from './columns.ts';
import { jobs } from './jobs.ts';
import { modelCards, modelCardVersions, oneOf } from './records.ts';

const jobId = () => uuid('job_id').notNull();

/** The day in the bay: who brought the car, the claim, the card it is run by, the plan. */
export const jobDays = pgTable(
  'job_days',
  {
    shopId: shopId(),
    jobId: uuid('job_id').primaryKey(),
    /** As it is printed; the customer's record is the job's. */
    customer: text('customer'),
    claim: text('claim'),
    cannotBeUndone: text('cannot_be_undone'),
    /** Shown and printed beside power; null: those that the question is asked of. */
    channels: text('channels').array(),
    cardId: uuid('card_id'),
    cardVersionId: uuid('card_version_id').notNull(),
    shape: text('shape').$type<PlanShape>().notNull(),
    startAt: text('start_at'),
    minutesPerPull: number('minutes_per_pull').notNull(),
    fittingMinutes: number('fitting_minutes').notNull(),
    openFromMin: number('open_from_min').notNull(),
    openUntilMin: number('open_until_min').notNull(),
    /** Engine speeds at which values are kept and printed, rpm. */
    readAtRpm: number('read_at_rpm').array(),
    forecastLowC: number('forecast_low_c'),
    forecastHighC: number('forecast_high_c'),
    order: text('setup_order').$type<'fixed' | 'randomised'>().notNull(),
    drawnSeed: bigint('drawn_seed', { mode: 'number' }),
    drawnCandidates: text('drawn_candidates').array(),
    extendedAt: text('extended_at'),
    extendedDeclared: boolean('extended_declared'),
    /** Unknown members of an imported package. */
    rest: checkedJson('rest', isMembers).notNull().default({}),
  },
  (t) => [
    index('job_days_card').on(t.shopId, t.cardId),
    oneOf('job_days_shape', t.shape, PLAN_SHAPES),
    oneOf('job_days_order', t.order, ['fixed', 'randomised']),
    foreignKey({
      name: 'job_days_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
    foreignKey({
      name: 'job_days_card_fk',
      columns: [t.shopId, t.cardId],
      foreignColumns: [modelCards.shopId, modelCards.id],
    }),
    foreignKey({
      name: 'job_days_card_version_fk',
      columns: [t.shopId, t.cardVersionId],
      foreignColumns: [modelCardVersions.shopId, modelCardVersions.id],
    }),
  ],
);

/** Minutes from one setup to another on the car, where somebody said so; the hours of the parts stand for the rest. */
export const fittingTimes = pgTable(
  'fitting_times',
  {
    shopId: shopId(),
    jobId: jobId(),
    fromKey: text('from_key').notNull(),
    toKey: text('to_key').notNull(),
    minutes: number('minutes').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.fromKey, t.toKey] }),
    foreignKey({
      name: 'fitting_times_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** What was recorded of the car when it came in. */
export const intakeNotes = pgTable(
  'intake_notes',
  {
    shopId: shopId(),
    jobId: jobId(),
    place: integer('place').notNull(),
    subject: text('subject').notNull(),
    value: text('value').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.subject] }),
    foreignKey({
      name: 'intake_notes_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

export const abortLimits = pgTable(
  'abort_limits',
  {
    shopId: shopId(),
    jobId: jobId(),
    place: integer('place').notNull(),
    channel: text('channel').notNull(),
    warn: number('warn'),
    stop: number('stop').notNull(),
    side: text('side').$type<AbortLimit['side']>().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    oneOf('abort_limits_side', t.side, ['above', 'below']),
    foreignKey({
      name: 'abort_limits_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** One fitting: its clock, who, and everything that was touched. */
export const fittings = pgTable(
  'fittings',
  {
    id: id(),
    shopId: shopId(),
    jobId: jobId(),
    place: integer('place').notNull(),
    setupKey: text('setup_key').notNull(),
    who: text('who').notNull(),
    startedAt: text('started_at').notNull(),
    stoppedAt: text('stopped_at'),
    changed: text('changed').notNull(),
    disturbed: text('disturbed').notNull(),
    parts: text('parts').notNull(),
    cost: number('cost'),
    notes: text('notes').notNull(),
  },
  (t) => [
    unique('fittings_shop_id').on(t.shopId, t.id),
    uniqueIndex('fittings_place').on(t.jobId, t.place),
    foreignKey({
      name: 'fittings_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

export const fittingPhotos = pgTable(
  'fitting_photos',
  {
    shopId: shopId(),
    fittingId: uuid('fitting_id').notNull(),
    place: integer('place').notNull(),
    path: text('path').notNull(),
    name: text('name').notNull(),
    sha256: text('sha256').notNull(),
    addedAt: text('added_at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.fittingId, t.place] }),
    foreignKey({
      name: 'fitting_photos_fitting_fk',
      columns: [t.shopId, t.fittingId],
      foreignColumns: [fittings.shopId, fittings.id],
    }).onDelete('cascade'),
  ],
);

/** A search for what is wrong with the car of a job. */
export const faultSearches = pgTable(
  'fault_searches',
  {
    shopId: shopId(),
    jobId: jobId(),
    place: integer('place').notNull(),
    complaint: text('complaint').$type<Complaint>().notNull(),
    words: text('words').notNull(),
    budgetMinutes: number('budget_minutes').notNull(),
    openedAt: text('opened_at').notNull(),
    openedBy: text('opened_by').notNull(),
    closedAt: text('closed_at'),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    index('fault_searches_complaint').on(t.shopId, t.complaint),
    oneOf('fault_searches_complaint_known', t.complaint, COMPLAINTS),
    foreignKey({
      name: 'fault_searches_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** One look at a suspect. */
export const searchLooks = pgTable(
  'search_looks',
  {
    shopId: shopId(),
    jobId: jobId(),
    search: integer('search').notNull(),
    place: integer('place').notNull(),
    suspect: text('suspect').notNull(),
    result: text('result').$type<SearchLook['result']>().notNull(),
    minutes: number('minutes'),
    /** The pull that showed it; null: by inspection. */
    pull: text('pull'),
    who: text('who').notNull(),
    at: text('at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.search, t.place] }),
    oneOf('search_looks_result', t.result, LOOK_RESULTS),
    foreignKey({
      name: 'search_looks_search_fk',
      columns: [t.jobId, t.search],
      foreignColumns: [faultSearches.jobId, faultSearches.place],
    }).onDelete('cascade'),
    foreignKey({
      name: 'search_looks_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

export const weatherReadings = pgTable(
  'weather_readings',
  {
    shopId: shopId(),
    jobId: jobId(),
    place: integer('place').notNull(),
    at: text('at').notNull(),
    pressureHpa: number('pressure_hpa'),
    airC: number('air_c'),
    relativeHumidity: number('relative_humidity'),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    foreignKey({
      name: 'weather_readings_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);
