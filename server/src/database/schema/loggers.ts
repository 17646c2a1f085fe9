import { foreignKey, integer, pgTable, primaryKey, text, unique, uuid } from 'drizzle-orm/pg-core';
import { HAND_MOMENTS, type HandMoment, type LaidBy } from '@prandel/core';
import { id, instant, number, shopId } from './columns.ts';
import { files } from './files.ts';
import { jobs } from './jobs.ts';
import { oneOf } from './records.ts';

/** A logger's record that was laid beside the pulls of a job; its channels go with it. */
export const loggers = pgTable(
  'loggers',
  {
    id: id(),
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    fileId: uuid('file_id').notNull(),
    name: text('name').notNull(),
    laidBy: text('laid_by').$type<LaidBy>().notNull(),
    /** Second of the logger's clock at which the first pull that it covers begins, and how much faster it runs, ppm. */
    offsetS: number('offset_s').notNull(),
    ratePpm: number('rate_ppm'),
    /** Root mean square of the speed that is left over, in the unit of what it was laid by; null where a person placed it. */
    residual: number('residual'),
    correlation: number('correlation'),
    addedAt: instant('added_at').notNull().defaultNow(),
  },
  (t) => [
    unique('loggers_shop_id').on(t.shopId, t.id),
    oneOf('loggers_laid_by', t.laidBy, ['engine', 'roller', 'road', 'throttle', 'hand']),
    foreignKey({
      name: 'loggers_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
    foreignKey({ name: 'loggers_file_fk', columns: [t.shopId, t.fileId], foreignColumns: [files.shopId, files.id] }),
  ],
);

/** Gauges that somebody read during a pull. */
export const handReadings = pgTable(
  'hand_readings',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    place: integer('place').notNull(),
    pullKey: text('pull_key').notNull(),
    channel: text('channel').notNull(),
    moment: text('moment').$type<HandMoment>().notNull(),
    value: number('value').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    oneOf('hand_readings_moment', t.moment, HAND_MOMENTS),
    foreignKey({
      name: 'hand_readings_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);
