import type { TrayReason } from '@prandel/presentation';
import { foreignKey, index, integer, pgTable, text, unique, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { bays } from './bays.ts';
import { bytea, id, instant, number, shopId } from './columns.ts';
import { oneOf } from './records.ts';

/** Files that a watched folder brought and that became no pull yet: kept until somebody has looked at them. */
export const trayFiles = pgTable(
  'tray_files',
  {
    id: id(),
    shopId: shopId(),
    bayId: uuid('bay_id').notNull(),
    name: text('name').notNull(),
    sha256: text('sha256').notNull(),
    content: bytea('content').notNull(),
    size: integer('size').notNull(),
    /** Why it became no pull. */
    code: text('code').$type<TrayReason>().notNull(),
    /** What the reader says of a file that it cannot read. */
    message: text('message'),
    /** When it was last changed on the rollers' computer. */
    changedAt: instant('changed_at'),
    addedAt: instant('added_at').notNull().defaultNow(),
  },
  (t) => [
    unique('tray_files_shop_id').on(t.shopId, t.id),
    uniqueIndex('tray_files_digest').on(t.bayId, t.sha256),
    index('tray_files_bay').on(t.shopId, t.bayId, t.addedAt),
    oneOf('tray_files_code', t.code, [
      'no-job',
      'no-round',
      'unreadable',
      'shape-unknown',
      'numbers-unknown',
      'pulling',
    ]),
    foreignKey({
      name: 'tray_files_bay_fk',
      columns: [t.shopId, t.bayId],
      foreignColumns: [bays.shopId, bays.id],
    }),
  ],
);

/** Correction standards of the shop's own, for sheets from elsewhere: a reference, or a factor that is printed. */
export const ownStandards = pgTable(
  'own_standards',
  {
    id: id(),
    shopId: shopId(),
    name: text('name').notNull(),
    kind: text('kind').$type<'reference' | 'factor'>().notNull(),
    referenceC: number('reference_c'),
    referenceHpa: number('reference_hpa'),
    pressure: text('pressure').$type<'dry' | 'total'>(),
    mechanicalEfficiency: number('mechanical_efficiency'),
    factor: number('factor'),
    addedAt: instant('added_at').notNull().defaultNow(),
  },
  (t) => [
    unique('own_standards_shop_id').on(t.shopId, t.id),
    uniqueIndex('own_standards_name').on(t.shopId, t.name),
    oneOf('own_standards_kind', t.kind, ['reference', 'factor']),
    oneOf('own_standards_pressure', t.pressure, ['dry', 'total']),
  ],
);
