import { Injectable } from '@nestjs/common';
import { eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { shops } from '../database/schema.ts';
import type { Caller } from '../people/caller.ts';
import type { MoneyDto } from './money.dto.ts';

/** Currency and labour rate of a shop. */
@Injectable()
export class MoneyService {
  constructor(private readonly database: Database) {}

  read({ shopId }: Caller): Promise<MoneyDto> {
    return this.database.inShop(shopId, async (tx) => {
      const [row] = await tx.select().from(shops).where(eq(shops.shopId, shopId));
      return { currency: row?.currency ?? null, hourlyRate: row?.hourlyRate ?? null };
    });
  }

  async write({ shopId }: Caller, { currency, hourlyRate }: MoneyDto): Promise<void> {
    await this.database.inShop(shopId, (tx) =>
      tx
        .update(shops)
        .set({ currency: currency?.trim() || null, hourlyRate: hourlyRate ?? null })
        .where(eq(shops.shopId, shopId)),
    );
  }
}
