import { eq, sql, type SQL } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { jobDays, jobs, modelCardVersions, vehicles } from '../database/schema.ts';

/** What a job knows of its model: the card, and the name that it had when the job was opened. */
export interface ModelOfJob {
  readonly cardId: string | null;
  readonly label: string;
}

/** The card of a job where `jobDays` and `vehicles` are joined: the one it was run by, else that of its car. */
export const cardOfJob = sql<string | null>`coalesce(${jobDays.cardId}, ${vehicles.cardId})`;

/** The model of a job. */
export async function modelOfJob(tx: Transaction, jobId: string): Promise<ModelOfJob> {
  const [row] = await tx
    .select({
      cardId: cardOfJob,
      label: sql<string>`coalesce(${modelCardVersions.label}, '')`,
    })
    .from(jobs)
    .leftJoin(jobDays, eq(jobDays.jobId, jobs.id))
    .leftJoin(modelCardVersions, eq(modelCardVersions.id, jobDays.cardVersionId))
    .leftJoin(vehicles, eq(vehicles.id, jobs.vehicleId))
    .where(eq(jobs.id, jobId));
  return row ?? { cardId: null, label: '' };
}

/**
 * Jobs of one model, where `jobDays`, `modelCardVersions` and `vehicles` are joined. The card decides, so that a model keeps its
 * jobs when it is renamed; a job that came without a card belongs to whatever is called as it says.
 */
export function ofModel({ cardId, label }: ModelOfJob): SQL {
  const named = label === '' ? sql`false` : eq(modelCardVersions.label, label);
  if (cardId === null) return named;
  return sql`(${cardOfJob} = ${cardId} OR (${cardOfJob} IS NULL AND ${named}))`;
}
