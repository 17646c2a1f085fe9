import { foreignKey, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { number, shopId } from './columns.ts';
import { jobs } from './jobs.ts';

/** Timed passes on the road, in the order in which they were driven. */
export const roadPasses = pgTable(
  'road_passes',
  {
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    place: integer('place').notNull(),
    setupKey: text('setup_key').notNull(),
    at: text('at'),
    direction: text('direction').notNull(),
    fromKmH: number('from_km_h').notNull(),
    toKmH: number('to_km_h').notNull(),
    seconds: number('seconds').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.place] }),
    foreignKey({
      name: 'road_passes_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** What the rollers' forecast needs of the car; no drag area: it is fitted to the baseline's passes. */
export const roadCars = pgTable(
  'road_cars',
  {
    shopId: shopId(),
    jobId: uuid('job_id').primaryKey(),
    massKg: number('mass_kg').notNull(),
    overallRatio: number('overall_ratio').notNull(),
    tyreRadiusM: number('tyre_radius_m').notNull(),
    dragAreaM2: number('drag_area_m2'),
    rolling: number('rolling').notNull(),
  },
  (t) => [
    foreignKey({
      name: 'road_cars_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);
