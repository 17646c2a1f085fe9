import { readFileSync } from 'node:fs';
import { changesColumn, declared, faultSearchesOf, type Channel, type Job, type Pull, type Setup } from '@prandel/core';
import type pg from 'pg';

const folder = new URL('../../migrations/', import.meta.url);
const JOURNAL = JSON.parse(readFileSync(new URL('meta/_journal.json', folder), 'utf8')) as {
  entries: { when: number; tag: string }[];
};

/** The schema of an older version: its first migrations, as the migrator keeps them. */
export async function oldSchema(client: pg.Client, migrations: number): Promise<void> {
  for (const sql of ['DROP SCHEMA IF EXISTS drizzle CASCADE', 'DROP SCHEMA public CASCADE', 'CREATE SCHEMA public'])
    await client.query(sql);
  await client.query('CREATE SCHEMA drizzle');
  await client.query('CREATE TABLE drizzle.__drizzle_migrations (id serial PRIMARY KEY, hash text, created_at bigint)');
  for (const { when, tag } of JOURNAL.entries.slice(0, migrations)) {
    for (const statement of readFileSync(new URL(`${tag}.sql`, folder), 'utf8').split('--> statement-breakpoint'))
      if (statement.trim()) await client.query(statement);
    await client.query('INSERT INTO drizzle.__drizzle_migrations (hash, created_at) VALUES ($1, $2)', [tag, when]);
  }
}

/** Puts a job into the tables of a version that kept documents, as that version did. @returns the id of its row */
export async function insertOld(client: pg.Client, shopId: string, job: Job, withDay: boolean): Promise<string> {
  const { rows } = await client.query<{ id: string }>(
    `INSERT INTO jobs (shop_id, number, title, opened_at, time_zone, vehicle, bay, question, method, weather)
     VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) RETURNING id`,
    [
      ...[shopId, job.id, job.title, job.openedAt, job.timeZone],
      ...[job.vehicle, job.bay, job.question, job.method].map((part) => JSON.stringify(part)),
      JSON.stringify(job.weather),
    ],
  );
  const id = rows[0]!.id;
  if (withDay && job.day) {
    const { searches = [], ...day } = job.day;
    const looks = searches.flatMap((s) =>
      s.looks.map(({ suspect, result, who, at }) => ({ suspect, result, who, at })),
    );
    const old = looks.length > 0 ? { ...day, search: looks } : day;
    await client.query('UPDATE jobs SET day = $2 WHERE id = $1', [id, JSON.stringify(old)]);
  }
  for (const [place, setup] of job.setups.entries())
    await client.query('INSERT INTO setups (shop_id, job_id, setup_key, place, paper) VALUES ($1, $2, $3, $4, $5)', [
      ...[shopId, id, setup.id, place, JSON.stringify(oldSetup(setup))],
    ]);
  for (const [place, { id: key, setupId, status, reason, startedAt, channels, ...rest }] of job.pulls.entries()) {
    const made = await client.query<{ id: string }>(
      `INSERT INTO pulls (shop_id, job_id, pull_key, setup_key, place, status, reason, started_at, paper)
       VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) RETURNING id`,
      [shopId, id, key, setupId, place, status, reason, startedAt, JSON.stringify(rest)],
    );
    for (const [k, c] of channels.entries())
      await client.query('INSERT INTO channels (shop_id, pull_id, place, name, samples) VALUES ($1, $2, $3, $4, $5)', [
        ...[shopId, made.rows[0]!.id, k, c.name],
        Buffer.from(c.values.buffer, c.values.byteOffset, c.values.byteLength),
      ]);
  }
  return id;
}

/** A setup as a document: its changes are one text, and no state is declared beside it. */
type OldSetup = Omit<Setup, 'changes' | 'declares'> & { readonly changes: string };

function oldSetup({ changes, declares: _, ...rest }: Setup): OldSetup {
  return { ...rest, changes: changesColumn(changes) };
}

/** The job as the version that kept documents read it. */
export async function readOld(client: pg.Client, id: string, withDay: boolean): Promise<Job> {
  const { rows } = await client.query<Record<string, unknown>>('SELECT * FROM jobs WHERE id = $1', [id]);
  const row = rows[0]!;
  const setups = await client.query<{ paper: OldSetup }>('SELECT paper FROM setups WHERE job_id = $1 ORDER BY place', [
    id,
  ]);
  const pulls = await client.query<{
    id: string;
    pull_key: string;
    setup_key: string;
    status: Pull['status'];
    reason: string | null;
    started_at: string | null;
    paper: Omit<Pull, 'id' | 'setupId' | 'status' | 'reason' | 'startedAt' | 'channels'>;
  }>('SELECT * FROM pulls WHERE job_id = $1 ORDER BY place', [id]);
  const list: Pull[] = [];
  for (const p of pulls.rows) {
    const { rows: own } = await client.query<{ name: string; samples: Buffer }>(
      'SELECT name, samples FROM channels WHERE pull_id = $1 ORDER BY place',
      [p.id],
    );
    const channels: Channel[] = own.map((c) => ({
      name: c.name,
      values: new Float64Array(new Uint8Array(c.samples).buffer),
    }));
    const { pull_key, setup_key, status, reason, started_at } = p;
    list.push({ ...p.paper, id: pull_key, setupId: setup_key, status, reason, startedAt: started_at, channels });
  }
  const { number, title, opened_at, time_zone, vehicle, bay, question, method, weather, day } = row;
  return {
    ...{ id: number, title, openedAt: opened_at, timeZone: time_zone, vehicle, bay, question, method, weather },
    setups: setups.rows.map(({ paper: { changes, ...rest } }) => ({ ...rest, ...declared(changes) })),
    ...(withDay && day ? { day: dayNow(day as NonNullable<Job['day']>) } : {}),
    pulls: list,
  } as Job;
}

/** The day as this version writes it: the looks of older ones are a search. */
function dayNow({ search, ...day }: NonNullable<Job['day']> & { search?: unknown }): NonNullable<Job['day']> {
  const searches = faultSearchesOf(undefined, search);
  return searches.length > 0 ? { ...day, searches } : day;
}
