import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { brokenRow, type EvidenceRow } from '@prandel/formats';
import pg from 'pg';
import { Database } from './database.ts';

const SHOPS = ['11111111-1111-4111-8111-111111111111', '22222222-2222-4222-8222-222222222222'] as const;
const JOBS = ['aaaaaaaa-aaaa-4aaa-8aaa-aaaaaaaaaaaa', 'bbbbbbbb-bbbb-4bbb-8bbb-bbbbbbbbbbbb'] as const;

let client: pg.Client;
let database: Database;

/** The statements of a checked-in migration. */
const migration = (name: string) =>
  readFileSync(new URL(`../../migrations/${name}.sql`, import.meta.url), 'utf8').split('--> statement-breakpoint');

async function inShop<T>(shop: string, work: () => Promise<T>): Promise<T> {
  await client.query('BEGIN');
  await client.query(`SELECT set_config('prandel.shop', $1, true)`, [shop]);
  const result = await work();
  await client.query('COMMIT');
  return result;
}

beforeAll(async () => {
  const url = process.env.OLD_DATABASE_URL;
  if (!url) throw new Error('OLD_DATABASE_URL is not set; run the tests with ./prandel test.');
  client = new pg.Client({ connectionString: url });
  await client.connect();
  for (const sql of ['DROP SCHEMA IF EXISTS drizzle CASCADE', 'DROP SCHEMA public CASCADE', 'CREATE SCHEMA public'])
    await client.query(sql);
  process.env.DATABASE_URL = url;
  database = new Database();
});
afterAll(async () => {
  await client.end();
  await database.onApplicationShutdown();
});

test('a database of the first version is brought up to date: its log becomes a chain that holds, nothing is lost', async () => {
  for (const name of ['0000_start', '0001_keep_shops_apart'])
    for (const statement of migration(name)) await client.query(statement);
  // What the migrator keeps of migrations that were applied.
  await client.query('CREATE SCHEMA drizzle');
  await client.query('CREATE TABLE drizzle.__drizzle_migrations (id serial PRIMARY KEY, hash text, created_at bigint)');
  const journal = JSON.parse(readFileSync(new URL('../../migrations/meta/_journal.json', import.meta.url), 'utf8')) as {
    entries: { when: number; tag: string }[];
  };
  for (const { when, tag } of journal.entries.slice(0, 2))
    await client.query('INSERT INTO drizzle.__drizzle_migrations (hash, created_at) VALUES ($1, $2)', [tag, when]);
  const said = ['Opened the job.', 'Set pull A·5 aside: "fan moved", twice', 'Line one\nline two, ü and ·'];
  await inShop(SHOPS[0], async () => {
    await client.query('INSERT INTO installation (shop_id) VALUES ($1)', [SHOPS[0]]);
    await client.query('INSERT INTO shops VALUES ($1, $2)', [SHOPS[0], 'Quillmoor Garage']);
    for (const [k, job] of JOBS.entries()) {
      await client.query(
        `INSERT INTO jobs (id, shop_id, number, title, vehicle, bay, question, method) VALUES ($1, $2, $3, 'x', '{}', '{}', '{}', '{}')`,
        [job, SHOPS[0], `QG-${k}`],
      );
      for (const [i, what] of said.entries())
        await client.query('INSERT INTO actions (shop_id, job_id, at, person, what) VALUES ($1, $2, $3, $4, $5)', [
          SHOPS[0],
          job,
          new Date(Date.UTC(2026, 8, 14, 8, 20 - i * 3, 7, 42)),
          'Ines "R."',
          what,
        ]);
    }
  });
  await database.migrate();
  for (const job of JOBS) {
    const { rows } = await inShop(SHOPS[0], () =>
      client.query<EvidenceRow>(
        'SELECT n, at, person, kind, what, detail, hash FROM evidence WHERE job_id = $1 ORDER BY n',
        [job],
      ),
    );
    // In the order in which things happened, not in which they were written down.
    expect(rows.map((row) => row.what)).toEqual([...said].reverse());
    expect(rows[0]).toMatchObject({ n: 1, at: '2026-09-14T08:14:07.042Z', person: 'Ines "R."', kind: 'edit' });
    expect(brokenRow(rows)).toBeNull();
  }
  expect((await client.query(`SELECT to_regclass('actions') AS gone`)).rows).toEqual([{ gone: null }]);
});

test('migrating again, and by two servers at once, changes nothing', async () => {
  const count = async () =>
    (await client.query<{ count: string }>('SELECT count(*) FROM drizzle.__drizzle_migrations')).rows;
  const before = await count();
  const second = new Database();
  await Promise.all([database.migrate(), second.migrate()]);
  await second.onApplicationShutdown();
  expect(await count()).toEqual(before);
});

test('every table but the installation carries its shop and is closed to other shops', async () => {
  const { rows } = await client.query<{ name: string; secured: boolean; forced: boolean; shop: boolean }>(`
    SELECT c.relname AS name, c.relrowsecurity AS secured, c.relforcerowsecurity AS forced,
      EXISTS (SELECT 1 FROM pg_attribute a WHERE a.attrelid = c.oid AND a.attname = 'shop_id' AND a.attnotnull) AS shop
    FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
    WHERE n.nspname = 'public' AND c.relkind = 'r' ORDER BY 1`);
  expect(rows.length).toBeGreaterThan(15);
  for (const table of rows) {
    // Tries to sign in are counted before any shop is known, by digests only.
    if (table.name === 'sign_in_tries') continue;
    expect(table).toMatchObject({ shop: true });
    if (table.name !== 'installation') expect(table).toMatchObject({ secured: true, forced: true });
  }
  const seen = await inShop(SHOPS[1], () => client.query('SELECT 1 FROM evidence UNION ALL SELECT 1 FROM jobs'));
  expect(seen.rowCount).toBe(0);
});
