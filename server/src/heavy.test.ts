import { randomUUID } from 'node:crypto';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { USUAL_DAY, judgeJob, newJob, newPull, newSetup, type Job } from '@prandel/core';
import { writePackage, zip } from '@prandel/formats';
import { DEMO_DAYS, sampleCsvFiles, simulateDay } from '@prandel/simulator';
import { Database } from './database/database.ts';
import { JobStore } from './jobs/jobStore.ts';
import { Housekeeping } from './operations/housekeeping.ts';
import { NEW_JOB, onCluster, TestShop, upload } from './test/shop.ts';
import { FairQueue } from './work/fairQueue.ts';
import { WorkPool } from './work/workPool.ts';

const FILES = sampleCsvFiles();
let shop: TestShop;
const scratch = mkdtempSync(join(tmpdir(), 'prandel-heavy-'));
beforeAll(async () => {
  process.env.PRANDEL_SCRATCH = scratch;
  shop = await TestShop.open(process.env.HEAVY_DATABASE_URL);
});
afterAll(async () => {
  await shop?.close();
  delete process.env.PRANDEL_SCRATCH;
});

const sql = <T extends object>(text: string, values: unknown[] = []) =>
  onCluster(process.env.HEAVY_DATABASE_URL!, async (client) => {
    await client.query(`SELECT set_config('prandel.shop', (SELECT shop_id::text FROM shops), false)`);
    return (await client.query<T>(text, values)).rows;
  });
const newOne = async () => ((await shop.ask('POST', '/api/jobs', NEW_JOB)).body as { id: string }).id;
interface Staged {
  id: string | null;
  columns: { role: string; unit: string | null }[];
  problems: { message: string }[];
}
const stage = async (job: string, files: [string, string | Uint8Array][]) =>
  (await shop.ask('POST', `/api/jobs/${job}/staged-files`, upload('files', files))).body as unknown as Staged[];
const importing = (job: string, files: readonly Staged[], more: object = {}) =>
  shop.ask('POST', `/api/jobs/${job}/imports`, {
    fileIds: files.map((f) => f.id),
    setupId: 'A',
    settle: 0,
    columns: files[0]!.columns.map(({ role, unit }) => ({ role, unit })),
    numberState: { kind: 'uncorrected' },
    ...more,
  });
interface Row {
  id: string;
  state: string;
  problem: string | null;
  verdicts: { verdict: string }[];
}
/** The list, asked again until no verdict is pending. */
async function settledList(): Promise<Row[]> {
  for (let k = 0; k < 100; k += 1) {
    const answer = await shop.ask('GET', '/api/jobs');
    expect(answer.status).toBe(200);
    const { jobs } = answer.body as { jobs: Row[] };
    if (jobs.every((j) => j.state !== 'pending')) return jobs;
    await new Promise((again) => setTimeout(again, 200));
  }
  throw new Error('verdicts stay pending');
}

/** A CSV of many rows: a long pull with numbers of many digits. */
function large(rows: number): Buffer {
  const lines = ['Time (s),RPM,Power (kW),Torque (Nm),Boost (kPa),Oil (C)'];
  for (let i = 0; i < rows; i += 1) {
    const rpm = 2000 + (5000 * i) / rows;
    const wobble = Math.sin(i / 7);
    lines.push(
      `${(i / 1000).toFixed(3)},${rpm.toFixed(2)},${(90 + wobble).toFixed(4)},${(120 + wobble).toFixed(4)},${(150 + wobble).toFixed(3)},${(95 + wobble).toFixed(2)}`,
    );
  }
  return Buffer.from(lines.join('\r\n'));
}

describe('jobs that an older version stored and nobody can judge', () => {
  const base: Job = {
    ...newJob('old-1', 'Does it help?'),
    setups: [newSetup('A', 'as arrived'), newSetup('B', 'part', 'A')],
    question: { ...newJob('', '').question, baselineSetup: 'A', candidateSetups: ['B'], windowRpm: [3000, 6500] },
  };
  const pull = (rpm: number[], more: object = {}) => ({
    ...newPull('A-1', 'A', 1),
    channels: [
      { name: 'engine_rpm', values: Float64Array.from(rpm) },
      { name: 'wheel_power_w', values: Float64Array.from(rpm, () => 50_000) },
    ],
    ...more,
  });
  test.each<[string, Job, RegExp]>([
    ['engine speeds of 4.9e9', { ...base, pulls: [pull([4.9e9, 4.8e9, 4.9e9])] }, /rpm is outside 0–30000 rpm/],
    [
      'more counted pulls than are judged together',
      {
        ...base,
        pulls: Array.from({ length: 301 }, (_, i) => pull([2000, 3000], { id: `A-${i}`, status: 'counted' })),
      },
      /301 counted pulls; at most 300/,
    ],
    [
      'infinite engine speeds',
      { ...base, pulls: [pull([Infinity, Infinity, 3000])] },
      /engine speed is no finite number/i,
    ],
    [
      'a window over the whole number line',
      { ...base, question: { ...base.question, windowRpm: [1, 1e9] }, pulls: [pull([2000, 3000])] },
      /outside 0–30000 rpm/,
    ],
    [
      'a pull in the year 1',
      { ...base, pulls: [pull([2000, 3000], { startedAt: '0001-01-01T00:00:00Z' })] },
      /1990 to 2100/,
    ],
    ['a bogus time zone', { ...base, timeZone: 'Mars/Olympus', pulls: [pull([2000, 3000])] }, /no time zone/],
    [
      'a day with a limit that no channel has',
      {
        ...base,
        day: { ...USUAL_DAY, abortLimits: [{ channel: 'oil_bar', warn: null, stop: 1e9, side: 'below' }] },
        pulls: [pull([2000, 3000])],
      },
      /^This job cannot be judged\. Day\./,
    ],
  ])('%s: one sentence in its row, the others are judged, and it can be deleted', async (_, job, sentence) => {
    const [{ shop_id: shopId }] = (await sql<{ shop_id: string }>('SELECT shop_id FROM shops')) as [
      { shop_id: string },
    ];
    const store = shop.app.get(JobStore);
    const id = await shop.app.get(Database).inShop(shopId, (tx) => store.insert(tx, shopId, job, null));
    const rows = await settledList();
    const row = rows.find((r) => r.id === id)!;
    expect(row).toMatchObject({ state: 'not-judged', verdicts: [] });
    expect(row.problem).toMatch(sentence);
    for (const path of ['report.html', 'report.json']) {
      const report = await shop.ask('GET', `/api/jobs/${id}/${path}`);
      expect(report).toMatchObject({ status: 422, body: { detail: row.problem } });
    }
    expect((await shop.ask('DELETE', `/api/jobs/${id}`)).status).toBe(204);
    expect((await settledList()).map((r) => r.id)).not.toContain(id);
  });
});

describe('imports', () => {
  test('the same bytes and the same samples under another name do not become two counted pulls', async () => {
    const job = await newOne();
    const [first, second] = FILES;
    const twice = await stage(job, [first!, ['copy.csv', first![1]]]);
    expect(twice[1]).toMatchObject({
      id: null,
      problems: [{ message: expect.stringContaining('among these') as unknown }],
    });
    expect((await importing(job, [twice[0]!])).body).toEqual({ pulls: 1 });
    // Another file around the same samples.
    const renamed = await stage(job, [['other.csv', first![1].replace('\n', '\n# exported again\n')]]);
    const refused = await importing(job, renamed);
    expect(refused.status).toBe(422);
    expect(JSON.stringify(refused.body)).toMatch(/same samples as pull A-1 of this job/);
    expect((await importing(job, await stage(job, [second!]))).body).toEqual({ pulls: 1 });
    expect(await sql('SELECT 1 FROM pulls WHERE job_id = $1', [job])).toHaveLength(2);
  });

  test('while a large file is read, light requests are answered, progress is told, and the bytes come back whole', async () => {
    const job = await newOne();
    const bytes = large(400_000);
    const task = randomUUID();
    let done = false;
    const upload_ = shop
      .ask('POST', `/api/jobs/${job}/staged-files?task=${task}`, upload('files', [['long.csv', bytes]]))
      .finally(() => (done = true));
    const shares: number[] = [];
    let light = 0;
    while (!done) {
      const progress = await shop.ask('GET', `/api/tasks/${task}`);
      if (progress.status === 200) shares.push((progress.body as { share: number }).share);
      if (!done) light += 1;
    }
    const [file] = (await upload_).body as unknown as Staged[];
    expect(light).toBeGreaterThan(5);
    expect(shares.some((s) => s > 0 && s < 1)).toBe(true);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect((await importing(job, [file!])).body).toEqual({ pulls: 1 });
    const original = await shop.ask('GET', `/api/jobs/${job}/files/${file!.id}`);
    expect(Buffer.compare(original.body as Buffer, bytes)).toBe(0);
    const [stored] = await sql<{ n: number }>(
      'SELECT length(samples) / 8 AS n FROM channels c JOIN pulls p ON p.id = c.pull_id WHERE p.job_id = $1 LIMIT 1',
      [job],
    );
    expect(stored!.n).toBe(400_000);
  });

  test('cancelled in the middle, nothing is kept: no row, no file on disk', async () => {
    const job = await newOne();
    const cancel = new AbortController();
    const form = upload('files', [
      ['a.csv', FILES[0]![1]],
      ['long.csv', large(400_000)],
    ]);
    const task = randomUUID();
    const asked = fetch(`${shop.base}/api/jobs/${job}/staged-files?task=${task}`, {
      method: 'POST',
      headers: { cookie: shop.cookie, connection: 'close' },
      body: form,
      signal: cancel.signal,
    });
    for (let k = 0; k < 200 && (await shop.ask('GET', `/api/tasks/${task}`)).status !== 200; k += 1);
    await new Promise((on) => setTimeout(on, 60));
    cancel.abort();
    await expect(asked).rejects.toThrow();
    for (let k = 0; k < 100 && (await shop.ask('GET', `/api/tasks/${task}`)).status === 200; k += 1)
      await new Promise((again) => setTimeout(again, 50));
    expect(await sql('SELECT 1 FROM files WHERE job_id = $1', [job])).toHaveLength(0);
    expect(readdirSync(scratch).filter((f) => f.endsWith('.upload'))).toEqual([]);
  });

  test('a table that this machine does not have is made anew from the stored bytes', async () => {
    const job = await newOne();
    const staged = await stage(job, [FILES[0]!]);
    for (const name of readdirSync(scratch)) rmSync(join(scratch, name));
    const preview = await shop.ask('POST', `/api/jobs/${job}/import-preview`, {
      fileIds: staged.map((f) => f.id),
      columns: staged[0]!.columns.map(({ role, unit }) => ({ role, unit })),
    });
    expect(preview.body).toHaveLength(1);
  });

  test('more channels than a pull holds are refused with what to do', async () => {
    const job = await newOne();
    const wide = ['rpm,kW', ...Array.from({ length: 70 }, (_, i) => `x${i}`)].join(',');
    const rows = Array.from({ length: 20 }, (_, i) => [2000 + 100 * i, 50, ...Array<number>(70).fill(i)].join(','));
    const staged = await stage(job, [['wide.csv', `${wide}\n${rows.join('\n')}`]]);
    expect((await importing(job, staged)).body).toMatchObject({
      status: 400,
      detail: expect.stringMatching(/72 columns would be kept; a pull holds at most 64/) as unknown,
    });
  });
});

describe('work in threads', () => {
  test('shops take turns, and what is taken back is not done', () => {
    const queue = new FairQueue<string>();
    for (const piece of ['a1', 'a2', 'a3']) queue.push('a', piece);
    queue.push('b', 'b1');
    queue.push('c', 'c1');
    expect(queue.remove('a', 'a2')).toBe(true);
    expect(queue.remove('a', 'a2')).toBe(false);
    expect(Array.from({ length: 5 }, () => queue.shift())).toEqual(['a1', 'b1', 'c1', 'a3', undefined]);
  });

  test('work that takes too long is stopped with a sentence, and the pool goes on', async () => {
    const pool = shop.app.get(WorkPool);
    const path = join(scratch, 'slow.csv');
    writeFileSync(path, large(800_000));
    const input = () => ({ input: { path, tablePath: join(scratch, 'slow.table') } });
    await expect(pool.run('shop', 'readPullFile', input, { timeoutS: 0.2 })).rejects.toThrow('took longer than 0.2 s');
    writeFileSync(path, FILES[0]![1]);
    expect((await pool.run('shop', 'readPullFile', input, { timeoutS: 60 })).pulls).toHaveLength(1);
  });

  test('a report and a package are made in a thread, with the same digits as anywhere', async () => {
    const form = new FormData();
    const day = simulateDay(DEMO_DAYS[0]!);
    form.append('file', new Blob([new Uint8Array(await zip(writePackage(day)))]), 'day.zip');
    const { id } = (await shop.ask('POST', '/api/packages', form)).body as { id: string };
    const numbers = (await shop.ask('GET', `/api/jobs/${id}/report.json`)).body as {
      verdicts: { gain: { value: number } }[];
    };
    expect(numbers.verdicts[0]!.gain.value).toBe(judgeJob(day).verdicts[0]!.gain!.value);
    const back = (await shop.ask('GET', `/api/jobs/${id}/package`)).body as Buffer;
    expect(back.subarray(0, 2).toString()).toBe('PK');
    expect((await shop.ask('GET', `/api/jobs/${id}/report.html`)).headers.get('content-security-policy')).toContain(
      "frame-ancestors 'self'",
    );
  });
});

describe('what is deleted', () => {
  test('a job goes and comes back; after thirty days only its row and its log stay', async () => {
    const job = await newOne();
    await importing(job, await stage(job, [FILES[0]!]));
    expect((await shop.ask('DELETE', `/api/jobs/${job}`)).status).toBe(204);
    expect((await shop.ask('GET', `/api/jobs/${job}`)).status).toBe(404);
    const deleted = (await shop.ask('GET', '/api/jobs/deleted')).body as unknown as { id: string }[];
    expect(deleted.map((j) => j.id)).toContain(job);
    expect((await shop.ask('POST', `/api/jobs/${job}/restore`)).status).toBe(204);
    expect((await shop.ask('GET', `/api/jobs/${job}`)).status).toBe(200);
    await shop.ask('DELETE', `/api/jobs/${job}`);
    await sql(`UPDATE jobs SET deleted_at = now() - interval '31 days' WHERE id = $1`, [job]);
    await sql(`UPDATE files SET added_at = now() - interval '2 days' WHERE kind = 'staged'`);
    await shop.app.get(Housekeeping).tidy();
    expect((await shop.ask('POST', `/api/jobs/${job}/restore`)).status).toBe(404);
    for (const table of ['pulls', 'setups', 'files'])
      expect(await sql(`SELECT 1 FROM ${table} WHERE job_id = $1`, [job])).toHaveLength(0);
    expect((await sql('SELECT 1 FROM evidence WHERE job_id = $1', [job])).length).toBeGreaterThan(2);
    expect(await sql(`SELECT 1 FROM files WHERE kind = 'staged'`)).toHaveLength(0);
  });

  test('health tells an operator what works, and nothing of whom', async () => {
    const { status, body } = await shop.ask('GET', '/api/health', undefined, '');
    expect(status).toBe(200);
    expect(body).toMatchObject({
      live: true,
      ready: true,
      database: 'ok',
      bays: 'ok',
      waitingSamples: 0,
      quarantined: 0,
    });
    expect(JSON.stringify(body)).not.toMatch(/Quillmoor|Ines|Vireo/);
  });
});
