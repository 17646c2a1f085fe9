import { BadRequestException } from '@nestjs/common';
import { plausibleInstantMs } from '@prandel/core';
import { isUUID as isUuid } from 'class-validator';
import { and, desc, isNull, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { jobDays, jobs } from '../database/schema.ts';

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

/** Job rows newest first; `after` is the key of the last row of the page before. */
export async function jobPage(tx: Transaction, after: string | null, limit: number): Promise<JobListed[]> {
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
    .where(and(isNull(jobs.deletedAt), older))
    .orderBy(desc(jobs.updatedAt), desc(jobs.id))
    .limit(limit);
  return rows.map((row) => ({ ...row, lastPullAt: row.lastPullAt === null ? null : new Date(row.lastPullAt) }));
}
