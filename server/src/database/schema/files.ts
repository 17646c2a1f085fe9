import { sql } from 'drizzle-orm';
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
  uuid,
} from 'drizzle-orm/pg-core';

import { checkedJson } from '../checkedJson.ts';
import { isMapping, isShapeAnswers } from '../shapes.ts';
import { bytea, id, instant, shopId } from './columns.ts';
import { jobs } from './jobs.ts';
import { accessTokens, people } from './people.ts';

/** What the transaction announced under this name, or null. */
const announced = (setting: string) => sql.raw(`nullif(current_setting('${setting}', true), '')::uuid`);

/** Original bytes, unchanged: pull files, and package resources that this version does not know. */
export const files = pgTable(
  'files',
  {
    id: id(),
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    kind: text('kind').$type<'staged' | 'pull-file' | 'resource' | 'sealed-package' | 'sealed-report'>().notNull(),
    name: text('name').notNull(),
    sha256: text('sha256').notNull(),
    size: bigint('size', { mode: 'number' }).notNull(),
    addedAt: instant('added_at').notNull().defaultNow(),
  },
  (t) => [
    unique('files_shop_id').on(t.shopId, t.id),
    index('files_job').on(t.jobId, t.kind),
    index('files_digest').on(t.shopId, t.sha256),
    foreignKey({ name: 'files_job_fk', columns: [t.shopId, t.jobId], foreignColumns: [jobs.shopId, jobs.id] }),
  ],
);

/** The bytes of a file in pieces, so that a large one never stands in memory whole. */
export const fileChunks = pgTable(
  'file_chunks',
  {
    shopId: shopId(),
    fileId: uuid('file_id').notNull(),
    n: integer('n').notNull(),
    content: bytea('content').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.fileId, t.n] }),
    foreignKey({
      name: 'file_chunks_file_fk',
      columns: [t.shopId, t.fileId],
      foreignColumns: [files.shopId, files.id],
    }).onDelete('cascade'),
  ],
);

/** What a person said of files with one header in one bay: what the columns are, and how the numbers stand. */
export const mappings = pgTable(
  'mappings',
  {
    shopId: shopId(),
    signature: text('signature').notNull(),
    /** Label of the bay; empty for jobs without one. */
    bay: text('bay').notNull().default(''),
    columns: checkedJson('columns', isMapping).notNull(),
    answers: checkedJson('answers', isShapeAnswers),
    /** Such files become pulls without being looked at when a watched folder brings them. */
    byItself: boolean('by_itself').notNull().default(false),
  },
  (t) => [primaryKey({ columns: [t.shopId, t.bay, t.signature] })],
);

/** The evidence log: append-only, each row carrying the hash of the one before. */
export const evidence = pgTable(
  'evidence',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    n: integer('n').notNull(),
    /** ISO 8601 with milliseconds, as it was hashed. */
    at: text('at').notNull(),
    person: text('person').notNull(),
    kind: text('kind').notNull(),
    what: text('what').notNull(),
    detail: text('detail').notNull(),
    hash: text('hash').notNull(),
    /** Whose session or token it was; the database takes it from the transaction. Null: the bay itself, or a package. */
    personId: uuid('person_id').default(announced('prandel.person')),
    tokenId: uuid('token_id').default(announced('prandel.access_token')),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.n] }),
    foreignKey({
      name: 'evidence_person_fk',
      columns: [t.shopId, t.personId],
      foreignColumns: [people.shopId, people.id],
    }),
    foreignKey({
      name: 'evidence_token_fk',
      columns: [t.shopId, t.tokenId],
      foreignColumns: [accessTokens.shopId, accessTokens.id],
    }),
    foreignKey({ name: 'evidence_job_fk', columns: [t.shopId, t.jobId], foreignColumns: [jobs.shopId, jobs.id] }),
  ],
);
