import { BadRequestException } from '@nestjs/common';
import { plausibleInstantMs } from '@prandel/core';
import { isUUID as isUuid } from 'class-validator';
import { and, desc, gte, isNull, lt, sql, type SQL } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { jobDays, jobs } from '../database/schema.ts';
import type { JobSearch } from './jobs.dto.ts';

/** A job as a list shows it. */
export interface JobListed {
  readonly id: string;
  readonly version: number;
  readonly number: string;
  readonly title: string;
  readonly vehicle: string;
  readonly openedAt: Date | null;
  readonly updatedAt: Date;
  readonly plannedAt: string | null;
  readonly pulls: number;
  readonly lastPullAt: Date | null;
}

/** Conditions of a search. Nothing of it is read as a pattern. */
function matching({ q, verdict, bay, from, before }: JobSearch): SQL | undefined {
  const words = (q ?? '').toLowerCase().split(/\s+/).filter(Boolean);
  return and(
    isNull(jobs.deletedAt),
    ...words.map((word) => sql`strpos(${jobs.searchText}, ${word}) > 0`),
    verdict === undefined
      ? undefined
      : sql`EXISTS (SELECT 1 FROM verdict_projections v WHERE v.job_id = jobs.id AND v.verdict = ${verdict})`,
    bay === undefined
      ? undefined
      : sql`EXISTS (SELECT 1 FROM bay_calibrations c WHERE c.id = jobs.calibration_id AND c.bay_id = ${bay}::uuid)`,
    from === undefined ? undefined : gte(jobs.openedAt, new Date(from)),
    before === undefined ? undefined : lt(jobs.openedAt, new Date(before)),
  );
}

/** How many jobs match. */
export async function jobCount(tx: Transaction, search: JobSearch): Promise<number> {
  const [row] = await tx
    .select({ n: sql<number>`count(*)::int` })
    .from(jobs)
    .where(matching(search));
  return row!.n;
}

/** Job rows that match, newest first; `after` is the key of the last row of the page before. */
export async function jobPage(tx: Transaction, search: JobSearch, limit: number): Promise<JobListed[]> {
  const { after } = search;
  const [moment, id] = after ? after.split('~') : [];
  const at = moment ? new Date(moment) : null;
  const older =
    at && id && isUuid(id) && plausibleInstantMs(at.getTime())
      ? sql`(${jobs.updatedAt}, ${jobs.id}) < (${at.toISOString()}::timestamptz, ${id}::uuid)`
      : undefined;
  if (after && !older) throw new BadRequestException('This is no key of a page. Load the list anew.');
  const rows = await tx
    .select({
      id: jobs.id,
      version: jobs.version,
      number: jobs.number,
      title: jobs.title,
      vehicle: jobs.vehicleLabel,
      openedAt: jobs.openedAt,
      updatedAt: jobs.updatedAt,
      plannedAt: sql<string | null>`(SELECT d.start_at FROM ${jobDays} d WHERE d.job_id = jobs.id)`,
      // Written out: drizzle leaves the table's name off columns of a select from one table.
      pulls: sql<number>`(SELECT count(*)::int FROM pulls p WHERE p.job_id = jobs.id)`,
      lastPullAt: sql<string | null>`(SELECT max(p.started_at) FROM pulls p WHERE p.job_id = jobs.id)`,
    })
    .from(jobs)
    .where(and(matching(search), older))
    .orderBy(desc(jobs.updatedAt), desc(jobs.id))
    .limit(limit);
  return rows.map((row) => ({ ...row, lastPullAt: row.lastPullAt === null ? null : new Date(row.lastPullAt) }));
}
