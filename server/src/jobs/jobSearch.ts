import { eq, gte, inArray, isNull, lt, sql, type SQL } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { bayCalibrations, jobs, verdictProjections } from '../database/schema.ts';
import { wordRanges, type WordRange } from '../database/words.ts';
import type { JobSearch } from './jobList.dto.ts';

/** So few matches are fetched by their own index; more are met soon enough by walking the list in its order. */
const FEW = 2000;

const inRange = ({ from, until }: WordRange) =>
  until === null ? sql`w.word = ${from}` : sql`w.word >= ${from} AND w.word < ${until}`;

/** One thing a job must match: how to list such jobs, and how to ask whether one job is among them. */
interface Narrowing {
  readonly listed: SQL;
  readonly holds: SQL;
}

function narrowings({ q, verdict }: JobSearch): Narrowing[] {
  const words = wordRanges(q ?? '').map((range) => ({
    listed: sql`SELECT w.job_id AS id FROM job_words w WHERE ${inRange(range)}`,
    holds: sql`EXISTS (SELECT 1 FROM job_words w WHERE w.job_id = jobs.id AND ${inRange(range)})`,
  }));
  if (verdict === undefined) return words;
  const of = sql`v.verdict = ${verdict}`;
  return [
    ...words,
    {
      listed: sql`SELECT v.job_id AS id FROM ${verdictProjections} v WHERE ${of}`,
      holds: sql`EXISTS (SELECT 1 FROM ${verdictProjections} v WHERE v.job_id = jobs.id AND ${of})`,
    },
  ];
}

/**
 * Conditions of a search, or null when nothing can match. What few jobs have is looked up by its index; what many have is asked of
 * each job on the way. Nothing of the search is read as a pattern.
 */
export async function jobConditions(tx: Transaction, search: JobSearch): Promise<SQL[] | null> {
  const { bay, from, before } = search;
  const conditions: SQL[] = [isNull(jobs.deletedAt)];
  let fewest: string[] | null = null;
  for (const { listed, holds } of narrowings(search)) {
    const { rows } = await tx.execute<{ id: string }>(sql`${listed} LIMIT ${FEW + 1}`);
    const ids = [...new Set(rows.map(({ id }) => id))];
    if (ids.length === 0) return null;
    if (rows.length > FEW) conditions.push(holds);
    else if (fewest === null) fewest = ids;
    else {
      const known = new Set(ids);
      fewest = fewest.filter((id) => known.has(id));
      if (fewest.length === 0) return null;
    }
  }
  if (fewest !== null) conditions.push(sql`${jobs.id} = ANY(${sql.param(fewest)}::uuid[])`);
  if (bay !== undefined) {
    const own = await tx.select({ id: bayCalibrations.id }).from(bayCalibrations).where(eq(bayCalibrations.bayId, bay));
    if (own.length === 0) return null;
    conditions.push(
      inArray(
        jobs.calibrationId,
        own.map(({ id }) => id),
      ),
    );
  }
  if (from !== undefined) conditions.push(gte(OPENED, new Date(from)));
  if (before !== undefined) conditions.push(lt(OPENED, new Date(before)));
  return conditions;
}

/** When a job was opened; what nobody knows was before everything else. A CASE, since coalesce is not leakproof and would use no index. */
export const OPENED = sql`(CASE WHEN ${jobs.openedAt} IS NULL THEN '-infinity'::timestamptz ELSE ${jobs.openedAt} END)`;
