import { Injectable } from '@nestjs/common';
import { VERDICTS, type Verdict } from '@prandel/core';
import { sql } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import type { TrendsAnswer } from '../http/coreAnswers.ts';
import type { Caller } from '../people/caller.ts';
import { verdictOrderOf } from '../projections/verdicts.ts';
import { MAIN_MEASURE } from '../shelf/shelf.service.ts';

const MOST_REASONS = 12;
const MOST_ROWS = 50;

/** What a lead looks at: how the shop's days go, from what is kept of them. */
@Injectable()
export class TrendsService {
  /** The last answer of each shop, with the state of everything that it was made of. */
  readonly #kept = new Map<string, { readonly state: string; readonly answer: TrendsAnswer }>();

  constructor(private readonly database: Database) {}

  read({ shopId }: Caller): Promise<TrendsAnswer> {
    return this.database.inShop(shopId, async (tx) => {
      const state = await stateOf(tx);
      const kept = this.#kept.get(shopId);
      if (kept?.state === state) return kept.answer;
      const answer = {
        months: await months(tx),
        setAside: await setAside(tx),
        reasons: await reasons(tx),
        minutes: await minutes(tx),
        holds: await holds(tx),
        overrides: await overrides(tx),
        promises: await promises(tx),
      };
      this.#kept.set(shopId, { state, answer });
      return answer;
    });
  }
}

/** Differs whenever something that the trends are made of has changed: jobs with their pulls, overrides, shelves, promises. */
async function stateOf(tx: Transaction): Promise<string> {
  const { rows } = await tx.execute<{ state: string }>(sql`
    SELECT concat_ws('/',
      (SELECT concat_ws(',', count(*), sum(version), max(updated_at), sum(verdict_order), sum(pull_count))
        FROM jobs WHERE deleted_at IS NULL),
      (SELECT concat_ws(',', count(*), max(at)) FROM evidence WHERE kind = 'override'),
      (SELECT md5(string_agg(concat_ws(',', part_id, cars, estimate, low, high), '/' ORDER BY part_id))
        FROM part_shelves WHERE measure = ${MAIN_MEASURE}),
      (SELECT concat_ws(',', count(*), sum(version), max(updated_at)) FROM parts)) AS state`);
  return rows[0]!.state;
}

/** Jobs that had pulls, by the month in which they were opened and their best known verdict. */
async function months(tx: Transaction): Promise<TrendsAnswer['months']> {
  const { rows } = await tx.execute<{ month: string; place: number; jobs: number }>(sql`
    SELECT to_char(opened_at AT TIME ZONE 'UTC', 'YYYY-MM') AS month, verdict_order AS place, count(*)::int AS jobs
    FROM jobs WHERE deleted_at IS NULL AND pull_count > 0 AND opened_at IS NOT NULL GROUP BY 1, 2 ORDER BY 1`);
  const verdictAt = new Map(VERDICTS.map((v) => [verdictOrderOf([v]), v] as const));
  return [...new Set(rows.map((row) => row.month))].map((month) => {
    const own = rows.filter((row) => row.month === month);
    return {
      month,
      jobs: own.reduce((sum, row) => sum + row.jobs, 0),
      verdicts: own.flatMap(({ place, jobs }) => {
        const verdict: Verdict | undefined = verdictAt.get(place);
        return verdict ? [{ verdict, jobs }] : [];
      }),
    };
  });
}

/** How many pulls that were meant to count were set aside, by month. */
async function setAside(tx: Transaction): Promise<TrendsAnswer['setAside']> {
  const { rows } = await tx.execute<{ month: string; pulls: number; aside: number }>(sql`
    SELECT to_char(p.started_at AT TIME ZONE 'UTC', 'YYYY-MM') AS month,
      count(*)::int AS pulls, (count(*) FILTER (WHERE p.status = 'set-aside'))::int AS aside
    FROM pulls p JOIN jobs j ON j.id = p.job_id AND j.deleted_at IS NULL
    WHERE p.started_at IS NOT NULL AND p.status <> 'settle' GROUP BY 1 ORDER BY 1`);
  return rows.map(({ month, pulls, aside }) => ({ month, pulls, aside }));
}

/** Why pulls were set aside, the commonest first, with the pulls themselves. */
async function reasons(tx: Transaction): Promise<TrendsAnswer['reasons']> {
  const { rows } = await tx.execute<{ reason: string; pulls: number }>(sql`
    SELECT coalesce(nullif(trim(p.reason), ''), 'no reason') AS reason, count(*)::int AS pulls
    FROM pulls p JOIN jobs j ON j.id = p.job_id AND j.deleted_at IS NULL
    WHERE p.status = 'set-aside' GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT ${MOST_REASONS}`);
  const { rows: behind } = await tx.execute<{ reason: string; job: string; number: string; pull: string }>(sql`
    SELECT coalesce(nullif(trim(p.reason), ''), 'no reason') AS reason, j.id AS job, j.number, p.pull_key AS pull
    FROM pulls p JOIN jobs j ON j.id = p.job_id AND j.deleted_at IS NULL
    WHERE p.status = 'set-aside' ORDER BY p.started_at DESC NULLS LAST LIMIT 400`);
  return rows.map(({ reason, pulls }) => ({
    ...{ reason, pulls },
    behind: behind
      .filter((row) => row.reason === reason)
      .slice(0, MOST_ROWS)
      .map(({ job, number, pull }) => ({ job, number, pull })),
  }));
}

/** Minutes from the first to the last pull of a job's days over its counted pulls, the median of each month. */
async function minutes(tx: Transaction): Promise<TrendsAnswer['minutes']> {
  const { rows } = await tx.execute<{ month: string; minutes: number; jobs: number }>(sql`
    WITH days AS (
      SELECT p.job_id, date_trunc('day', p.started_at) AS day, min(p.started_at) AS first, max(p.started_at) AS last,
        count(*) FILTER (WHERE p.status = 'counted') AS counted
      FROM pulls p JOIN jobs j ON j.id = p.job_id AND j.deleted_at IS NULL
      WHERE p.started_at IS NOT NULL GROUP BY 1, 2)
    SELECT to_char(day AT TIME ZONE 'UTC', 'YYYY-MM') AS month, count(*)::int AS jobs,
      percentile_cont(0.5) WITHIN GROUP (ORDER BY extract(epoch FROM last - first) / 60 / counted)::float8 AS minutes
    FROM days WHERE counted > 1 GROUP BY 1 ORDER BY 1`);
  return rows.map(({ month, minutes: own, jobs }) => ({ month, minutes: own, jobs }));
}

/** How long each gate kept pulls waiting, by month, with the pulls that waited longest. */
async function holds(tx: Transaction): Promise<TrendsAnswer['holds']> {
  const { rows } = await tx.execute<{ gate: string; month: string; seconds: number; pulls: number }>(sql`
    SELECT h.gate, to_char(p.started_at AT TIME ZONE 'UTC', 'YYYY-MM') AS month,
      sum(h.seconds)::float8 AS seconds, count(*)::int AS pulls
    FROM pull_holds h JOIN pulls p ON p.id = h.pull_id JOIN jobs j ON j.id = p.job_id AND j.deleted_at IS NULL
    WHERE p.started_at IS NOT NULL GROUP BY 1, 2 ORDER BY 2`);
  const { rows: behind } = await tx.execute<{
    gate: string;
    job: string;
    number: string;
    pull: string;
    seconds: number;
  }>(sql`
    SELECT gate, job, number, pull, seconds FROM (
      SELECT h.gate, j.id AS job, j.number, p.pull_key AS pull, h.seconds,
        row_number() OVER (PARTITION BY h.gate ORDER BY h.seconds DESC, p.started_at DESC) AS place
      FROM pull_holds h JOIN pulls p ON p.id = h.pull_id JOIN jobs j ON j.id = p.job_id AND j.deleted_at IS NULL
      WHERE p.started_at IS NOT NULL) held
    WHERE place <= ${MOST_ROWS} ORDER BY gate, place`);
  return [...new Set(rows.map((row) => row.gate))]
    .map((gate) => {
      const own = rows.filter((row) => row.gate === gate);
      return {
        gate,
        seconds: own.reduce((sum, row) => sum + row.seconds, 0),
        pulls: own.reduce((sum, row) => sum + row.pulls, 0),
        months: own.map(({ month, seconds, pulls }) => ({ month, seconds, pulls })),
        behind: behind
          .filter((row) => row.gate === gate)
          .map(({ job, number, pull, seconds }) => ({ job, number, pull, seconds })),
      };
    })
    .sort((a, b) => b.seconds - a.seconds);
}

/** Gates that were overridden, by who did it, with the rows of the log. */
async function overrides(tx: Transaction): Promise<TrendsAnswer['overrides']> {
  const { rows } = await tx.execute<{ person: string; job: string; number: string; at: string; what: string }>(sql`
    SELECT e.person, j.id AS job, j.number, e.at, e.what FROM evidence e
    JOIN jobs j ON j.id = e.job_id AND j.deleted_at IS NULL
    WHERE e.kind = 'override' ORDER BY e.at DESC LIMIT 400`);
  const people = [...new Set(rows.map((row) => row.person))];
  return people
    .map((person) => {
      const own = rows.filter((row) => row.person === person);
      return {
        ...{ person, overrides: own.length },
        behind: own.slice(0, MOST_ROWS).map(({ job, number, at, what }) => ({ job, number, at, what })),
      };
    })
    .sort((a, b) => b.overrides - a.overrides);
}

/** What makers promise of parts that were tried, against what was found; per cent. */
async function promises(tx: Transaction): Promise<TrendsAnswer['promises']> {
  const { rows } = await tx.execute<TrendsAnswer['promises'][number] & Record<string, unknown>>(sql`
    SELECT p.id, p.name, p.promised_percent AS promised, s.cars, s.estimate AS found, s.low, s.high
    FROM part_shelves s JOIN parts p ON p.id = s.part_id
    WHERE s.measure = ${MAIN_MEASURE} AND p.promised_percent IS NOT NULL AND s.estimate IS NOT NULL
    ORDER BY p.promised_percent - s.estimate DESC`);
  return rows.map(({ id, name, promised, cars, found, low, high }) => ({ id, name, promised, cars, found, low, high }));
}
