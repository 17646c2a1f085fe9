import { sql } from 'drizzle-orm';
import {
  bigint,
  foreignKey,
  index,
  integer,
  jsonb,
  pgTable,
  text,
  unique,
  uniqueIndex,
  uuid,
  varchar,
} from 'drizzle-orm/pg-core';
import { id, instant, shopId } from './columns.ts';

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

export const shops = pgTable('shops', { shopId: uuid('shop_id').primaryKey(), name: text('name').notNull() });

export const people = pgTable(
  'people',
  {
    id: id(),
    shopId: shopId(),
    name: text('name').notNull(),
    email: text('email').notNull(),
    passwordHash: text('password_hash').notNull(),
    units: jsonb('units').$type<Record<string, string>>().notNull().default({}),
  },
  (t) => [uniqueIndex('people_email').on(t.email), unique('people_shop_id').on(t.shopId, t.id)],
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

/** Tries to sign in, counted by account and by address; kept by the rate limiter, so that every server process knows them. */
export const signInTries = pgTable('sign_in_tries', {
  key: varchar('key', { length: 255 }).primaryKey(),
  points: integer('points').notNull().default(0),
  expire: bigint('expire', { mode: 'number' }),
});
