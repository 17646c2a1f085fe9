import type { HandReading } from '@prandel/core';
import { asc, eq } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { handReadings } from '../database/schema.ts';

/** Gauges read by hand, in the order in which they were typed. */
export async function readHandReadings(tx: Transaction, jobId: string): Promise<HandReading[]> {
  const rows = await tx
    .select()
    .from(handReadings)
    .where(eq(handReadings.jobId, jobId))
    .orderBy(asc(handReadings.place));
  return rows.map(({ pullKey, channel, moment, value }) => ({ pullId: pullKey, channel, moment, value }));
}

export async function writeHandReadings(
  tx: Transaction,
  shopId: string,
  jobId: string,
  list: readonly HandReading[],
): Promise<void> {
  await tx.delete(handReadings).where(eq(handReadings.jobId, jobId));
  if (list.length > 0)
    await tx
      .insert(handReadings)
      .values(list.map(({ pullId, ...reading }, place) => ({ shopId, jobId, place, pullKey: pullId, ...reading })));
}
