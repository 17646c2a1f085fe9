import { createHash } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { OpenAPIObject } from '@nestjs/swagger';
import { sampleCsvFiles } from '@prandel/simulator';
import { LiveBays } from './live/liveBays.ts';
import { SessionsService } from './people/sessions.service.ts';
import { bayBody, takenBodies } from './test/bodies.ts';
import { FIRST_START, NEW_JOB, onCluster, TestShop, upload } from './test/shop.ts';

/** Seeded, so that what fails once fails again; FUZZ_CASES and FUZZ_SEED ask for more or for others. */
const CASES = Number(process.env.FUZZ_CASES ?? 6);
const SEED = Number(process.env.FUZZ_SEED ?? 20_261_126);
const LARGEST_ANSWER = 8_000_000;
/** Only what never ends is meant; a busy machine takes its time. */
const LONGEST_MS = 30_000;
const OTHER_SHOP = '99999999-9999-4999-8999-999999999999';
const OTHER_JOB = '99999999-9999-4999-8999-aaaaaaaaaaaa';
const OTHER_BAY = '99999999-9999-4999-8999-bbbbbbbbbbbb';

type Schema = {
  type?: string;
  $ref?: string;
  enum?: unknown[];
  items?: Schema;
  properties?: Record<string, Schema>;
  required?: string[];
  allOf?: Schema[];
  format?: string;
};

const FILES = sampleCsvFiles();
let shop: TestShop;
let document: OpenAPIObject;
/** Ids that exist, of this shop and of the other, and some that do not. */
let ids: string[] = [];

/** Mulberry32, a small seeded generator. */
let state = SEED;
function random(): number {
  state = (state + 0x6d2b79f5) | 0;
  let t = Math.imul(state ^ (state >>> 15), 1 | state);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
}
const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;

/** Becomes 1e999 in the body: JSON that parses to Infinity. */
const INFINITE = '@@infinite@@';
const ODD_TEXTS = [
  '',
  ' ',
  'a\0b',
  '\ud800',
  'x'.repeat(20_000),
  '__proto__',
  "'; DROP TABLE jobs; --",
  '../../etc',
  '💥',
];
const ODD_NUMBERS = [0, -1, 1e-320, 0.5, 4.9e9, 2 ** 31, 2 ** 53, -1e308, INFINITE];
const ODD_THINGS = [null, [], {}, [[[]]], true, { length: 5 }, [null], [undefined], 'text', 7];
const ODD_DATES = [
  '2026-11-26T08:00:00Z',
  '0001-01-01T00:00:00Z',
  '+275760-09-13T00:00:00Z',
  'yesterday',
  '2026-13-45',
];

const resolve = (schema: Schema): Schema =>
  schema.$ref
    ? resolve(document.components!.schemas![schema.$ref.split('/').at(-1)!] as Schema)
    : schema.allOf
      ? resolve(schema.allOf[0]!)
      : schema;

/** Values that are right for members of these names, so that requests get beyond the first check. */
const RIGHT: Readonly<Record<string, () => unknown>> = {
  version: () => version,
  setup: () => pick(['A', 'B']),
  setupId: () => pick(['A', 'B']),
  id: () => pick(['A', 'B', ...ids]),
  baselineSetup: () => 'A',
  candidateSetups: () => ['B'],
  setups: () => NEW_JOB.setups,
  windowRpm: () => pick([[3000, 6500], [1, 1e9], [0, 0], [5000, 200], null]),
  parentId: () => pick(['A', null]),
  returnsTo: () => pick(['A', null]),
  fileIds: () => [ids[1]],
  pull: () => 'A-1',
  job: () => ids[0],
  startAt: () => pick([...ODD_DATES, null]),
  startedAt: () => pick(ODD_DATES),
  timeZone: () => pick(['Europe/Lisbon', 'UTC', 'Mars/Olympus']),
  host: () => pick(['127.0.0.1', '8.8.8.8', 'localhost', '::1']),
  units: () => pick([{ power: 'hp' }, { power: 7 }, { x: 'hp' }]),
  state: () => pick([{ fan: '3' }, { fan: 3 }, 'fan']),
  role: () => pick(['engineSpeed', 'wheelPower', 'other', 'nonsense']),
  unit: () => pick(['rpm', 'kW', null, 'hh:mm:ss']),
};
let version = 1;
/** How many odd values the present request may still hold: one is what gets furthest. */
let oddities = 0;

function odd(chance: number): boolean {
  if (oddities <= 0 || random() > chance) return false;
  oddities -= 1;
  return true;
}

/** A value that fits a schema, apart from what chance makes odd. */
function value(given: Schema, depth = 0, name = ''): unknown {
  const schema = resolve(given);
  if (odd(0.12)) return pick(ODD_THINGS);
  if (RIGHT[name] && random() < 0.8) return RIGHT[name]();
  if (schema.enum && !odd(0.2)) return pick(schema.enum);
  switch (schema.type) {
    case 'string':
      return odd(0.4) ? pick([...ODD_TEXTS, ...ODD_DATES]) : pick(['A', 'B', 'fan', 'some words', ...ids]);
    case 'number':
    case 'integer':
      return odd(0.4) ? pick(ODD_NUMBERS) : pick([0.5, 1, 2, 5, 20, 60, 100, 700, 1000]);
    case 'boolean':
      return random() < 0.5;
    case 'array':
      return Array.from({ length: Math.floor(random() * 4) }, () => value(schema.items ?? {}, depth + 1, name));
    default:
      if (!schema.properties)
        return odd(0.5)
          ? { any: pick(ODD_TEXTS), x: pick(ODD_THINGS), y: pick(ODD_NUMBERS) }
          : { fan: '3', intakeC: 3 };
      return Object.fromEntries(
        Object.entries(schema.properties)
          .filter(([key]) => (schema.required?.includes(key) ? !odd(0.1) : random() < 0.5))
          .map(([key, own]) => [key, depth > 6 ? null : value(own, depth + 1, key)]),
      );
  }
}

/** A copy of a body in which one leaf is odd, or missing. */
function changed(body: unknown): unknown {
  if (typeof body !== 'object' || body === null)
    return pick([...ODD_TEXTS, ...ODD_NUMBERS, ...ODD_THINGS, ...ODD_DATES]);
  const keys = Object.keys(body);
  if (keys.length === 0 || random() < 0.08) return pick(ODD_THINGS);
  const key = pick(keys);
  const entries = Object.entries(body as Record<string, unknown>).flatMap(([k, v]): [string, unknown][] =>
    k !== key ? [[k, v]] : random() < 0.06 ? [] : [[k, changed(v)]],
  );
  return Array.isArray(body) ? entries.map(([, v]) => v) : Object.fromEntries(entries);
}

/** What this shop has right now; made anew after a request deleted it. */
const own = { job: '', file: '', bay: '', columns: [] as { role: string; unit: string | null }[] };

const taken = () => takenBodies({ ...own, version, random, pick });

async function makeOwn(): Promise<void> {
  own.job = ((await shop.ask('POST', '/api/jobs', NEW_JOB)).body as { id: string }).id;
  // Another file each time, or it would be the same pull again.
  const [name, text] = FILES[0]!;
  const form = upload('files', [[name, text.replace(/\n/, `\n# ${random()}\n`)]]);
  const [staged] = (await shop.ask('POST', `/api/jobs/${own.job}/staged-files`, form)).body as unknown as {
    id: string;
    columns: { role: string; unit: string | null }[];
  }[];
  own.file = staged!.id;
  own.columns = staged!.columns.map(({ role, unit }) => ({ role, unit }));
  await shop.ask('POST', `/api/jobs/${own.job}/imports`, {
    ...taken()['post /api/jobs/{id}/imports']!(),
    fileIds: [own.file],
  });
  const again = upload('files', [['b.csv', FILES[1]![1]]]);
  own.file = (
    (await shop.ask('POST', `/api/jobs/${own.job}/staged-files`, again)).body as unknown as { id: string }[]
  )[0]!.id;
  const bays = (await shop.ask('GET', '/api/bays')).body as unknown as { id: string }[];
  own.bay = bays[0]?.id ?? ((await shop.ask('POST', '/api/bays', bayBody(random))).body as { id: string }).id;
  ids = [own.job, own.file, own.bay, OTHER_JOB, OTHER_BAY, '11111111-1111-4111-8111-111111111111'];
}

/** An address with parameters that mostly name what is there. */
function addressOf(path: string): string {
  return path.replace(/\{(\w+)\}/g, (_, name: string) => {
    const right: Record<string, string> = {
      id: path.startsWith('/api/bays') ? own.bay : own.job,
      pull: 'A-1',
      file: own.file,
      startedAt: '2026-11-26T08:00:00Z',
    };
    if (right[name] && random() < 0.75) return right[name];
    return random() < 0.7 ? pick(ids) : encodeURIComponent(pick(['A-1', 'x', '%', '\0', '..', '💥']));
  });
}

const digestOfOthers = () =>
  onCluster(process.env.FUZZ_DATABASE_URL!, async (client) => {
    await client.query(`SELECT set_config('prandel.shop', $1, false)`, [OTHER_SHOP]);
    const hash = createHash('sha256');
    for (const table of [
      'jobs',
      'setups',
      'pulls',
      'bays',
      'bay_runs',
      'vehicles',
      'parts',
      'customers',
      'files',
      'evidence',
      'people',
      'sessions',
      'access_tokens',
      'one_time_links',
    ]) {
      const { rows } = await client.query<{ text: string }>(`SELECT t::text AS text FROM ${table} t ORDER BY 1`);
      hash.update(`${table}:${rows.map((r) => r.text).join('\n')}`);
    }
    return hash.digest('hex');
  });

beforeAll(async () => {
  shop = await TestShop.open(process.env.FUZZ_DATABASE_URL);
  document = (await shop.ask('GET', '/api/openapi.json')).body;
  await shop.app.get(LiveBays).startAll();
  await makeOwn();
  await onCluster(process.env.FUZZ_DATABASE_URL!, async (client) => {
    await client.query(`SELECT set_config('prandel.shop', $1, false)`, [OTHER_SHOP]);
    for (const statement of [
      `INSERT INTO bay_calibrations (id, shop_id, bay_label, readout_scale, digest) VALUES ('${OTHER_BAY}', '${OTHER_SHOP}', 'theirs', 1, 'x')`,
      `INSERT INTO method_versions (id, shop_id, correction, averaging_width_rpm, settle_pulls, tolerances, digest) VALUES ('${OTHER_JOB}', '${OTHER_SHOP}', 'none', 200, 2, '{}', 'x')`,
      `INSERT INTO jobs (id, shop_id, number, title, calibration_id, method_version_id, vehicle_label) VALUES ('${OTHER_JOB}', '${OTHER_SHOP}', 'X-1', 'theirs', '${OTHER_BAY}', '${OTHER_JOB}', '')`,
      `INSERT INTO bays (id, shop_id, label, calibration_id, registers) VALUES ('${OTHER_BAY}', '${OTHER_SHOP}', 'theirs', '${OTHER_BAY}', '{}')`,
    ])
      await client.query(statement);
  });
});
afterAll(() => shop?.close());

test('nothing that a client sends gives a 500, changes another shop, or is answered without bound', async () => {
  const before = await digestOfOthers();
  const failures: string[] = [];
  let asked = 0;
  let accepted = 0;
  for (const [path, operations] of Object.entries(document.paths))
    for (const [method, operation] of Object.entries(operations as Record<string, Operation>))
      for (let k = 0; k < CASES; k += 1) {
        const to = addressOf(path);
        const query = operation.parameters?.filter((p) => p.in === 'query' && random() < 0.6) ?? [];
        const search = query.map((p) => `${p.name}=${encodeURIComponent(pick([...ids, '', '~', 'a~b', '9', 'part']))}`);
        const url = `${to}${search.length > 0 ? `?${search.join('&')}` : ''}`;
        oddities = pick([0, 1, 1, 1, 2, 40]);
        const schema = operation.requestBody?.content?.['application/json']?.schema;
        const right = taken()[`${method} ${path}`];
        const body = schema ? (right && random() < 0.85 ? bodyFrom(right()) : value(schema)) : undefined;
        const text = schema ? (JSON.stringify(body) ?? 'null').replaceAll(`"${INFINITE}"`, '1e999') : undefined;
        const started = performance.now();
        const answer = await send(method.toUpperCase(), url, text, k);
        asked += 1;
        if (answer.status < 300) accepted += 1;
        if (answer.status === 401) await signIn();
        if (k % 3 === 0 || answer.status === 204) await lookAround();
        const ms = performance.now() - started;
        if (answer.status >= 500 && answer.status !== 503)
          failures.push(`${answer.status} ${method.toUpperCase()} ${url} ${text?.slice(0, 600) ?? ''}`);
        if (answer.bytes > LARGEST_ANSWER || ms > LONGEST_MS)
          failures.push(`${answer.bytes} bytes in ${ms.toFixed(0)} ms: ${method} ${url} ${text?.slice(0, 300) ?? ''}`);
      }
  expect(failures.slice(0, 12)).toEqual([]);
  expect(asked).toBeGreaterThan(100 * CASES);
  // Requests that are all refused at the door would show nothing.
  expect(accepted).toBeGreaterThan(asked / 6);
  expect(await digestOfOthers()).toBe(before);
}, 400_000);

test.each([
  ['broken JSON', '{"a":', 'application/json', 400],
  ['a body nested without end', `{"title":${'['.repeat(60_000)}${']'.repeat(60_000)}}`, 'application/json', 400],
  ['text', 'title=x', 'text/plain', 415],
  ['a form', 'title=x', 'application/x-www-form-urlencoded', 415],
  ['more than a megabyte', `{"title":"${'x'.repeat(1_100_000)}"}`, 'application/json', 413],
  ['an unknown encoding', '{}', 'application/json; charset=klingon', 415],
])('%s is refused with a problem document', async (_, body, type, status) => {
  const answer = await fetch(`${shop.base}/api/jobs`, {
    method: 'POST',
    headers: { cookie: shop.cookie, connection: 'close', 'content-type': type },
    body,
  });
  expect(answer.status).toBe(status);
  expect(answer.headers.get('content-type')).toContain('application/problem+json');
});

interface Operation {
  readonly parameters?: { name: string; in: string }[];
  readonly requestBody?: { content?: Record<string, { schema?: Schema }> };
}

async function send(method: string, url: string, text: string | undefined, k: number) {
  const multipart = text === undefined && (method === 'POST' || method === 'PUT') && k % 2 === 0;
  const form = multipart
    ? upload(pick(['files', 'file', 'photos', 'other']), [[pick(['a.csv', '', '../x', '\0']), pick(ODD_TEXTS)]])
    : undefined;
  const response = await fetch(shop.base + url, {
    method,
    headers: {
      cookie: shop.cookie,
      connection: 'close',
      ...(text === undefined ? {} : { 'content-type': 'application/json' }),
    },
    ...(text === undefined ? (form ? { body: form } : {}) : { body: text }),
  });
  return { status: response.status, bytes: (await response.arrayBuffer()).byteLength };
}

/** The job's version now; what a request deleted is made again. */
async function lookAround(): Promise<void> {
  const job = await shop.ask('GET', `/api/jobs/${own.job}`);
  if (job.status === 404) await makeOwn();
  version = (job.body as { version?: number }).version ?? 1;
  if ((await shop.ask('GET', `/api/bays/${own.bay}/sheet`)).status === 404) await makeOwn();
}

/** A body that is taken, with none, one or two of its leaves changed. */
function bodyFrom(right: object): unknown {
  const times = pick([0, 1, 1, 1, 2]);
  return Array.from({ length: times }).reduce((body: unknown) => changed(body), right);
}

/** Some of the requests sign out, or set a password. */
async function signIn(): Promise<void> {
  const rows = await onCluster(process.env.FUZZ_DATABASE_URL!, async (client) => {
    await client.query(`SELECT set_config('prandel.email', $1, false)`, [FIRST_START.email]);
    return (await client.query<{ id: string; shop_id: string }>('SELECT id, shop_id FROM people')).rows;
  });
  const place = { userAgent: 'fuzz', address: '127.0.0.1' };
  shop.cookie = `prandel_session=${await shop.app.get(SessionsService).begin(rows[0]!.shop_id, rows[0]!.id, place)}`;
}
