import type { Logger } from '@prandel/core';
import { asc, eq } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { channels, loggers, pulls } from '../database/schema.ts';

/** The loggers of a job in the order in which they came, with what they gave to which pulls. */
export async function readLoggers(tx: Transaction, jobId: string): Promise<Logger[]> {
  const rows = await tx.select().from(loggers).where(eq(loggers.jobId, jobId)).orderBy(asc(loggers.id));
  if (rows.length === 0) return [];
  const given = await tx
    .select({ loggerId: channels.loggerId, name: channels.name, pull: pulls.pullKey })
    .from(channels)
    .innerJoin(pulls, eq(pulls.id, channels.pullId))
    .innerJoin(loggers, eq(loggers.id, channels.loggerId))
    .where(eq(loggers.jobId, jobId))
    .orderBy(asc(pulls.place), asc(channels.place));
  return rows.map(({ id, name, laidBy, offsetS, ratePpm, residual, correlation }) => {
    const own = given.filter((c) => c.loggerId === id);
    return {
      ...{ id, name, laidBy, offsetS, ratePpm, residual, correlation },
      channels: [...new Set(own.map((c) => c.name))],
      pulls: [...new Set(own.map((c) => c.pull))],
    };
  });
}
