import { sql } from 'drizzle-orm';
import { foreignKey, index, integer, pgTable, text, unique, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { checkedJson } from '../checkedJson.ts';
import { isSharedPage } from '../shapes.ts';
import { id, instant, shopId } from './columns.ts';
import { files } from './files.ts';
import { jobs } from './jobs.ts';

/** Keys under which a shop has sealed: the public halves. The private one in force is a file outside the database. */
export const shopKeys = pgTable(
  'shop_keys',
  {
    id: id(),
    shopId: shopId(),
    /** The 32 bytes of an Ed25519 key, base64. */
    publicKey: text('public_key').notNull(),
    madeAt: instant('made_at').notNull().defaultNow(),
    madeBy: text('made_by').notNull(),
    /** Since when another one is in force. */
    retiredAt: instant('retired_at'),
    /** What the key before it signed when this one took its place; null: the first one, or the one before it was lost. */
    changeText: text('change_text'),
    changeSignature: text('change_signature'),
  },
  (t) => [
    unique('shop_keys_shop_id').on(t.shopId, t.id),
    uniqueIndex('shop_keys_in_force')
      .on(t.shopId)
      .where(sql`retired_at IS NULL`),
  ],
);

/** A sealing of a job: what was signed, with the package and the report as they were then. */
export const seals = pgTable(
  'seals',
  {
    id: id(),
    shopId: shopId(),
    jobId: uuid('job_id').notNull(),
    /** The how manieth sealing of the job it is, from 1. */
    n: integer('n').notNull(),
    sealedAt: instant('sealed_at').notNull(),
    by: text('sealed_by').notNull(),
    publicKey: text('public_key').notNull(),
    /** `seal.json`, and its SHA-256. */
    seal: text('seal').notNull(),
    sha256: text('sha256').notNull(),
    packageFileId: uuid('package_file_id').notNull(),
    reportFileId: uuid('report_file_id').notNull(),
    /** What a customer's page shows of it. */
    page: checkedJson('page', isSharedPage).notNull(),
    reopenedAt: instant('reopened_at'),
    reopenedBy: text('reopened_by'),
    reopenReason: text('reopen_reason'),
  },
  (t) => [
    unique('seals_shop_id').on(t.shopId, t.id),
    uniqueIndex('seals_place').on(t.jobId, t.n),
    index('seals_newest').on(t.shopId, t.sealedAt),
    foreignKey({ name: 'seals_job_fk', columns: [t.shopId, t.jobId], foreignColumns: [jobs.shopId, jobs.id] }),
    foreignKey({
      name: 'seals_package_fk',
      columns: [t.shopId, t.packageFileId],
      foreignColumns: [files.shopId, files.id],
    }),
    foreignKey({
      name: 'seals_report_fk',
      columns: [t.shopId, t.reportFileId],
      foreignColumns: [files.shopId, files.id],
    }),
  ],
);

/** A link that opens a sealed report without signing in. */
export const shareLinks = pgTable(
  'share_links',
  {
    id: id(),
    shopId: shopId(),
    sealId: uuid('seal_id').notNull(),
    /** SHA-256 of the secret in the link; the secret itself is shown once. */
    tokenHash: text('token_hash').notNull(),
    /** Whom it is for. */
    label: text('label').notNull(),
    madeAt: instant('made_at').notNull().defaultNow(),
    madeBy: text('made_by').notNull(),
    expiresAt: instant('expires_at'),
    withdrawnAt: instant('withdrawn_at'),
    views: integer('views').notNull().default(0),
    lastViewedAt: instant('last_viewed_at'),
  },
  (t) => [
    unique('share_links_shop_id').on(t.shopId, t.id),
    uniqueIndex('share_links_token').on(t.tokenHash),
    index('share_links_seal').on(t.sealId),
    foreignKey({
      name: 'share_links_seal_fk',
      columns: [t.shopId, t.sealId],
      foreignColumns: [seals.shopId, seals.id],
    }).onDelete('cascade'),
  ],
);
