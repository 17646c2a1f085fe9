import { sql } from 'drizzle-orm';
import {
  bigint,
  foreignKey,
  index,
  integer,
  pgTable,
  text,
  unique,
  uniqueIndex,
  uuid,
  varchar,
} from 'drizzle-orm/pg-core';
import { checkedJson } from '../checkedJson.ts';
import { isTextTable } from '../shapes.ts';
import { bays } from './bays.ts';
import { id, instant, number, shopId } from './columns.ts';
import { oneOf } from './records.ts';

/** What somebody may do: run the shop, work in it, or look. */
export const ROLES = ['owner', 'technician', 'viewer'] as const;
export type Role = (typeof ROLES)[number];

/** What a program may do that bears a token instead of a session. */
export const TOKEN_SCOPES = ['read-jobs', 'upload-to-bay'] as const;
export type TokenScope = (typeof TOKEN_SCOPES)[number];

export const LINK_PURPOSES = ['invitation', 'password-reset'] as const;
export type LinkPurpose = (typeof LINK_PURPOSES)[number];

/** One row: which shop was set up first. Tells a first start from a later one before anybody has signed in. */
export const installation = pgTable(
  'installation',
  {
    shopId: uuid('shop_id').primaryKey(),
    startedAt: instant('started_at').notNull().defaultNow(),
  },
  // Two first starts at once must not make two shops.
  () => [uniqueIndex('installation_only_one').on(sql`(true)`)],
);

export const shops = pgTable('shops', {
  shopId: uuid('shop_id').primaryKey(),
  name: text('name').notNull(),
  /** What costs are reckoned with; null: nobody said. */
  currency: text('currency'),
  hourlyRate: number('hourly_rate'),
  /** How many of the demo's days are made, and of how many; null: no demo. */
  demoMade: integer('demo_made'),
  demoOf: integer('demo_of'),
});

export const people = pgTable(
  'people',
  {
    id: id(),
    shopId: shopId(),
    name: text('name').notNull(),
    email: text('email').notNull(),
    passwordHash: text('password_hash').notNull(),
    role: text('role').$type<Role>().notNull(),
    units: checkedJson('units', isTextTable).notNull().default({}),
    version: integer('version').notNull().default(1),
    /** Somebody who left the shop; the log still names them. */
    removedAt: instant('removed_at'),
  },
  (t) => [
    uniqueIndex('people_email')
      .on(t.email)
      .where(sql`removed_at IS NULL`),
    unique('people_shop_id').on(t.shopId, t.id),
    oneOf('people_role', t.role, ROLES),
  ],
);

export const sessions = pgTable(
  'sessions',
  {
    tokenHash: text('token_hash').primaryKey(),
    /** Names the session where its token must not appear. */
    id: uuid('id').notNull().defaultRandom(),
    shopId: shopId(),
    personId: uuid('person_id').notNull(),
    createdAt: instant('created_at').notNull().defaultNow(),
    lastSeenAt: instant('last_seen_at').notNull().defaultNow(),
    /** The session ends then, however busy it is. */
    expiresAt: instant('expires_at').notNull(),
    userAgent: text('user_agent').notNull().default(''),
    address: text('address').notNull().default(''),
  },
  (t) => [
    index('sessions_person').on(t.personId),
    foreignKey({
      name: 'sessions_person_fk',
      columns: [t.shopId, t.personId],
      foreignColumns: [people.shopId, people.id],
    }).onDelete('cascade'),
  ],
);

/** A link that lets one person in once: into the shop, or back into an account whose password is lost. */
export const oneTimeLinks = pgTable(
  'one_time_links',
  {
    id: id(),
    shopId: shopId(),
    tokenHash: text('token_hash').notNull(),
    purpose: text('purpose').$type<LinkPurpose>().notNull(),
    email: text('email').notNull(),
    role: text('role').$type<Role>().notNull(),
    /** Whose password it is; null for an invitation. */
    personId: uuid('person_id'),
    /** Null when the operator's command made it. */
    madeBy: uuid('made_by'),
    createdAt: instant('created_at').notNull().defaultNow(),
    expiresAt: instant('expires_at').notNull(),
    usedAt: instant('used_at'),
  },
  (t) => [
    uniqueIndex('one_time_links_token').on(t.tokenHash),
    index('one_time_links_shop').on(t.shopId, t.createdAt),
    oneOf('one_time_links_purpose', t.purpose, LINK_PURPOSES),
    oneOf('one_time_links_role', t.role, ROLES),
    foreignKey({
      name: 'one_time_links_person_fk',
      columns: [t.shopId, t.personId],
      foreignColumns: [people.shopId, people.id],
    }),
    foreignKey({
      name: 'one_time_links_made_by_fk',
      columns: [t.shopId, t.madeBy],
      foreignColumns: [people.shopId, people.id],
    }),
  ],
);

/** Lets a program in without a person. Only its digest is kept. */
export const accessTokens = pgTable(
  'access_tokens',
  {
    id: id(),
    shopId: shopId(),
    name: text('name').notNull(),
    tokenHash: text('token_hash').notNull(),
    scope: text('scope').$type<TokenScope>().notNull(),
    /** The bay whose job it brings files to; null for other scopes. */
    bayId: uuid('bay_id'),
    madeBy: uuid('made_by').notNull(),
    createdAt: instant('created_at').notNull().defaultNow(),
    lastUsedAt: instant('last_used_at'),
    withdrawnAt: instant('withdrawn_at'),
  },
  (t) => [
    uniqueIndex('access_tokens_token').on(t.tokenHash),
    unique('access_tokens_shop_id').on(t.shopId, t.id),
    index('access_tokens_shop').on(t.shopId, t.createdAt),
    oneOf('access_tokens_scope', t.scope, TOKEN_SCOPES),
    foreignKey({ name: 'access_tokens_bay_fk', columns: [t.shopId, t.bayId], foreignColumns: [bays.shopId, bays.id] }),
    foreignKey({
      name: 'access_tokens_made_by_fk',
      columns: [t.shopId, t.madeBy],
      foreignColumns: [people.shopId, people.id],
    }),
  ],
);

/** Tries to sign in, counted by account and by address; kept by the rate limiter, so that every server process knows them. */
export const signInTries = pgTable('sign_in_tries', {
  key: varchar('key', { length: 255 }).primaryKey(),
  points: integer('points').notNull().default(0),
  expire: bigint('expire', { mode: 'number' }),
});
