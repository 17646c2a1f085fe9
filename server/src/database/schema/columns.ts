import { customType, doublePrecision, timestamp, uuid } from 'drizzle-orm/pg-core';
import { v7 } from 'uuid';

/** Bytes; samples are little-endian float64. */
export const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });

/** UUID version 7: rows of one moment lie beside each other in the index. */
export const id = () =>
  uuid('id')
    .primaryKey()
    .$defaultFn(() => v7());
export const shopId = () => uuid('shop_id').notNull();

/** An instant. */
export const instant = (name: string) => timestamp(name, { withTimezone: true });
export const number = (name: string) => doublePrecision(name);
