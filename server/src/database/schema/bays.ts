import { sql } from 'drizzle-orm';
import {
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
import type { RegisterMap } from '@prandel/formats';
import type { InstrumentKind } from '../shapes.ts';
import { id, instant, number, shopId } from './columns.ts';
import { BAY_KINDS, oneOf } from './records.ts';

/** A pair of rollers under the shop's roof. Its name may change; its history stays. */
export const bays = pgTable(
  'bays',
  {
    id: id(),
    shopId: shopId(),
    label: text('label').notNull(),
    /** The calibration in force. */
    calibrationId: uuid('calibration_id').notNull(),
    /** Where the auxiliary channels lie in their device. */
    registers: jsonb('registers').$type<RegisterMap>().notNull(),
    version: integer('version').notNull().default(1),
    /** Deleted by a person; can be brought back for thirty days. */
    deletedAt: instant('deleted_at'),
  },
  (t) => [
    unique('bays_shop_id').on(t.shopId, t.id),
    uniqueIndex('bays_label')
      .on(t.shopId, t.label)
      .where(sql`deleted_at IS NULL`),
  ],
);

/** One calibration of a bay: what its rollers are and weigh, from when on. Immutable; a correction is another one. */
export const bayCalibrations = pgTable(
  'bay_calibrations',
  {
    id: id(),
    shopId: shopId(),
    /** Null for another shop's rollers, which came with a package. */
    bayId: uuid('bay_id'),
    /** What the bay was called then. */
    bayLabel: text('bay_label').notNull(),
    kind: text('kind').$type<(typeof BAY_KINDS)[number]>(),
    /** The epoch, as the shop names it: "2026-09". */
    since: text('since'),
    rollerInertiaKgM2: number('roller_inertia_kg_m2'),
    /** Loss torque of the empty rollers c0 + c1·ω + c2·ω², N·m; all three or none. */
    lossC0Nm: number('loss_c0_nm'),
    lossC1NmS: number('loss_c1_nm_s'),
    lossC2NmS2: number('loss_c2_nm_s2'),
    readoutScale: number('readout_scale').notNull(),
    elevationM: number('elevation_m'),
    digest: text('digest').notNull(),
    createdAt: instant('created_at').notNull().defaultNow(),
  },
  (t) => [
    unique('bay_calibrations_shop_id').on(t.shopId, t.id),
    unique('bay_calibrations_digest').on(t.shopId, t.digest),
    index('bay_calibrations_bay').on(t.shopId, t.bayId, t.since),
    oneOf('bay_calibrations_kind', t.kind, BAY_KINDS),
    foreignKey({
      name: 'bay_calibrations_bay_fk',
      columns: [t.shopId, t.bayId],
      foreignColumns: [bays.shopId, bays.id],
    }),
  ],
);

/** Where an instrument of a bay is reached. */
export const bayInstruments = pgTable(
  'bay_instruments',
  {
    shopId: shopId(),
    bayId: uuid('bay_id').notNull(),
    kind: text('kind').$type<InstrumentKind>().notNull(),
    host: text('host').notNull(),
    port: integer('port').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.bayId, t.kind] }),
    foreignKey({
      name: 'bay_instruments_bay_fk',
      columns: [t.shopId, t.bayId],
      foreignColumns: [bays.shopId, bays.id],
    }).onDelete('cascade'),
  ],
);
