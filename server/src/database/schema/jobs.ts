import { sql } from 'drizzle-orm';
import {
  bigint,
  boolean,
  foreignKey,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  unique,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core';
import type { AbortLimit, Measure, PlanShape, StateField } from '@prandel/core';
import type { PackageExtrasRecord } from '../shapes.ts';
import { bayCalibrations } from './bays.ts';
import { id, instant, number, shopId } from './columns.ts';
import {
  ASPIRATIONS,
  customers,
  DRIVEN_WHEELS,
  methodVersions,
  modelCards,
  modelCardVersions,
  oneOf,
  parts,
  TRANSMISSIONS,
  vehicles,
} from './records.ts';

/** One vehicle, one question, one or more days. Facts about the car are those of its days; the car itself is `vehicleId`. */
export const jobs = pgTable(
  'jobs',
  {
    id: id(),
    shopId: shopId(),
    number: text('number').notNull(),
    title: text('title').notNull(),
    openedAt: instant('opened_at'),
    /** As a package wrote it, where that is not how this program writes instants. */
    openedAtText: text('opened_at_text'),
    timeZone: text('time_zone'),
    customerId: uuid('customer_id'),
    vehicleId: uuid('vehicle_id'),
    calibrationId: uuid('calibration_id').notNull(),
    methodVersionId: uuid('method_version_id').notNull(),
    vehicleLabel: text('vehicle_label').notNull(),
    drivenWheels: text('driven_wheels').$type<(typeof DRIVEN_WHEELS)[number]>(),
    aspiration: text('aspiration').$type<(typeof ASPIRATIONS)[number]>(),
    transmission: text('transmission').$type<(typeof TRANSMISSIONS)[number]>(),
    massKg: number('mass_kg'),
    engineToRollerRatio: number('engine_to_roller_ratio'),
    heatSensitive: boolean('heat_sensitive'),
    /** What the bay had learned of itself when the job was put on it. */
    verdictConstants: jsonb('verdict_constants').$type<Record<string, number>>().notNull().default({}),
    /** Unknown members of an imported package. */
    extras: jsonb('extras').$type<PackageExtrasRecord | null>(),
    /** How many pulls the job has and when the last one began; kept by a trigger, for lists. */
    pullCount: integer('pull_count').notNull().default(0),
    lastPullAt: instant('last_pull_at'),
    version: integer('version').notNull().default(1),
    updatedAt: instant('updated_at').notNull().defaultNow(),
    /** Deleted by a person; can be brought back for thirty days. */
    deletedAt: instant('deleted_at'),
  },
  (t) => [
    unique('jobs_shop_id').on(t.shopId, t.id),
    uniqueIndex('jobs_number').on(t.shopId, t.number),
    index('jobs_newest')
      .on(t.shopId, t.updatedAt, t.id)
      .where(sql`deleted_at IS NULL`),
    index('jobs_opened')
      .on(t.shopId, sql`(CASE WHEN opened_at IS NULL THEN '-infinity'::timestamptz ELSE opened_at END)`, t.id)
      .where(sql`deleted_at IS NULL`),
    index('jobs_title')
      .on(t.shopId, t.title, t.id)
      .where(sql`deleted_at IS NULL`),
    index('jobs_vehicle_label')
      .on(t.shopId, t.vehicleLabel, t.id)
      .where(sql`deleted_at IS NULL`),
    index('jobs_vehicle').on(t.shopId, t.vehicleId),
    index('jobs_customer').on(t.shopId, t.customerId),
    index('jobs_calibration').on(t.shopId, t.calibrationId),
    index('jobs_deleted')
      .on(t.shopId, t.deletedAt)
      .where(sql`deleted_at IS NOT NULL`),
    oneOf('jobs_driven_wheels', t.drivenWheels, DRIVEN_WHEELS),
    oneOf('jobs_aspiration', t.aspiration, ASPIRATIONS),
    oneOf('jobs_transmission', t.transmission, TRANSMISSIONS),
    foreignKey({
      name: 'jobs_customer_fk',
      columns: [t.shopId, t.customerId],
      foreignColumns: [customers.shopId, customers.id],
    }),
    foreignKey({
      name: 'jobs_vehicle_fk',
      columns: [t.shopId, t.vehicleId],
      foreignColumns: [vehicles.shopId, vehicles.id],
    }),
    foreignKey({
      name: 'jobs_calibration_fk',
      columns: [t.shopId, t.calibrationId],
      foreignColumns: [bayCalibrations.shopId, bayCalibrations.id],
    }),
    foreignKey({
      name: 'jobs_method_fk',
      columns: [t.shopId, t.methodVersionId],
      foreignColumns: [methodVersions.shopId, methodVersions.id],
    }),
  ],
);

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
    measure: text('measure').$type<Measure>().notNull(),
    windowFromRpm: number('window_from_rpm'),
    windowToRpm: number('window_to_rpm'),
    meaningfulGainPercent: number('meaningful_gain_percent').notNull(),
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

export const setups = pgTable(
  'setups',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    place: integer('place').notNull(),
    label: text('label').notNull(),
    parentKey: text('parent_key'),
    /** The setup that this return check repeats. */
    returnsToKey: text('returns_to_key'),
    remounted: boolean('remounted').notNull(),
    closedCourseOnly: boolean('closed_course_only').notNull(),
    partCost: number('part_cost'),
    labourHours: number('labour_hours'),
    currency: text('currency'),
    supplier: text('supplier'),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.setupKey] }),
    foreignKey({
      name: 'setups_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

export const CHANGE_KINDS = ['part-fitted', 'part-removed', 'tune', 'fuel', 'other'] as const;

/** What a setup changes against its parent, item by item, in the words of whoever wrote it; a fitted part is known by its id. */
export const setupChanges = pgTable(
  'setup_changes',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    place: integer('place').notNull(),
    kind: text('kind').$type<(typeof CHANGE_KINDS)[number]>().notNull(),
    partId: uuid('part_id'),
    words: text('words').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.setupKey, t.place] }),
    index('setup_changes_part').on(t.shopId, t.partId),
    oneOf('setup_changes_kind', t.kind, CHANGE_KINDS),
    foreignKey({
      name: 'setup_changes_setup_fk',
      columns: [t.jobId, t.setupKey],
      foreignColumns: [setups.jobId, setups.setupKey],
    }).onDelete('cascade'),
    foreignKey({
      name: 'setup_changes_part_fk',
      columns: [t.shopId, t.partId],
      foreignColumns: [parts.shopId, parts.id],
    }),
  ],
);

/** The recorded state of a setup, a row a field that somebody recorded. */
export const setupState = pgTable(
  'setup_state',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    place: integer('place').notNull(),
    field: text('field').$type<StateField>().notNull(),
    value: text('value').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.setupKey, t.field] }),
    foreignKey({
      name: 'setup_state_setup_fk',
      columns: [t.jobId, t.setupKey],
      foreignColumns: [setups.jobId, setups.setupKey],
    }).onDelete('cascade'),
  ],
);

/** Rounds of which more is known than their pulls tell. */
export const rounds = pgTable(
  'rounds',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    n: integer('n').notNull(),
    closedEarly: text('closed_early').notNull(),
    place: integer('place').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.setupKey, t.n] }),
    foreignKey({
      name: 'rounds_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

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
    cardId: uuid('card_id'),
    cardVersionId: uuid('card_version_id').notNull(),
    shape: text('shape').$type<PlanShape>().notNull(),
    startAt: text('start_at'),
    minutesPerPull: number('minutes_per_pull').notNull(),
    fittingMinutes: number('fitting_minutes').notNull(),
    openFromMin: number('open_from_min').notNull(),
    openUntilMin: number('open_until_min').notNull(),
    forecastLowC: number('forecast_low_c'),
    forecastHighC: number('forecast_high_c'),
    order: text('setup_order').$type<'fixed' | 'randomised'>().notNull(),
    drawnSeed: bigint('drawn_seed', { mode: 'number' }),
    drawnCandidates: text('drawn_candidates').array(),
    extendedAt: text('extended_at'),
    extendedDeclared: boolean('extended_declared'),
    /** Unknown members of an imported package. */
    rest: jsonb('rest').$type<Record<string, unknown>>().notNull().default({}),
  },
  (t) => [
    index('job_days_card').on(t.shopId, t.cardId),
    oneOf('job_days_shape', t.shape, ['return', 'middle', 'twice', 'hold', 'plain']),
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

/** What was looked at because the baseline read low. */
export const suspectsLooked = pgTable(
  'suspects_looked',
  {
    shopId: shopId(),
    jobId: jobId(),
    place: integer('place').notNull(),
    suspect: text('suspect').notNull(),
    result: text('result').$type<'fine' | 'found'>().notNull(),
    who: text('who').notNull(),
    at: text('at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    oneOf('suspects_looked_result', t.result, ['fine', 'found']),
    foreignKey({
      name: 'suspects_looked_job_fk',
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
