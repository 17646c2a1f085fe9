import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { readPackage, unzip, writePackage, zip } from '@prandel/formats';
import { judgeJob } from '@prandel/core';
import { DEMO_DAYS, sampleCsvFiles, simulateDay } from '@prandel/simulator';
import pg from 'pg';
import { createApp } from './createApp.ts';

const mother = process.env.DATABASE_URL;
let app: NestExpressApplication;
let base = '';
let cookie = '';

/** Runs SQL on the test cluster's own database, outside the application. */
async function onCluster<T>(url: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

async function ask(method: string, path: string, body?: unknown, as = cookie) {
  const form = body instanceof FormData;
  const response = await fetch(base + path, {
    method,
    headers: { cookie: as, connection: 'close', ...(body && !form ? { 'content-type': 'application/json' } : {}) },
    ...(body ? { body: form ? body : JSON.stringify(body) } : {}),
  });
  const type = response.headers.get('content-type') ?? '';
  return {
    status: response.status,
    headers: response.headers,
    body: (type.includes('json') ? await response.json() : Buffer.from(await response.arrayBuffer())) as never,
  };
}

const upload = (name: string, files: [string, Uint8Array | string][]) => {
  const form = new FormData();
  for (const [file, content] of files) form.append(name, new Blob([content as never]), file);
  return form;
};

const NEW_JOB = {
  title: 'Does it help?',
  vehicle: { label: 'Tarn Vireo' },
  bay: { label: 'Bay 1', rollerInertiaKgM2: 26.4 },
  question: {
    text: 'Does it help?',
    baselineSetup: 'A',
    candidateSetups: ['B'],
    measure: 'windowMeanPower',
    windowRpm: [3000, 6500],
    meaningfulGainPercent: 1,
    partChangesIntakeTemperature: false,
  },
  setups: [
    { id: 'A', label: 'as arrived', changes: '', state: {} },
    { id: 'B', label: 'part', parentId: 'A', changes: '', state: {} },
  ],
};

beforeAll(async () => {
  if (!mother) throw new Error('DATABASE_URL is not set; run the tests with ./prandel test.');
  const url = new URL(mother);
  const admin = new URL(mother);
  await onCluster(admin.href, async (client) => {
    await client.query('DROP SCHEMA IF EXISTS drizzle CASCADE');
    await client.query('DROP SCHEMA public CASCADE');
    await client.query('CREATE SCHEMA public');
  });
  process.env.DATABASE_URL = url.href;
  app = await createApp();
  await app.listen(0, '127.0.0.1');
  base = (await app.getUrl()).replace('[::1]', '127.0.0.1');
  const first = await ask('POST', '/api/first-start', {
    shop: 'Quillmoor Garage',
    name: 'Ines R.',
    email: 'ines@quillmoor.example',
    password: 'two settle pulls',
  });
  expect(first.status).toBe(201);
  cookie = first.headers.get('set-cookie')!.split(';')[0]!;
});
afterAll(() => app?.close());

describe('people', () => {
  test('nobody gets in without a session, with a wrong password, or by a second first start', async () => {
    expect((await ask('GET', '/api/jobs', undefined, '')).status).toBe(401);
    expect(
      (await ask('POST', '/api/session', { email: 'ines@quillmoor.example', password: 'wrong' }, '')).body,
    ).toMatchObject({ status: 401, detail: 'E-mail and password do not belong together.' });
    expect(
      (
        await ask('POST', '/api/first-start', {
          shop: 'Other',
          name: 'X',
          email: 'x@y.example',
          password: 'long enough here',
        })
      ).status,
    ).toBe(409);
    expect(
      (await ask('POST', '/api/first-start', { shop: '', name: 'X', email: 'nonsense', password: 'short' })).body,
    ).toMatchObject({
      status: 400,
      errors: expect.arrayContaining([expect.objectContaining({ path: 'email' })]) as unknown,
    });
  });

  test('units are checked before they are kept', async () => {
    expect((await ask('PATCH', '/api/session/units', { units: { power: 'hp' } })).status).toBe(204);
    expect((await ask('GET', '/api/session')).body).toMatchObject({ units: { power: 'hp' } });
    expect((await ask('PATCH', '/api/session/units', { units: { power: '°C' } })).status).toBe(400);
  });
});

describe('jobs', () => {
  let id = '';
  const read = async () =>
    (await ask('GET', `/api/jobs/${id}`)).body as unknown as {
      version: number;
      job: { pulls: { id: string; status: string; reason: string | null }[]; question: object };
    };

  test('a job is opened, files are staged and imported whole, and the original bytes come back', async () => {
    id = ((await ask('POST', '/api/jobs', NEW_JOB)).body as { id: string }).id;
    const files = sampleCsvFiles().filter(([name]) => name.startsWith('roller-A'));
    const staged = (await ask('POST', `/api/jobs/${id}/staged-files`, upload('files', files))).body as unknown as {
      id: string;
      columns: { role: string; unit: string }[];
      problems: unknown[];
    }[];
    expect(staged).toHaveLength(files.length);
    const columns = staged[0]!.columns.map(({ role, unit }) => ({ role, unit }));
    const request = {
      fileIds: staged.map((f) => f.id),
      setupId: 'A',
      settle: 2,
      columns,
      numberState: { kind: 'uncorrected' },
      conditions: { gear: '4', pressureHpa: 1003 },
    };
    const wrong = await ask('POST', `/api/jobs/${id}/imports`, {
      ...request,
      columns: columns.map((c) => ({ role: 'other', unit: c.unit })),
    });
    expect(wrong.body).toMatchObject({
      status: 422,
      problems: expect.arrayContaining([
        expect.objectContaining({ message: expect.stringContaining('No column is engine speed') as unknown }),
      ]) as unknown,
    });
    expect((await read()).job.pulls).toHaveLength(0);
    expect((await ask('POST', `/api/jobs/${id}/imports`, request)).body).toEqual({ pulls: files.length });
    expect((await read()).job.pulls.map((p) => p.status).slice(0, 3)).toEqual(['settle', 'settle', 'counted']);
    const original = await ask('GET', `/api/jobs/${id}/files/${staged[0]!.id}`);
    expect(Buffer.compare(original.body as Buffer, Buffer.from(files[0]![1]))).toBe(0);
    const again = (await ask('POST', `/api/jobs/${id}/staged-files`, upload('files', [files[0]!]))).body as unknown as {
      id: null;
      problems: { message: string }[];
    }[];
    expect(again[0]).toMatchObject({
      id: null,
      problems: [{ message: expect.stringContaining('already imported') as unknown }],
    });
    const next = (
      await ask(
        'POST',
        `/api/jobs/${id}/staged-files`,
        upload('files', [sampleCsvFiles().find(([n]) => n.startsWith('roller-B'))!]),
      )
    ).body as unknown as { remembered: boolean }[];
    expect(next[0]!.remembered).toBe(true);
  });

  test('two people at two screens lose nothing: the older version is refused', async () => {
    const { version, job } = await read();
    const pull = job.pulls[3]!.id;
    expect((await ask('PATCH', `/api/jobs/${id}/pulls/${pull}`, { version, status: 'set-aside' })).status).toBe(400);
    expect(
      (await ask('PATCH', `/api/jobs/${id}/pulls/${pull}`, { version, status: 'set-aside', reason: 'tyre slip' }))
        .status,
    ).toBe(204);
    expect((await ask('PATCH', `/api/jobs/${id}/pulls/${pull}`, { version, status: 'counted' })).body).toMatchObject({
      status: 409,
      detail: expect.stringContaining('Somebody else') as unknown,
    });
    expect((await read()).job.pulls[3]).toMatchObject({ status: 'set-aside', reason: 'tyre slip' });
    expect((await ask('GET', `/api/jobs/${id}/log`)).body).toEqual(
      expect.arrayContaining([expect.objectContaining({ what: expect.stringContaining('tyre slip') as unknown })]),
    );
  });

  test('a package goes in and out to the last digit, and a broken one stores nothing', async () => {
    const job = simulateDay(DEMO_DAYS[4]!);
    const { id: taken } = (
      await ask('POST', '/api/packages', upload('file', [['day.zip', await zip(writePackage(job))]]))
    ).body as { id: string };
    const out = await ask('GET', `/api/jobs/${taken}/package`);
    const back = readPackage(await unzip(out.body as Buffer)).job;
    expect(back).toEqual(job);
    expect(judgeJob(back)).toEqual(judgeJob(job));
    const count = async () => ((await ask('GET', '/api/jobs')).body as { jobs: unknown[] }).jobs.length;
    const before = await count();
    expect((await ask('POST', '/api/packages', upload('file', [['x.zip', 'nothing']]))).status).toBe(422);
    expect(await count()).toBe(before);
    const report = ((await ask('GET', `/api/jobs/${taken}/report.html`)).body as Buffer).toString();
    expect(report).toContain('Verified loss');
    expect(report).not.toMatch(/(src|href)="https?:/);
    const frames = (await ask('GET', `/api/jobs/${taken}/channels`)).body as Buffer;
    const length = frames.readUInt32LE(0);
    const index = JSON.parse(frames.subarray(4, 4 + length).toString()) as {
      pull: string;
      name: string;
      length: number;
    }[];
    expect(index[0]).toEqual({
      pull: job.pulls[0]!.id,
      name: 'time_s',
      length: job.pulls[0]!.channels[0]!.values.length,
    });
    expect(frames.readDoubleLE(4 + length + 8)).toBe(job.pulls[0]!.channels[0]!.values[1]);
  });

  test('row-level security keeps another shop out even when a query forgets', async () => {
    const rows = await onCluster(mother!, async (client) => {
      await client.query('BEGIN');
      await client.query("SELECT set_config('prandel.shop', '11111111-1111-1111-1111-111111111111', true)");
      const counts = [];
      for (const table of ['jobs', 'pulls', 'channels', 'files', 'people'])
        counts.push(Number((await client.query<{ n: string }>(`SELECT count(*) AS n FROM ${table}`)).rows[0]!.n));
      const insert = await client
        .query("INSERT INTO shops (shop_id, name) VALUES ('22222222-2222-2222-2222-222222222222', 'x')")
        .catch((e: Error) => e.message);
      return { counts, insert };
    });
    expect(rows.counts).toEqual([0, 0, 0, 0, 0]);
    expect(rows.insert).toMatch(/row-level security/);
  });

  test('the OpenAPI document names the routes', async () => {
    expect(Object.keys(((await ask('GET', '/api/openapi.json')).body as { paths: object }).paths)).toEqual(
      expect.arrayContaining(['/api/jobs', '/api/jobs/{id}/imports', '/api/packages']),
    );
  });
});
