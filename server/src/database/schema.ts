import type { Bay, Method, PackageExtrasRecord, PullPaper, Question, Setup, Vehicle } from './records.ts';
import {
  customType,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  uniqueIndex,
  uuid,
  index,
} from 'drizzle-orm/pg-core';

const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
const id = () => uuid('id').primaryKey().defaultRandom();
const shopId = () => uuid('shop_id').notNull();
const moment = (name: string) => timestamp(name, { withTimezone: true });

/** One row: which shop was set up first. Tells a first start from a later one before anybody has signed in. */
export const installation = pgTable('installation', {
  shopId: uuid('shop_id').primaryKey(),
  startedAt: moment('started_at').notNull().defaultNow(),
});

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

export const sessions = pgTable('sessions', {
  tokenHash: text('token_hash').primaryKey(),
  shopId: shopId(),
  personId: uuid('person_id').notNull(),
  expiresAt: moment('expires_at').notNull(),
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
    version: integer('version').notNull().default(1),
    updatedAt: moment('updated_at').notNull().defaultNow(),
  },
  (t) => [index('jobs_newest').on(t.shopId, t.updatedAt, t.id)],
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
  },
  (t) => [uniqueIndex('pulls_key').on(t.jobId, t.pullKey)],
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
    content: bytea('content').notNull(),
    addedAt: moment('added_at').notNull().defaultNow(),
  },
  (t) => [index('files_job').on(t.jobId, t.kind)],
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

/** What people did to a job, in order; nothing is rewritten. */
export const actions = pgTable(
  'actions',
  {
    id: id(),
    shopId: shopId(),
    jobId: uuid('job_id')
      .notNull()
      .references(() => jobs.id),
    at: moment('at').notNull().defaultNow(),
    person: text('person').notNull(),
    what: text('what').notNull(),
  },
  (t) => [index('actions_job').on(t.jobId, t.at)],
);
