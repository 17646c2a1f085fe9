import { DEFAULT_METHOD, UNKNOWN_CARD, type Method, type ModelCard } from '@prandel/core';
import { eq, inArray } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import {
  ASPIRATIONS,
  customers,
  DRIVEN_WHEELS,
  houseMethods,
  methodVersions,
  modelCards,
  modelCardVersions,
  parts,
  TRANSMISSIONS,
  vehicleModels,
  vehicles,
} from '../database/schema.ts';
import { cardOf, cardVersionOf, methodOf, methodVersionOf } from './versions.ts';

export const RECORD_KINDS = ['customer', 'vehicle', 'part', 'model-card', 'method'] as const;
export type RecordKind = (typeof RECORD_KINDS)[number];

/** A record's facts by name; what is absent in a change stays as it is. */
export type Fields = Readonly<Record<string, unknown>>;

/** A record as it is stored, whatever its kind. */
export interface StoredRecord {
  readonly id: string;
  readonly label: string;
  readonly version: number;
  readonly fields: Record<string, unknown>;
}

/** What a kind of record is made of. */
export interface RecordTable {
  readonly table: typeof customers | typeof vehicles | typeof parts | typeof modelCards | typeof houseMethods;
  readonly label: 'name' | 'label';
  /** Those of these records that the shop has, in no order. */
  read(tx: Transaction, ids: readonly string[]): Promise<StoredRecord[]>;
  /** Columns for the fields that are named; those that refer to other records are looked up. */
  columns(
    tx: Transaction,
    shopId: string,
    fields: Fields,
    before: StoredRecord | null,
  ): Promise<Record<string, unknown>>;
}

const text = (value: unknown) => (typeof value === 'string' ? value : value === null ? '' : undefined);
const number = (value: unknown) =>
  typeof value === 'number' && Number.isFinite(value) ? value : value === null || value === '' ? null : undefined;
const flag = (value: unknown) => (typeof value === 'boolean' ? value : undefined);
const oneOf =
  <T extends string>(words: readonly T[]) =>
  (value: unknown): T | null | undefined =>
    value === null || value === '' ? null : words.includes(value as T) ? (value as T) : undefined;

/** The fields that are named, each as its column takes it. @throws TypeError naming one that is no such thing */
function taken(fields: Fields, kinds: Readonly<Record<string, (value: unknown) => unknown>>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(kinds).flatMap(([name, as]) => {
      if (!(name in fields)) return [];
      const value = as(fields[name]);
      if (value === undefined) throw new TypeError(`${name} is not what it should be.`);
      return [[name, value]];
    }),
  );
}

const CUSTOMER = { contact: text, notes: text };
const PART = {
  ...{ number: text, kind: text, price: number, currency: text, hours: number, supplier: text, adapters: text },
  ...{ closedCourseOnly: flag, notes: text },
  ...{ benchFlowLS: number, benchDropKpa: number, benchAirC: number, benchSource: text },
  promisedPercent: number,
};
const VEHICLE = {
  ...{ registration: text, vin: text, fuel: text, tune: text, partsFitted: text, tyres: text, oil: text },
  ...{ drivenWheels: oneOf(DRIVEN_WHEELS), aspiration: oneOf(ASPIRATIONS), transmission: oneOf(TRANSMISSIONS) },
  ...{ massKg: number, engineToRollerRatio: number, heatSensitive: flag, reference: flag },
};

/** Columns of a row as the fields of a record. */
function picked(row: object, kinds: Readonly<Record<string, unknown>>): Record<string, unknown> {
  return Object.fromEntries(Object.keys(kinds).map((name) => [name, (row as Record<string, unknown>)[name]]));
}

/** Version and fields of a row. */
function as(row: { version: number }, kinds: Readonly<Record<string, unknown>>) {
  return { version: row.version, fields: picked(row, kinds) };
}

async function customerOf(tx: Transaction, shopId: string, name: string): Promise<string | null> {
  if (name.trim() === '') return null;
  const [known] = await tx.select({ id: customers.id }).from(customers).where(eq(customers.name, name.trim())).limit(1);
  if (known) return known.id;
  const [made] = await tx.insert(customers).values({ shopId, name: name.trim() }).returning({ id: customers.id });
  return made!.id;
}

export const RECORD_TABLES: Readonly<Record<RecordKind, RecordTable>> = {
  customer: {
    table: customers,
    label: 'name',
    async read(tx, ids) {
      const rows = await tx
        .select()
        .from(customers)
        .where(inArray(customers.id, [...ids]));
      return rows.map((row) => ({ ...{ id: row.id, label: row.name }, ...as(row, CUSTOMER) }));
    },
    columns: (_, __, fields) => Promise.resolve(taken(fields, CUSTOMER)),
  },
  part: {
    table: parts,
    label: 'name',
    async read(tx, ids) {
      const rows = await tx
        .select()
        .from(parts)
        .where(inArray(parts.id, [...ids]));
      return rows.map((row) => ({ ...{ id: row.id, label: row.name }, ...as(row, PART) }));
    },
    columns: (_, __, fields) => Promise.resolve(taken(fields, PART)),
  },
  vehicle: {
    table: vehicles,
    label: 'label',
    async read(tx, ids) {
      const rows = await tx
        .select({ car: vehicles, owner: customers.name, card: modelCards.label })
        .from(vehicles)
        .leftJoin(customers, eq(customers.id, vehicles.customerId))
        .leftJoin(modelCards, eq(modelCards.id, vehicles.cardId))
        .where(inArray(vehicles.id, [...ids]));
      return rows.map(({ car, owner, card }) => {
        const fields = { owner: owner ?? '', modelCard: card ?? '', ...picked(car, VEHICLE) };
        return { id: car.id, label: car.label, version: car.version, fields };
      });
    },
    async columns(tx, shopId, fields) {
      const own = taken(fields, { ...VEHICLE, owner: text, modelCard: text });
      const { owner, modelCard, ...columns } = own as Record<string, unknown> & { owner?: string; modelCard?: string };
      if (owner !== undefined) columns.customerId = await customerOf(tx, shopId, owner);
      if (modelCard !== undefined) {
        const [card] = await tx
          .select({ id: modelCards.id, modelId: modelCards.modelId })
          .from(modelCards)
          .where(eq(modelCards.label, modelCard));
        columns.cardId = card?.id ?? null;
        columns.modelId = card?.modelId ?? null;
      }
      return columns;
    },
  },
  'model-card': {
    table: modelCards,
    label: 'label',
    async read(tx, ids) {
      const rows = await tx
        .select()
        .from(modelCards)
        .innerJoin(modelCardVersions, eq(modelCardVersions.id, modelCards.versionId))
        .where(inArray(modelCards.id, [...ids]));
      return rows.map(({ model_cards: { id, label, version }, model_card_versions: of }) => ({
        ...{ id, label, version },
        fields: { ...cardOf(of), label },
      }));
    },
    async columns(tx, shopId, fields, before) {
      const card = cardWith(fields, before);
      const versionId = await cardVersionOf(tx, shopId, card);
      if (before) return { versionId };
      const [model] = await tx
        .insert(vehicleModels)
        .values({ shopId, name: card.label })
        .returning({ id: vehicleModels.id });
      return { versionId, modelId: model!.id };
    },
  },
  method: {
    table: houseMethods,
    label: 'name',
    async read(tx, ids) {
      const rows = await tx
        .select()
        .from(houseMethods)
        .innerJoin(methodVersions, eq(methodVersions.id, houseMethods.versionId))
        .where(inArray(houseMethods.id, [...ids]));
      return rows.map(({ house_methods: { id, name, version }, method_versions: of }) => ({
        ...{ id, label: name, version },
        fields: { ...methodOf(of), name },
      }));
    },
    async columns(tx, shopId, fields, before) {
      return { versionId: await methodVersionOf(tx, shopId, methodWith(fields, before)) };
    },
  },
};

/** A model card with the fields that are named; the others stay, of its sensors too. */
export function cardWith(fields: Fields, before: StoredRecord | null): ModelCard {
  const own = (of: Fields | undefined) => (typeof of?.sensors === 'object' ? of.sensors : null);
  const sensors = { ...UNKNOWN_CARD.sensors, ...own(before?.fields), ...own(fields) };
  return { ...UNKNOWN_CARD, ...before?.fields, ...fields, sensors };
}

/** A house method with the fields that are named; the others stay. */
export function methodWith(fields: Fields, before: StoredRecord | null): Method {
  return { ...DEFAULT_METHOD, ...before?.fields, ...fields };
}

/** Cards and methods carry their own name into the jobs that are run by them. */
export function ownName(kind: RecordKind, label: string): Fields {
  return kind === 'method' ? { name: label } : kind === 'model-card' ? { label } : {};
}

/** @returns the id of the new record. @throws TypeError naming a field that is not what it should be */
export async function insertRecord(
  tx: Transaction,
  shopId: string,
  { kind, label, fields }: { kind: RecordKind; label: string; fields: Fields },
): Promise<string> {
  const of = RECORD_TABLES[kind];
  const columns = await of.columns(tx, shopId, { ...fields, ...ownName(kind, label) }, null);
  const [row] = await tx
    .insert(of.table)
    .values({ shopId, ...columns, [of.label]: label } as never)
    .returning({ id: of.table.id });
  return row!.id;
}
