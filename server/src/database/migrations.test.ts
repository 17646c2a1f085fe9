import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { declared, judgeJob, UNKNOWN_CARD, USUAL_DAY, type Job, faultSearchesOf } from '@prandel/core';
import { brokenRow, writePackage, type EvidenceRow, type PackageFiles } from '@prandel/formats';
import { demoJobs, demoRecords } from '@prandel/simulator';
import pg from 'pg';
import { JobStore } from '../jobs/jobStore.ts';
import { insertOld, oldSchema, readOld } from '../test/oldShop.ts';
import { Database } from './database.ts';

const SHOPS = ['11111111-1111-4111-8111-111111111111', '22222222-2222-4222-8222-222222222222'] as const;
const JOBS = ['aaaaaaaa-aaaa-4aaa-8aaa-aaaaaaaaaaaa', 'bbbbbbbb-bbbb-4bbb-8bbb-bbbbbbbbbbbb'] as const;

let client: pg.Client;
let database: Database;

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
  process.env.DATABASE_URL = url;
  database = new Database();
});
afterAll(async () => {
  await client.end();
  await database.onApplicationShutdown();
});

test('a database of the first version is brought up to date: its log becomes a chain that holds, nothing is lost', async () => {
  await oldSchema(client, 2);
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

test('every table carries its shop and is closed to other shops', async () => {
  const { rows } = await client.query<{ name: string; secured: boolean; forced: boolean; shop: boolean }>(`
    SELECT c.relname AS name, c.relrowsecurity AS secured, c.relforcerowsecurity AS forced,
      EXISTS (SELECT 1 FROM pg_attribute a WHERE a.attrelid = c.oid AND a.attname = 'shop_id' AND a.attnotnull) AS shop
    FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
    WHERE n.nspname = 'public' AND c.relkind = 'r' ORDER BY 1`);
  expect(rows.length).toBeGreaterThan(15);
  for (const table of rows) {
    // Tries to sign in are counted before any shop is known, by digests only.
    if (table.name === 'sign_in_tries') continue;
    expect(table).toMatchObject({ shop: true, secured: true, forced: true });
  }
  const seen = await inShop(SHOPS[1], () => client.query('SELECT 1 FROM evidence UNION ALL SELECT 1 FROM jobs'));
  expect(seen.rowCount).toBe(0);
});

describe('jobs of older versions', () => {
  /** A demo job with everything a day can hold, and what only a foreign package writes. */
  const odd = (job: Job): Job => ({
    ...job,
    id: 'QG-ODD',
    openedAt: '2026-05-02T10:00:00+02:00',
    bay: {
      ...job.bay,
      lossTorqueNm: [2.1, 0.04, 0.0003],
      readoutScale: 1.08,
      calibrationEpoch: '2026-05',
      elevationM: 310,
    },
    vehicle: { ...job.vehicle, heatSensitive: true },
    method: {
      ...job.method,
      gates: { intakeC: 2 },
      compressionIgnition: { turbocharged: true, fuelMgPerLitreCycle: 55, boostPressureRatio: 1.8 },
    },
    setups: job.setups.map((s, i) => ({
      ...s,
      remounted: i === 1,
      partCost: 340.5,
      supplier: 'Tarn; Owners',
      ...(i === 1 ? declared('part fitted: Electric steering pump;  tune: rev 4; gear oil, bonnet open') : {}),
    })),
    pulls: job.pulls.map((p, i) => ({
      ...p,
      startedAt: i === 0 ? '2026-05-02T10:05:00.5+02:00' : p.startedAt,
      numberState: i === 1 ? { kind: 'corrected' as const, standard: 'din-70020', factor: 1.0215 } : p.numberState,
      ...(i === 2 ? { marks: ['Gate overridden (time): intake', 'set aside after seeing the result'] } : {}),
    })),
    day: {
      ...USUAL_DAY,
      ...job.day,
      intake: { Tyres: 'new', 'Small losses found': 'a dragging brake' },
      abortLimits: [{ channel: 'oil_bar', warn: 1.5, stop: 1.2, side: 'below' }],
      modelCard: {
        ...UNKNOWN_CARD,
        label: 'Tarn Vireo 1.8',
        gear: '4',
        safeRpm: [2000, 7000],
        baselinesSeenW: [61_000, 62_500.5],
        chargeAir: { sensor: 'before-cooler', warnC: 150, stopC: null },
      },
      closedEarly: { 'B#1': 'Heat' },
      amendments: [
        {
          at: '2026-05-02T11:00:00.000Z',
          who: 'Ines R.',
          reason: 'tow',
          what: 'window 3000–6500 rpm to 2500–5000 rpm',
        },
      ],
      // Older versions kept the looks alone; they become a search.
      searches: faultSearchesOf(undefined, [
        { suspect: 'straps', result: 'found', who: 'Ines R.', at: '2026-05-02T08:20:00.000Z' },
      ]),
      plan: {
        ...USUAL_DAY.plan,
        forecastC: [12, 21.5],
        order: 'randomised',
        drawn: { seed: 2_147_483_999, candidates: ['B'] },
        extended: { at: '2026-05-02T12:00:00.000Z', declared: false, rounds: [{ setup: 'A', settle: 1, counted: 2 }] },
      },
      // What this version does not know of a package.
      ...({ driverAids: { traction: 'off' } } as object),
    },
  });

  test.each([
    ['the oldest version', 2],
    ['the last version that kept documents', 10],
  ])('%s: packages are the same before and after, and judge to the same digits', async (_, migrations) => {
    const withDay = migrations > 2;
    await oldSchema(client, migrations);
    const [first, second] = demoJobs().slice(0, 2) as [Job, Job];
    const jobs = [first, second, odd(first)];
    const before: { id: string; files: PackageFiles; verdicts: unknown }[] = [];
    await inShop(SHOPS[0], async () => {
      await client.query('INSERT INTO installation (shop_id) VALUES ($1)', [SHOPS[0]]);
      await client.query('INSERT INTO shops VALUES ($1, $2)', [SHOPS[0], 'Quillmoor Garage']);
      if (withDay) {
        await client.query(
          `INSERT INTO bays (shop_id, label, paper, instruments) VALUES ($1, 'Bay 1', $2, '{"rollers": {"host": "127.0.0.1", "port": 9}}')`,
          [SHOPS[0], JSON.stringify(first.bay)],
        );
        for (const { kind, label, fields } of demoRecords())
          await client.query('INSERT INTO records (shop_id, kind, label, paper) VALUES ($1, $2, $3, $4)', [
            ...[SHOPS[0], kind, label, JSON.stringify(fields)],
          ]);
      }
      for (const job of jobs) {
        const id = await insertOld(client, SHOPS[0], job, withDay);
        const old = await readOld(client, id, withDay);
        before.push({ id, files: writePackage(old), verdicts: judgeJob(old, 'verdict').verdicts });
      }
    });
    await database.migrate();
    const store = new JobStore();
    for (const { id, files, verdicts } of before) {
      const { job, links } = await database.inShop(SHOPS[0], (tx) => store.read(tx, id, true));
      const now = writePackage(job);
      expect([...now.keys()]).toEqual([...files.keys()]);
      for (const [path, bytes] of files) {
        const [a, b] = [bytes, now.get(path)!].map((x) => Buffer.from(x).toString());
        // The members of a JSON object have no order; everything else is the same byte for byte.
        if (path === 'datapackage.json') expect(JSON.parse(b!)).toEqual(JSON.parse(a!));
        else expect([path, b === a]).toEqual([path, true]);
      }
      expect(judgeJob(job, 'verdict').verdicts).toEqual(verdicts);
      expect(links.vehicleId).not.toBeNull();
      expect(links.bayId !== null).toBe(withDay);
    }
    if (!withDay) return;
    const parts = await inShop(SHOPS[0], () =>
      client.query(`SELECT c.kind, c.part_name, p.name FROM setup_changes c JOIN parts p ON p.id = c.part_id`),
    );
    expect(parts.rows).toEqual([
      { kind: 'part-fitted', part_name: 'Electric steering pump', name: 'Electric steering pump' },
    ]);
  });
});
