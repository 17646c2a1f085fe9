import { sql } from 'drizzle-orm';
import {
  boolean,
  foreignKey,
  index,
  integer,
  smallint,
  pgTable,
  text,
  unique,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core';
import { isBayPrior } from '@prandel/core';
import { checkedJson } from '../checkedJson.ts';
import { isNumberTable, isPackageExtras } from '../shapes.ts';
import { bayCalibrations } from './bays.ts';
import { id, instant, number, shopId } from './columns.ts';
import { ASPIRATIONS, customers, DRIVEN_WHEELS, methodVersions, oneOf, TRANSMISSIONS, vehicles } from './records.ts';

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
    /** Settings of the bay by which the engine's model differs from the usual one. */
    verdictConstants: checkedJson('verdict_constants', isNumberTable).notNull().default({}),
    /** What the bay had shown of itself when the job was put on it. */
    bayPrior: checkedJson('bay_prior', isBayPrior),
    /** What costs are reckoned with, where a package said it; null: as the shop does. */
    currency: text('currency'),
    hourlyRate: number('hourly_rate'),
    /** Unknown members of an imported package. */
    extras: checkedJson('extras', isPackageExtras),
    /** How many pulls the job has and when the last one began; kept by a trigger, for lists. */
    pullCount: integer('pull_count').notNull().default(0),
    lastPullAt: instant('last_pull_at'),
    /** Place of the job's best known verdict in the order of lists (`verdictOrderOf`); kept with the verdicts that lists show. */
    verdictOrder: smallint('verdict_order').notNull().default(6),
    version: integer('version').notNull().default(1),
    updatedAt: instant('updated_at').notNull().defaultNow(),
    /** Since when nothing of the job can be changed; null: it is open. */
    sealedAt: instant('sealed_at'),
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
    index('jobs_verdict')
      .on(t.shopId, t.verdictOrder, t.id)
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
