import type { NestExpressApplication } from '@nestjs/platform-express';
import pg from 'pg';
import { createApp } from '../createApp.ts';
import { ProjectionsService } from '../projections/projections.service.ts';

/** Runs SQL on a database of the test cluster, outside the application. */
export async function onCluster<T>(url: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    // Tests name the shop by a query; of the rows of shops nothing else is seen by that.
    await client.query(`SELECT set_config('prandel.every_shop', 'on', false)`);
    return await work(client);
  } finally {
    await client.end();
  }
}

export const upload = (name: string, files: [string, Uint8Array | string][]) => {
  const form = new FormData();
  for (const [file, content] of files) form.append(name, new Blob([content as never]), file);
  return form;
};

/** The URL of a database of the test cluster, emptied. */
export async function emptied(url: string | undefined): Promise<string> {
  if (!url) throw new Error('The database of this test is not set; run the tests with ./prandel test.');
  await onCluster(url, async (client) => {
    await client.query('DROP SCHEMA IF EXISTS drizzle CASCADE');
    await client.query('DROP SCHEMA IF EXISTS work_queue CASCADE');
    await client.query('DROP SCHEMA public CASCADE');
    await client.query('CREATE SCHEMA public');
  });
  return url;
}

/** Carries out a statement for the rows of every shop. @returns how many rows it touched */
export async function inEveryShop(url: string, statement: string): Promise<number> {
  let touched = 0;
  await onCluster(url, async (client) => {
    await client.query("SELECT set_config('prandel.every_shop', 'on', false)");
    for (const { shop_id: own } of (await client.query<{ shop_id: string }>('SELECT shop_id FROM shops')).rows) {
      await client.query("SELECT set_config('prandel.shop', $1, false)", [own]);
      touched += (await client.query(statement)).rowCount ?? 0;
    }
  });
  return touched;
}

export const FIRST_START = {
  shop: 'Quillmoor Garage',
  name: 'Ines R.',
  email: 'ines@quillmoor.example',
  password: 'two settle pulls',
  setupCode: 'code of the tests',
};
// Printed by the launcher at a first start; the tests know it beforehand.
process.env.PRANDEL_SETUP_TOKEN = FIRST_START.setupCode;

/** The whole server over an empty database, on a port of its own, with somebody signed in. */
export class TestShop {
  #closed: Promise<void> | null = null;

  private constructor(
    readonly app: NestExpressApplication,
    readonly base: string,
    public cookie: string,
  ) {}

  static async open(database: string | undefined): Promise<TestShop> {
    process.env.DATABASE_URL = await emptied(database);
    const app = await createApp();
    await app.get(ProjectionsService).start();
    await app.listen(0, '127.0.0.1');
    const shop = new TestShop(app, (await app.getUrl()).replace('[::1]', '127.0.0.1'), '');
    const first = await shop.ask('POST', '/api/first-start', FIRST_START);
    if (first.status !== 201) throw new Error(`the first start answered ${first.status}`);
    shop.cookie = first.headers.get('set-cookie')!.split(';')[0]!;
    return shop;
  }

  async ask(method: string, path: string, body?: unknown, as = this.cookie) {
    const form = body instanceof FormData;
    const response = await fetch(this.base + path, {
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

  /** Closes the server; a second time does nothing. */
  close(): Promise<void> {
    this.#closed ??= this.app.close();
    return this.#closed;
  }
}

/** What the page sends to open a job. */
export const NEW_JOB = {
  title: 'Does it help?',
  vehicle: { label: 'Tarn Vireo' },
  bay: { label: 'Bay 1', rollerInertiaKgM2: 26.4 },
  question: {
    text: 'Does it help?',
    baselineSetup: 'A',
    candidateSetups: ['B'],
    measures: [{ id: 'windowMeanPower', meaningful: 1 }],
    windowRpm: [3000, 6500],
    partChangesIntakeTemperature: false,
  },
  setups: [
    { id: 'A', label: 'as arrived', changes: [], state: {} },
    { id: 'B', label: 'part', parentId: 'A', changes: [], state: {} },
  ],
};
