import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt, ensurePackages } from './install.mjs';
import { fillShop } from './scaleFiller.mjs';
import { bareLookup, databaseOf, printAsked, startApplication } from './benchApp.mjs';

const PULLS = 25;

/** Measures lists, searches and details of a shop of so many jobs, each as a ratio to a bare indexed lookup. Never a gate. */
export async function scaleBench(sizes) {
  await ensurePackages();
  await ensureBuilt({ web: true });
  for (const jobs of sizes) {
    const folder = mkdtempSync(join(tmpdir(), 'prandel-scale-'));
    const app = await startApplication(folder);
    try {
      await measure(app, folder, jobs);
    } finally {
      await app.stop();
      rmSync(folder, { recursive: true, force: true });
    }
  }
}

/** Mulberry32, a small seeded generator. */
function generator(seed) {
  let state = seed;
  return (below) => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return Math.floor((((t ^ (t >>> 14)) >>> 0) / 4_294_967_296) * below);
  };
}

async function measure(app, folder, jobs) {
  const client = await databaseOf(folder);
  try {
    await measureWith(client, app, jobs);
  } finally {
    await client.end();
  }
}

async function measureWith(client, app, jobs) {
  const started = performance.now();
  const { shopId, words } = await fillShop(client, jobs, PULLS);
  const filled = (performance.now() - started) / 1000;
  const { rows: size } = await client.query('SELECT pg_database_size(current_database()) / 1e6 AS mb');
  console.log(
    `${jobs.toLocaleString('en-GB')} jobs, ${(jobs * PULLS).toLocaleString('en-GB')} pulls, filled in ${filled.toFixed(0)} s, ${Math.round(size[0].mb).toLocaleString('en-GB')} MB`,
  );
  const random = generator(20261126);
  const idOf = async (table) => {
    const { rows } = await client.query(`SELECT id FROM ${table} WHERE shop_id = $1 ORDER BY id LIMIT 5000`, [shopId]);
    return () => rows[random(rows.length)].id;
  };
  const [job, vehicle, bay] = [await idOf('jobs'), await idOf('vehicles'), await idOf('bays')];
  const bare = await bareLookup(client, shopId, job);
  const pick = (list) => list[random(list.length)];
  const encoded = (text) => encodeURIComponent(text);
  const asked = {
    'who asks (session)': () => '/session',
    'list, newest first': () => '/jobs',
    'list, by verdict': () => '/jobs?sort=verdict',
    'list, by title': () => '/jobs?sort=title',
    'list, oldest opened first': () => '/jobs?sort=opened&direction=rising',
    'list, a page far down': () => `/jobs?sort=number&after=${encoded(`${job()}~${words.number(random(jobs))}`)}`,
    'search: a car': () => `/jobs?q=${encoded(words.model(random(1000)))}`,
    'search: a job number': () => `/jobs?q=${encoded(words.number(random(jobs)))}`,
    'search: a part number': () => `/jobs?q=${encoded(words.part(random(200)))}`,
    'search: a customer and a common word': () => `/jobs?q=${encoded(`${words.customer(random(jobs))} does`)}`,
    'search: two common words': () => '/jobs?q=does%20help',
    'search: nothing there': () => `/jobs?q=xyzzy${random(1e6)}`,
    'filter: a common verdict': () => `/jobs?verdict=${pick(['verified-gain', 'not-resolved'])}`,
    'filter: a rare verdict': () => '/jobs?verdict=verified-loss',
    'filter: a bay': () => `/jobs?bay=${bay()}`,
    'filter: a month': () => `/jobs?sort=opened&${words.month(random(36))}`,
    'filter: car, verdict and year': () =>
      `/jobs?q=${encoded(words.model(random(1000)))}&verdict=not-resolved&${words.month(random(12), 12)}`,
    'records: first page': () => `/records?kind=${pick(['vehicle', 'customer', 'part'])}`,
    'records: search': () => `/records?kind=vehicle&q=${encoded(words.model(random(1000)))}`,
    'detail: a job': () => `/jobs/${job()}`,
    'detail: its log': () => `/jobs/${job()}/log`,
    'detail: a car': () => `/records/vehicle/${vehicle()}`,
  };
  await printAsked(app, bare, asked);
}
