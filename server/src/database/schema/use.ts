import { foreignKey, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import type { CorrectionId } from '@prandel/core';
import { number, shopId } from './columns.ts';
import { jobs } from './jobs.ts';
import { vehicles } from './records.ts';

const gears = () => ({
  ratios: number('ratios').array().notNull(),
  finalDrive: number('final_drive').notNull(),
  circumferenceM: number('circumference_m').notNull(),
  limiterRpm: number('limiter_rpm').notNull(),
  shiftSeconds: number('shift_seconds').notNull(),
});

/** The gears of a car as its job has them. */
export const jobGears = pgTable(
  'job_gears',
  { shopId: shopId(), jobId: uuid('job_id').primaryKey(), ...gears() },
  (t) => [
    foreignKey({
      name: 'job_gears_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** The gears of a car on record; its next job begins with them. */
export const vehicleGears = pgTable(
  'vehicle_gears',
  { shopId: shopId(), vehicleId: uuid('vehicle_id').primaryKey(), ...gears() },
  (t) => [
    foreignKey({
      name: 'vehicle_gears_vehicle_fk',
      columns: [t.shopId, t.vehicleId],
      foreignColumns: [vehicles.shopId, vehicles.id],
    }).onDelete('cascade'),
  ],
);

/** How the car of a job is used: shares of the time at full load, a row a class of 500 rpm. */
export const useShares = pgTable(
  'use_shares',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    name: text('name').notNull(),
    fromRpm: integer('from_rpm').notNull(),
    share: number('share').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.fromRpm] }),
    foreignKey({
      name: 'use_shares_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** Mean curves of other jobs that are laid under this one's. */
export const referenceCurves = pgTable(
  'reference_curves',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    place: integer('place').notNull(),
    name: text('name').notNull(),
    at: text('at'),
    bay: text('bay').notNull(),
    correction: text('correction').$type<CorrectionId>(),
    first: integer('first').notNull(),
    values: number('values').array().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    foreignKey({
      name: 'reference_curves_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);
