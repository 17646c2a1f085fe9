import { sql } from 'drizzle-orm';
import {
  boolean,
  check,
  foreignKey,
  index,
  integer,
  pgTable,
  text,
  unique,
  uniqueIndex,
  uuid,
  type AnyPgColumn,
} from 'drizzle-orm/pg-core';
import { checkedJson } from '../checkedJson.ts';
import { isMembers, isTextTable } from '../shapes.ts';
import { id, instant, number, shopId } from './columns.ts';

const version = () => integer('version').notNull().default(1);
const changedAt = () => instant('updated_at').notNull().defaultNow();

/** A column that holds one of these words, or nothing. */
export const oneOf = (name: string, column: AnyPgColumn, words: readonly string[]) =>
  check(name, sql`${column} IN (${sql.raw(words.map((w) => `'${w}'`).join(', '))})`);

export const DRIVEN_WHEELS = ['front', 'rear', 'all', 'motorcycle'] as const;
export const ASPIRATIONS = ['natural', 'turbo', 'supercharged'] as const;
export const TRANSMISSIONS = ['manual', 'automatic', 'cvt'] as const;
export const BAY_KINDS = ['inertia', 'braked', 'linked', 'split', 'hub'] as const;

export const customers = pgTable(
  'customers',
  {
    id: id(),
    shopId: shopId(),
    name: text('name').notNull(),
    contact: text('contact').notNull().default(''),
    notes: text('notes').notNull().default(''),
    version: version(),
    updatedAt: changedAt(),
  },
  (t) => [unique('customers_shop_id').on(t.shopId, t.id), index('customers_name').on(t.shopId, t.name, t.id)],
);

/** A model of car, which its cards and its cars share. */
export const vehicleModels = pgTable(
  'vehicle_models',
  {
    id: id(),
    shopId: shopId(),
    make: text('make').notNull().default(''),
    name: text('name').notNull(),
    engine: text('engine').notNull().default(''),
    gearbox: text('gearbox').notNull().default(''),
  },
  (t) => [unique('vehicle_models_shop_id').on(t.shopId, t.id), index('vehicle_models_name').on(t.shopId, t.name)],
);

/** How a model runs on rollers; each state of a card is an immutable version. */
export const modelCards = pgTable(
  'model_cards',
  {
    id: id(),
    shopId: shopId(),
    modelId: uuid('model_id'),
    label: text('label').notNull(),
    versionId: uuid('version_id').notNull(),
    version: version(),
    updatedAt: changedAt(),
  },
  (t) => [
    unique('model_cards_shop_id').on(t.shopId, t.id),
    uniqueIndex('model_cards_label').on(t.shopId, t.label),
    foreignKey({
      name: 'model_cards_model_fk',
      columns: [t.shopId, t.modelId],
      foreignColumns: [vehicleModels.shopId, vehicleModels.id],
    }),
    foreignKey({
      name: 'model_cards_version_fk',
      columns: [t.shopId, t.versionId],
      foreignColumns: [modelCardVersions.shopId, modelCardVersions.id],
    }),
  ],
);

/** One state of a model card; jobs point at the one they were run by. */
export const modelCardVersions = pgTable(
  'model_card_versions',
  {
    id: id(),
    shopId: shopId(),
    label: text('label').notNull(),
    gear: text('gear'),
    readsIntake: boolean('reads_intake').notNull(),
    readsCoolant: boolean('reads_coolant').notNull(),
    readsOil: boolean('reads_oil').notNull(),
    safeFromRpm: number('safe_from_rpm'),
    safeToRpm: number('safe_to_rpm'),
    settlePulls: number('settle_pulls'),
    notes: text('notes').notNull(),
    /** Peak wheel power of baselines that were seen before, W; null where nobody wrote any. */
    baselinesSeenW: number('baselines_seen_w').array(),
    chargeSensor: text('charge_sensor').$type<'after-cooler' | 'before-cooler'>(),
    chargeWarnC: number('charge_warn_c'),
    chargeStopC: number('charge_stop_c'),
    /** SHA-256 of what it says, by which the same state is found again. */
    digest: text('digest').notNull(),
  },
  (t) => [
    unique('model_card_versions_shop_id').on(t.shopId, t.id),
    unique('model_card_versions_digest').on(t.shopId, t.digest),
    oneOf('model_card_versions_sensor', t.chargeSensor, ['after-cooler', 'before-cooler']),
  ],
);

/** One car. Two cars may bear one label. */
export const vehicles = pgTable(
  'vehicles',
  {
    id: id(),
    shopId: shopId(),
    modelId: uuid('model_id'),
    customerId: uuid('customer_id'),
    cardId: uuid('card_id'),
    label: text('label').notNull(),
    registration: text('registration').notNull().default(''),
    vin: text('vin').notNull().default(''),
    drivenWheels: text('driven_wheels').$type<(typeof DRIVEN_WHEELS)[number]>(),
    aspiration: text('aspiration').$type<(typeof ASPIRATIONS)[number]>(),
    transmission: text('transmission').$type<(typeof TRANSMISSIONS)[number]>(),
    massKg: number('mass_kg'),
    engineToRollerRatio: number('engine_to_roller_ratio'),
    heatSensitive: boolean('heat_sensitive').notNull().default(false),
    /** A car that does not change: its rounds show whether a bay still reads what it read. */
    reference: boolean('reference').notNull().default(false),
    fuel: text('fuel').notNull().default(''),
    tune: text('tune').notNull().default(''),
    partsFitted: text('parts_fitted').notNull().default(''),
    tyres: text('tyres').notNull().default(''),
    oil: text('oil').notNull().default(''),
    version: version(),
    updatedAt: changedAt(),
  },
  (t) => [
    unique('vehicles_shop_id').on(t.shopId, t.id),
    index('vehicles_label').on(t.shopId, t.label, t.id),
    index('vehicles_customer').on(t.shopId, t.customerId),
    index('vehicles_model').on(t.shopId, t.modelId),
    oneOf('vehicles_driven_wheels', t.drivenWheels, DRIVEN_WHEELS),
    oneOf('vehicles_aspiration', t.aspiration, ASPIRATIONS),
    oneOf('vehicles_transmission', t.transmission, TRANSMISSIONS),
    foreignKey({
      name: 'vehicles_model_fk',
      columns: [t.shopId, t.modelId],
      foreignColumns: [vehicleModels.shopId, vehicleModels.id],
    }),
    foreignKey({
      name: 'vehicles_customer_fk',
      columns: [t.shopId, t.customerId],
      foreignColumns: [customers.shopId, customers.id],
    }),
    foreignKey({
      name: 'vehicles_card_fk',
      columns: [t.shopId, t.cardId],
      foreignColumns: [modelCards.shopId, modelCards.id],
    }),
  ],
);

/** What is fitted. */
export const parts = pgTable(
  'parts',
  {
    id: id(),
    shopId: shopId(),
    name: text('name').notNull(),
    /** The maker's number, or the shop's own. */
    number: text('number').notNull().default(''),
    kind: text('kind').notNull().default(''),
    price: number('price'),
    currency: text('currency').notNull().default(''),
    hours: number('hours'),
    supplier: text('supplier').notNull().default(''),
    adapters: text('adapters').notNull().default(''),
    closedCourseOnly: boolean('closed_course_only').notNull().default(false),
    /** Flow on a bench, L/s, at a pressure drop and air temperature; a property of the part, with its source. */
    benchFlowLS: number('bench_flow_l_s'),
    benchDropKpa: number('bench_drop_kpa'),
    benchAirC: number('bench_air_c'),
    benchSource: text('bench_source').notNull().default(''),
    /** What its maker promises at the wheels, per cent of mean power. */
    promisedPercent: number('promised_percent'),
    /** The part that this one was found to be; its jobs count there. */
    mergedInto: uuid('merged_into'),
    notes: text('notes').notNull().default(''),
    version: version(),
    updatedAt: changedAt(),
  },
  (t) => [
    unique('parts_shop_id').on(t.shopId, t.id),
    uniqueIndex('parts_name').on(t.shopId, t.name),
    foreignKey({ name: 'parts_merged_fk', columns: [t.shopId, t.mergedInto], foreignColumns: [t.shopId, t.id] }),
  ],
);

/** The shop's written protocol; each state of it is an immutable version. */
export const houseMethods = pgTable(
  'house_methods',
  {
    id: id(),
    shopId: shopId(),
    name: text('name').notNull(),
    versionId: uuid('version_id').notNull(),
    version: version(),
    updatedAt: changedAt(),
  },
  (t) => [
    unique('house_methods_shop_id').on(t.shopId, t.id),
    uniqueIndex('house_methods_name').on(t.shopId, t.name),
    foreignKey({
      name: 'house_methods_version_fk',
      columns: [t.shopId, t.versionId],
      foreignColumns: [methodVersions.shopId, methodVersions.id],
    }),
  ],
);

/** One state of a method; jobs point at the one they are judged by. */
export const methodVersions = pgTable(
  'method_versions',
  {
    id: id(),
    shopId: shopId(),
    name: text('name'),
    correction: text('correction').notNull(),
    averagingWidthRpm: number('averaging_width_rpm').notNull(),
    settlePulls: number('settle_pulls').notNull(),
    /** Tolerances by key; what is absent is the usual value. */
    tolerances: checkedJson('tolerances', isMembers).notNull(),
    /** The school followed in each matter; null where the method wrote none. */
    schools: checkedJson('schools', isTextTable),
    ciTurbocharged: boolean('ci_turbocharged'),
    ciFuelMgPerLitreCycle: number('ci_fuel_mg_per_litre_cycle'),
    ciBoostPressureRatio: number('ci_boost_pressure_ratio'),
    digest: text('digest').notNull(),
  },
  (t) => [
    unique('method_versions_shop_id').on(t.shopId, t.id),
    unique('method_versions_digest').on(t.shopId, t.digest),
  ],
);
