import { boolean, foreignKey, index, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import type { Verdict } from '@prandel/core';
import { number, shopId } from './columns.ts';
import { jobs } from './jobs.ts';
import { parts } from './records.ts';

// Derived and disposable, as everything that is worked out by the queue.

/** What a job says of the parts that a step fitted: a row a setup and measure (core, partSteps). */
export const partResults = pgTable(
  'part_results',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    place: integer('place').notNull(),
    setupKey: text('setup_key').notNull(),
    againstKey: text('against_key').notNull(),
    /** One part and nothing else was changed. */
    alone: boolean('alone').notNull(),
    changes: text('changes').notNull(),
    measure: text('measure').notNull(),
    verdict: text('verdict').$type<Verdict>().notNull(),
    /** Log-percent, or the measure's unit. */
    estimate: number('estimate'),
    standardError: number('standard_error'),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    foreignKey({
      name: 'part_results_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** What all jobs together say of a part under a measure, as lists show it. */
export const partShelves = pgTable(
  'part_shelves',
  {
    shopId: shopId(),
    partId: uuid('part_id').notNull(),
    measure: text('measure').notNull(),
    jobIds: uuid('job_ids').array().notNull(),
    cars: integer('cars').notNull(),
    /** True per cent, or the measure's unit; null where no job has an estimate. */
    estimate: number('estimate'),
    low: number('low'),
    high: number('high'),
    nextLow: number('next_low'),
    nextHigh: number('next_high'),
    /** Standard deviation between cars, log-percent or the unit. */
    spread: number('spread'),
  },
  (t) => [
    primaryKey({ columns: [t.partId, t.measure] }),
    index('part_shelves_measure').on(t.shopId, t.measure),
    foreignKey({
      name: 'part_shelves_part_fk',
      columns: [t.shopId, t.partId],
      foreignColumns: [parts.shopId, parts.id],
    }).onDelete('cascade'),
  ],
);
