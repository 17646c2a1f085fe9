import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bareLookup, databaseOf, now, pause, printAsked, startApplication } from './benchApp.mjs';
import { ensureBuilt, ensurePackages } from './install.mjs';

/** Measures what the demo's two years are asked for: shelves, charts, models, trends, the search; each as a ratio to a bare indexed lookup. */
export async function yearsBench() {
  await ensurePackages();
  await ensureBuilt({ web: true });
  const folder = mkdtempSync(join(tmpdir(), 'prandel-years-'));
  const app = await startApplication(folder, true);
  const client = await databaseOf(folder);
  try {
    await workedOut(app, client);
    await measure(app, client);
  } finally {
    await client.end();
    await app.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Waits until the years are in and every list is worked out. */
async function workedOut(app, client) {
  const started = now();
  for (;;) {
    const { years } = await app.ask('GET', '/demo-years');
    const { rows } = await client.query(
      'SELECT count(*)::int AS waiting FROM jobs j LEFT JOIN job_projections p ON p.job_id = j.id AND p.job_version = j.version WHERE p.job_id IS NULL AND EXISTS (SELECT 1 FROM pulls WHERE pulls.job_id = j.id)',
    );
    if (years && years.made >= years.of && rows[0].waiting === 0) break;
    if (now() - started > 600_000) throw new Error('The two years were not worked out within ten minutes.');
    await pause(500);
  }
  // As a shop finds it: the database has looked at its tables, which it does by itself.
  for (let k = 0; k < 120; k += 1) {
    const { rows } = await client.query(
      `SELECT count(*)::int AS unseen FROM pg_stat_user_tables WHERE relname IN ('jobs', 'pulls', 'pull_holds') AND (last_autoanalyze IS NULL OR n_mod_since_analyze > n_live_tup / 2)`,
    );
    if (rows[0].unseen === 0) break;
    await pause(500);
  }
  const { rows } = await client.query(
    'SELECT count(*)::int AS jobs, pg_database_size(current_database()) / 1e6 AS mb FROM jobs',
  );
  console.log(
    `two years: ${rows[0].jobs} jobs, ${Math.round(rows[0].mb)} MB, worked out after ${Math.round((now() - started) / 1000)} s`,
  );
}

async function measure(app, client) {
  const ids = async (sql) => {
    const { rows } = await client.query(sql);
    let k = 0;
    return () => rows[k++ % rows.length].id;
  };
  const { rows: shops } = await client.query('SELECT shop_id FROM jobs LIMIT 1');
  const job = await ids('SELECT id FROM jobs ORDER BY id');
  const { parts } = await app.ask('GET', '/shelf');
  let k = 0;
  const part = () => parts[k++ % parts.length].id;
  const model = await ids('SELECT id FROM model_cards');
  const bays = await app.ask('GET', '/bays');
  const bay = bays.find((b) => b.label === 'Bay 1').id;
  const words = ['silencer', 'vireo', 'QG-25', 'intake', 'mara'];
  let word = 0;
  await printAsked(app, await bareLookup(client, shops[0].shop_id, job), {
    'jobs, newest first': () => '/jobs',
    'jobs of a month': () => '/jobs?sort=opened&from=2025-05-01T00:00:00Z&before=2025-06-01T00:00:00Z',
    'the shelf': () => '/shelf',
    'a part of it': () => `/shelf/${part()}`,
    'what is expected of a part': () => `/shelf/expected?name=${encodeURIComponent('silencer, straight-through')}`,
    models: () => '/models',
    'a model': () => `/models/${model()}`,
    'charts of a bay': () => `/bays/${bay}/charts`,
    'open signals': () => '/bay-signals',
    trends: () => '/trends',
    'find anything': () => `/find?q=${encodeURIComponent(words[word++ % words.length])}`,
  });
}
