import { sql } from 'drizzle-orm';
import { boolean, check, foreignKey, index, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import {
  CHANGE_KINDS,
  DECLARABLE_STATES,
  OUTCOME_FIELDS,
  type DeclarableState,
  type OutcomeField,
  type StateField,
} from '@prandel/core';
import { number, shopId } from './columns.ts';
import { jobs } from './jobs.ts';
import { oneOf, parts } from './records.ts';

const jobId = () => uuid('job_id').notNull();

export const setups = pgTable(
  'setups',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    place: integer('place').notNull(),
    label: text('label').notNull(),
    parentKey: text('parent_key'),
    /** The setup that this return check repeats. */
    returnsToKey: text('returns_to_key'),
    remounted: boolean('remounted').notNull(),
    closedCourseOnly: boolean('closed_course_only').notNull(),
    partCost: number('part_cost'),
    labourHours: number('labour_hours'),
    currency: text('currency'),
    supplier: text('supplier'),
    /** The states that the setup's changes make differ on purpose. */
    adaptersCost: number('adapters_cost'),
    consumablesCost: number('consumables_cost'),
    tuneCost: number('tune_cost'),
    /** It put something right that was wrong with the car. */
    cure: boolean('cure').notNull().default(false),
    permanent: boolean('permanent').notNull().default(false),
    /** When it was added to a job whose pulls had begun. */
    addedAt: text('added_at'),
    declares: text('declares').array().$type<DeclarableState[]>().notNull().default([]),
  },
  (t) => [
    check(
      'setups_declares',
      sql`${t.declares} <@ ARRAY[${sql.raw(DECLARABLE_STATES.map((state) => `'${state}'`).join(', '))}]::text[]`,
    ),
    primaryKey({ columns: [t.jobId, t.setupKey] }),
    foreignKey({
      name: 'setups_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);

/** What a setup changes against its parent, item by item; a fitted part of the shop's record is known by its id. */
export const setupChanges = pgTable(
  'setup_changes',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    place: integer('place').notNull(),
    kind: text('kind').$type<(typeof CHANGE_KINDS)[number]>().notNull(),
    partId: uuid('part_id'),
    /** The fitted or removed part as it was named. */
    partName: text('part_name'),
    words: text('words').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.setupKey, t.place] }),
    index('setup_changes_part').on(t.shopId, t.partId),
    oneOf('setup_changes_kind', t.kind, CHANGE_KINDS),
    foreignKey({
      name: 'setup_changes_setup_fk',
      columns: [t.jobId, t.setupKey],
      foreignColumns: [setups.jobId, setups.setupKey],
    }).onDelete('cascade'),
    foreignKey({
      name: 'setup_changes_part_fk',
      columns: [t.shopId, t.partId],
      foreignColumns: [parts.shopId, parts.id],
    }),
  ],
);

/** The recorded state of a setup, a row a field that somebody recorded. */
export const setupState = pgTable(
  'setup_state',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    place: integer('place').notNull(),
    field: text('field').$type<StateField>().notNull(),
    value: text('value').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.setupKey, t.field] }),
    foreignKey({
      name: 'setup_state_setup_fk',
      columns: [t.jobId, t.setupKey],
      foreignColumns: [setups.jobId, setups.setupKey],
    }).onDelete('cascade'),
  ],
);

/** What a person notes of a setup besides its power, a row a field. */
export const setupOutcomes = pgTable(
  'setup_outcomes',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    field: text('field').$type<OutcomeField>().notNull(),
    value: text('value').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.setupKey, t.field] }),
    oneOf('setup_outcomes_field', t.field, OUTCOME_FIELDS),
    foreignKey({
      name: 'setup_outcomes_setup_fk',
      columns: [t.jobId, t.setupKey],
      foreignColumns: [setups.jobId, setups.setupKey],
    }).onDelete('cascade'),
  ],
);

/** Rounds of which more is known than their pulls tell. */
export const rounds = pgTable(
  'rounds',
  {
    shopId: shopId(),
    jobId: jobId(),
    setupKey: text('setup_key').notNull(),
    n: integer('n').notNull(),
    closedEarly: text('closed_early').notNull(),
    place: integer('place').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.jobId, t.setupKey, t.n] }),
    foreignKey({
      name: 'rounds_job_fk',
      columns: [t.shopId, t.jobId],
      foreignColumns: [jobs.shopId, jobs.id],
    }).onDelete('cascade'),
  ],
);
