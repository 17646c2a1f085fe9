import { BadRequestException } from '@nestjs/common';
import { isUUID as isUuid } from 'class-validator';
import { and, asc, desc, sql, type SQL } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { jobDays, jobs } from '../database/schema.ts';
import type { JobSearch, JobSort } from './jobList.dto.ts';
import { OPENED } from './jobSearch.ts';

/** More than this is counted as "more". */
export const COUNTED_TO = 1000;

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
  /** Where the page after this job begins. */
  readonly key: string;
}

type KeyKind = 'instant' | 'text' | 'place';

/** What a list can be ordered by, as the indexes of jobs have it, and of what kind the keys of its pages are. */
const ORDERS: Readonly<Record<JobSort, { by: SQL; kind: KeyKind }>> = {
  updated: { by: sql`${jobs.updatedAt}`, kind: 'instant' },
  opened: { by: OPENED, kind: 'instant' },
  number: { by: sql`${jobs.number}`, kind: 'text' },
  title: { by: sql`${jobs.title}`, kind: 'text' },
  vehicle: { by: sql`${jobs.vehicleLabel}`, kind: 'text' },
  verdict: { by: sql`${jobs.verdictOrder}`, kind: 'place' },
};
const KEYS: Readonly<Record<KeyKind, { type: string; test: (value: string) => boolean }>> = {
  instant: { type: 'timestamptz', test: (value) => value === '-infinity' || isInstant(value) },
  text: { type: 'text', test: () => true },
  place: { type: 'smallint', test: (value) => /^\d{1,2}$/.test(value) },
};
/** The newest first, the best verdicts first, names from A to Z. */
const USUAL_DIRECTION = { instant: 'falling', text: 'rising', place: 'rising' } as const;

/** How many jobs match, counted to `COUNTED_TO` + 1. */
export async function jobCount(tx: Transaction, conditions: readonly SQL[]): Promise<number> {
  const counted = tx
    .select({ one: sql`1` })
    .from(jobs)
    .where(and(...conditions))
    .limit(COUNTED_TO + 1)
    .as('counted');
  const [row] = await tx.select({ n: sql<number>`count(*)::int` }).from(counted);
  return row!.n;
}

/** Job rows that match, in the order asked for; `after` is the key of the last row of the page before. */
export async function jobPage(
  tx: Transaction,
  { after, sort = 'updated', direction }: JobSearch,
  conditions: readonly SQL[],
  limit: number,
): Promise<JobListed[]> {
  const { by, kind } = ORDERS[sort];
  const falling = (direction ?? USUAL_DIRECTION[kind]) === 'falling';
  const order = falling ? desc : asc;
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
      pulls: jobs.pullCount,
      lastPullAt: jobs.lastPullAt,
      value: sql<string>`(${by})::text`,
    })
    .from(jobs)
    .where(and(...conditions, after ? beyond(after, by, kind, falling) : undefined))
    .orderBy(order(by), order(jobs.id))
    .limit(limit);
  return rows.map(({ value, ...row }) => ({ ...row, key: `${row.id}~${value}` }));
}

/** Rows behind the key of a page. @throws BadRequestException when it is none */
function beyond(after: string, by: SQL, kind: KeyKind, falling: boolean): SQL {
  const [id = ''] = after.split('~', 1);
  const value = after.slice(id.length + 1);
  const whole = isUuid(id) && KEYS[kind].test(value);
  if (!whole) throw new BadRequestException('This is no key of a page. Load the list anew.');
  const row = sql`(${by}, ${jobs.id})`;
  const key = sql`(${value}::${sql.raw(KEYS[kind].type)}, ${id}::uuid)`;
  return falling ? sql`${row} < ${key}` : sql`${row} > ${key}`;
}

/** Whether this is an instant as PostgreSQL writes one. */
function isInstant(value: string): boolean {
  const match = /^(\d{4}-\d\d-\d\d) (\d\d:\d\d:\d\d(?:\.\d{1,6})?)([+-]\d\d)(:\d\d)?$/.exec(value);
  return match !== null && !Number.isNaN(Date.parse(`${match[1]}T${match[2]}${match[3]}${match[4] ?? ':00'}`));
}
