import { customType, foreignKey, index, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { shopId } from './columns.ts';
import { jobs } from './jobs.ts';

// Words by which jobs and records are found, kept by triggers. Prefixes are ranges of the index: under row-level security
// pattern matching cannot use one.

/** In the order of its bytes, so that what begins alike lies together. */
const word = customType<{ data: string }>({ dataType: () => 'text COLLATE "C"' });

/** Words of a job: number, title, car, registration, customer, model, question, setups, parts. */
export const jobWords = pgTable(
  'job_words',
  {
    shopId: shopId(),
    word: word('word').notNull(),
    jobId: uuid('job_id').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.shopId, t.word, t.jobId] }),
    index('job_words_job').on(t.jobId, t.word),
    foreignKey({
      name: 'job_words_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** Words of a record: its name, a part's number, a car's registration. */
export const recordWords = pgTable(
  'record_words',
  {
    shopId: shopId(),
    kind: text('kind').notNull(),
    word: word('word').notNull(),
    recordId: uuid('record_id').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.shopId, t.kind, t.word, t.recordId] }),
    index('record_words_record').on(t.recordId, t.word),
  ],
);
