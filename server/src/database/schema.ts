import type {
  Bay,
  BayInstruments,
  BayRun,
  DayPapers,
  Method,
  PackageExtrasRecord,
  PullPaper,
  Question,
  RecordKind,
  RecordingPaper,
  Setup,
  Vehicle,
} from './papers.ts';
import { sql } from 'drizzle-orm';
import {
  bigint,
  customType,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  uniqueIndex,
  uuid,
  varchar,
  index,
} from 'drizzle-orm/pg-core';

const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
const id = () => uuid('id').primaryKey().defaultRandom();
const shopId = () => uuid('shop_id').notNull();
const moment = (name: string) => timestamp(name, { withTimezone: true });

/** One row: which shop was set up first. Tells a first start from a later one before anybody has signed in. */
export const installation = pgTable(
  'installation',
  {
    shopId: uuid('shop_id').primaryKey(),
    startedAt: moment('started_at').notNull().defaultNow(),
  },
  // Two first starts at once must not make two shops.
  () => [uniqueIndex('installation_only_one').on(sql`(true)`)],
);

export const shops = pgTable('shops', { shopId: uuid('shop_id').primaryKey(), name: text('name').notNull() });

export const people = pgTable(
  'people',
  {
    id: id(),
    shopId: shopId(),
    name: text('name').notNull(),
    email: text('email').notNull(),
    passwordHash: text('password_hash').notNull(),
    units: jsonb('units').$type<Record<string, string>>().notNull().default({}),
  },
  (t) => [uniqueIndex('people_email').on(t.email)],
);

export const sessions = pgTable(
  'sessions',
  {
    tokenHash: text('token_hash').primaryKey(),
    /** Names the session where its token must not appear. */
    id: uuid('id').notNull().defaultRandom(),
    shopId: shopId(),
    personId: uuid('person_id').notNull(),
    createdAt: moment('created_at').notNull().defaultNow(),
    lastSeenAt: moment('last_seen_at').notNull().defaultNow(),
    /** The session ends then, however busy it is. */
    expiresAt: moment('expires_at').notNull(),
    userAgent: text('user_agent').notNull().default(''),
    address: text('address').notNull().default(''),
  },
  (t) => [index('sessions_person').on(t.personId)],
);

/** Tries to sign in, counted by account and by address; kept by the rate limiter, so that every server process knows them. */
export const signInTries = pgTable('sign_in_tries', {
  key: varchar('key', { length: 255 }).primaryKey(),
  points: integer('points').notNull().default(0),
  expire: bigint('expire', { mode: 'number' }),
});

export const jobs = pgTable(
  'jobs',
  {
    id: id(),
    shopId: shopId(),
    number: text('number').notNull(),
    title: text('title').notNull(),
    openedAt: text('opened_at'),
    timeZone: text('time_zone'),
    vehicle: jsonb('vehicle').$type<Vehicle>().notNull(),
    bay: jsonb('bay').$type<Bay>().notNull(),
    question: jsonb('question').$type<Question>().notNull(),
    method: jsonb('method').$type<Method>().notNull(),
    weather: jsonb('weather').$type<unknown[]>().notNull().default([]),
    extras: jsonb('extras').$type<PackageExtrasRecord | null>(),
    day: jsonb('day').$type<DayPapers | null>(),
    version: integer('version').notNull().default(1),
    updatedAt: moment('updated_at').notNull().defaultNow(),
    /** Deleted by a person; can be brought back for thirty days. */
    deletedAt: moment('deleted_at'),
  },
  (t) => [
    index('jobs_newest').on(t.shopId, t.updatedAt, t.id),
    index('jobs_deleted')
      .on(t.shopId, t.deletedAt)
      .where(sql`deleted_at IS NOT NULL`),
  ],
);

export const setups = pgTable(
  'setups',
  {
    shopId: shopId(),
    jobId: uuid('job_id')
      .notNull()
      .references(() => jobs.id),
    setupKey: text('setup_key').notNull(),
    place: integer('place').notNull(),
    paper: jsonb('paper').$type<Setup>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.jobId, t.setupKey] })],
);

export const pulls = pgTable(
  'pulls',
  {
    id: id(),
    shopId: shopId(),
    jobId: uuid('job_id')
      .notNull()
      .references(() => jobs.id),
    pullKey: text('pull_key').notNull(),
    setupKey: text('setup_key').notNull(),
    place: integer('place').notNull(),
    status: text('status').$type<'settle' | 'counted' | 'set-aside'>().notNull(),
    reason: text('reason'),
    startedAt: text('started_at'),
    paper: jsonb('paper').$type<PullPaper>().notNull(),
    fileId: uuid('file_id'),
    /** SHA-256 of the samples; null for a pull without any, and for one that an older version stored. */
    samplesSha256: text('samples_sha256'),
  },
  (t) => [uniqueIndex('pulls_key').on(t.jobId, t.pullKey), index('pulls_file').on(t.fileId)],
);

/** One row per channel of a pull; samples are little-endian float64, NaN where missing. */
export const channels = pgTable(
  'channels',
  {
    shopId: shopId(),
    pullId: uuid('pull_id')
      .notNull()
      .references(() => pulls.id),
    place: integer('place').notNull(),
    name: text('name').notNull(),
    samples: bytea('samples').notNull(),
  },
  (t) => [primaryKey({ columns: [t.pullId, t.place] })],
);

/** Original bytes, unchanged: pull files, and package resources that this version does not know. */
export const files = pgTable(
  'files',
  {
    id: id(),
    shopId: shopId(),
    jobId: uuid('job_id')
      .notNull()
      .references(() => jobs.id),
    kind: text('kind').$type<'staged' | 'pull-file' | 'resource'>().notNull(),
    name: text('name').notNull(),
    sha256: text('sha256').notNull(),
    size: bigint('size', { mode: 'number' }).notNull(),
    addedAt: moment('added_at').notNull().defaultNow(),
  },
  (t) => [index('files_job').on(t.jobId, t.kind)],
);

/** The bytes of a file in pieces, so that a large one never stands in memory whole. */
export const fileChunks = pgTable(
  'file_chunks',
  {
    shopId: shopId(),
    fileId: uuid('file_id')
      .notNull()
      .references(() => files.id, { onDelete: 'cascade' }),
    n: integer('n').notNull(),
    content: bytea('content').notNull(),
  },
  (t) => [primaryKey({ columns: [t.fileId, t.n] })],
);

export const mappings = pgTable(
  'mappings',
  {
    shopId: shopId(),
    signature: text('signature').notNull(),
    columns: jsonb('columns').$type<{ role: string; unit: string | null }[]>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.shopId, t.signature] })],
);

/** The evidence log: append-only, each row carrying the hash of the one before. */
export const evidence = pgTable(
  'evidence',
  {
    shopId: shopId(),
    jobId: uuid('job_id')
      .notNull()
      .references(() => jobs.id),
    n: integer('n').notNull(),
    /** ISO 8601 with milliseconds, as it was hashed. */
    at: text('at').notNull(),
    person: text('person').notNull(),
    kind: text('kind').notNull(),
    what: text('what').notNull(),
    detail: text('detail').notNull(),
    hash: text('hash').notNull(),
  },
  (t) => [primaryKey({ columns: [t.jobId, t.n] })],
);

/** Customers, vehicles, parts, model cards, house methods: reused between jobs, copied into them. */
export const records = pgTable(
  'records',
  {
    id: id(),
    shopId: shopId(),
    kind: text('kind').$type<RecordKind>().notNull(),
    label: text('label').notNull(),
    paper: jsonb('paper').$type<Record<string, unknown>>().notNull(),
    version: integer('version').notNull().default(1),
  },
  (t) => [uniqueIndex('records_label').on(t.shopId, t.kind, t.label)],
);

export const bays = pgTable(
  'bays',
  {
    id: id(),
    shopId: shopId(),
    label: text('label').notNull(),
    paper: jsonb('paper').$type<Bay>().notNull(),
    instruments: jsonb('instruments').$type<BayInstruments>().notNull(),
    version: integer('version').notNull().default(1),
    /** Deleted by a person; can be brought back for thirty days. */
    deletedAt: moment('deleted_at'),
  },
  (t) => [
    uniqueIndex('bays_label')
      .on(t.shopId, t.label)
      .where(sql`deleted_at IS NULL`),
  ],
);

/** What goes on in a bay right now: one job at a time. */
export const bayRuns = pgTable('bay_runs', {
  bayId: uuid('bay_id')
    .primaryKey()
    .references(() => bays.id),
  shopId: shopId(),
  jobId: uuid('job_id')
    .notNull()
    .references(() => jobs.id),
  run: jsonb('run').$type<BayRun>().notNull(),
});

/** A pull while it is being recorded, or until a job claims it; closed ones have become rows of `pulls`. */
export const recordings = pgTable(
  'recordings',
  {
    id: id(),
    shopId: shopId(),
    bayId: uuid('bay_id')
      .notNull()
      .references(() => bays.id),
    /** Null while nobody has said whose pull it is. */
    jobId: uuid('job_id').references(() => jobs.id),
    /** The key that is kept for the pull in its job; null without a job. */
    pullKey: text('pull_key'),
    paper: jsonb('paper').$type<RecordingPaper>().notNull(),
    /** Set when the recording could not become a pull: it waits with its samples until a person decides. */
    quarantinedAt: moment('quarantined_at'),
    quarantineReason: text('quarantine_reason'),
  },
  (t) => [uniqueIndex('recordings_pull_key').on(t.jobId, t.pullKey), index('recordings_bay').on(t.bayId)],
);

/** Samples as they arrived: rows of float64, one column per channel of the recording, written before any screen sees them. */
export const recordingChunks = pgTable(
  'recording_chunks',
  {
    shopId: shopId(),
    recordingId: uuid('recording_id')
      .notNull()
      .references(() => recordings.id, { onDelete: 'cascade' }),
    n: integer('n').notNull(),
    samples: bytea('samples').notNull(),
  },
  (t) => [primaryKey({ columns: [t.recordingId, t.n] })],
);
