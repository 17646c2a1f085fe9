import { Injectable } from '@nestjs/common';
import { and, inArray, isNull, sql } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { parts } from '../database/schema.ts';
import { wordRanges, type WordRange } from '../database/words.ts';
import type { FindAnswer, Found } from '../http/coreAnswers.ts';
import { jobPage } from '../jobs/jobList.ts';
import { jobConditions } from '../jobs/jobSearch.ts';
import type { Caller } from '../people/caller.ts';
import { RECORD_TABLES, type RecordKind } from '../records/recordFields.ts';

const MOST_JOBS = 8;
const MOST_RECORDS = 5;
/** Kinds that a person looks for. */
const KINDS = ['part', 'model-card', 'vehicle', 'customer'] as const satisfies readonly RecordKind[];

/** Finds anything by beginnings of its words: jobs and their numbers, cars, customers, parts, models. */
@Injectable()
export class FindService {
  constructor(private readonly database: Database) {}

  find(caller: Caller, q: string): Promise<FindAnswer> {
    const ranges = wordRanges(q);
    // A beginning of under three letters may be that of anything.
    if (ranges.length === 0) return Promise.resolve({ found: [] });
    return this.database.inShop(caller.shopId, async (tx) => {
      const found: Found[] = [];
      for (const kind of KINDS) found.push(...(await records(tx, kind, ranges)));
      const conditions = await jobConditions(tx, { q });
      const rows = conditions === null ? [] : await jobPage(tx, { q }, conditions, MOST_JOBS);
      const jobs = rows.map(({ id, number, title, vehicle }): Found => ({
        ...{ kind: 'job', id, label: title, about: `${number}, ${vehicle}` },
      }));
      return { found: [...jobs, ...found] };
    });
  }
}

async function records(tx: Transaction, kind: (typeof KINDS)[number], ranges: readonly WordRange[]): Promise<Found[]> {
  const [first, ...more] = ranges.map(({ from, until }) =>
    until === null ? sql`w.word = ${from}` : sql`w.word >= ${from} AND w.word < ${until}`,
  );
  const rest = more.map(
    (range) => sql` AND w.record_id IN (SELECT w.record_id FROM record_words w WHERE w.kind = ${kind} AND ${range})`,
  );
  const { rows } = await tx.execute<{ id: string }>(
    sql`SELECT DISTINCT w.record_id AS id FROM record_words w WHERE w.kind = ${kind} AND ${first}${sql.join(rest)} LIMIT ${MOST_RECORDS}`,
  );
  let ids = rows.map(({ id }) => id);
  if (kind === 'part' && ids.length > 0) {
    const kept = await tx
      .select({ id: parts.id })
      .from(parts)
      .where(and(inArray(parts.id, ids), isNull(parts.mergedInto)));
    ids = kept.map(({ id }) => id);
  }
  if (ids.length === 0) return [];
  const read = await RECORD_TABLES[kind].read(tx, ids);
  return read
    .map(({ id, label, fields }): Found => ({ kind, id, label, about: aboutOf(kind, fields) }))
    .sort((a, b) => (a.label < b.label ? -1 : 1));
}

function aboutOf(kind: Found['kind'], fields: Readonly<Record<string, unknown>>): string {
  const names = {
    part: ['kind', 'number'],
    'model-card': [],
    vehicle: ['registration', 'owner'],
    customer: ['contact'],
    job: [],
  }[kind];
  return names
    .map((name) => fields[name])
    .filter((v) => typeof v === 'string' && v !== '')
    .join(', ');
}
