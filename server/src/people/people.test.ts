import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { OpenAPIObject } from '@nestjs/swagger';
import { sampleCsvFiles } from '@prandel/simulator';
import { Database } from '../database/database.ts';
import { LiveBays } from '../live/liveBays.ts';
import { bayBody, takenBodies } from '../test/bodies.ts';
import { NEW_JOB, onCluster, TestShop, upload } from '../test/shop.ts';
import { newShop } from './newShop.ts';

// People, roles, links and tokens; and two shops on one server that never see each other.
let shop: TestShop;
let document: OpenAPIObject;
const STRANGER = '11111111-1111-4111-8111-111111111111';
const FILES = sampleCsvFiles();
const PASSWORD = 'three settle pulls';

const ask = async (as: string, method: string, path: string, body?: unknown) => {
  const answer = await shop.ask(method, path, body, as);
  return { ...answer, body: answer.body as Record<string, unknown> & { id: string; secret: string; message?: string } };
};

/** Uses a link up. @returns the cookie of who came in */
async function join(secret: string, name: string): Promise<string> {
  const joined = await ask('', 'POST', '/api/links/use', { secret, name, password: PASSWORD });
  expect(joined.status).toBe(200);
  return joined.headers.get('set-cookie')!.split(';')[0]!;
}

async function invited(as: string, email: string, role: string): Promise<string> {
  const made = await ask(as, 'POST', '/api/people/invitations', { email, role });
  expect(made.status).toBe(201);
  return join(made.body.secret, email.split('@')[0]!);
}

const teamOf = async (as: string) =>
  (await ask(as, 'GET', '/api/people')).body as unknown as {
    people: { id: string; email: string; role: string; version: number }[];
    invitations: { id: string; email: string }[];
  };

/** Every operation of the document with parameters filled in. */
function operations(fill: (name: string, path: string) => string): { method: string; path: string; url: string }[] {
  return Object.entries(document.paths).flatMap(([path, of]) =>
    Object.keys(of as object).map((method) => ({
      method: method.toUpperCase(),
      path,
      url: path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(fill(name, path))),
    })),
  );
}

beforeAll(async () => {
  shop = await TestShop.open(process.env.PEOPLE_DATABASE_URL);
  document = (await shop.ask('GET', '/api/openapi.json')).body;
});
afterAll(() => shop?.close());

describe('roles', () => {
  const OPEN = ['/api/status', '/api/first-start', '/api/session', '/api/health', '/api/links/look', '/api/links/use'];
  /** What concerns nobody but who asks. */
  const OWN = ['/api/session', '/api/session/units', '/api/sessions', '/api/sessions/{id}', '/api/password'];
  /** What is the owner's. */
  const OWNERS = /^\/api\/(people|access-tokens)(\/|$)/;
  const OWNERS_ALSO = ['DELETE /api/bays/{id}', 'POST /api/bays/{id}/restore'];

  test('every operation asks who it is, and lets in whom its rule names', async () => {
    const viewer = await invited(shop.cookie, 'look@quillmoor.example', 'viewer');
    const technician = await invited(shop.cookie, 'wrench@quillmoor.example', 'technician');
    const wrong: string[] = [];
    const expectStatus = async (as: string, who: string, o: { method: string; url: string }, closed: number | null) => {
      const { status } = await ask(as, o.method, o.url, o.method === 'GET' || o.method === 'DELETE' ? undefined : {});
      const right = closed === null ? status !== 401 && status !== 403 : status === closed;
      if (!right) wrong.push(`${who}: ${o.method} ${o.url} ${status}`);
    };
    const all = operations(() => STRANGER);
    expect(all.length).toBeGreaterThan(50);
    for (const o of all) {
      const open = OPEN.includes(o.path) && !(o.path === '/api/session' && o.method !== 'POST');
      if (!open) await expectStatus('', 'nobody', o, 401);
      // Signing out would end what the next ones need; trying passwords is limited.
      if (open || OWN.includes(o.path)) continue;
      const owners = OWNERS.test(o.path) || OWNERS_ALSO.includes(`${o.method} ${o.path}`);
      await expectStatus(viewer, 'viewer', o, owners || o.method !== 'GET' ? 403 : null);
      await expectStatus(technician, 'technician', o, owners ? 403 : null);
    }
    expect(wrong).toEqual([]);
  });

  test('another role and leaving the shop end the sessions; the log still names who left', async () => {
    const cookie = await invited(shop.cookie, 'leaves@quillmoor.example', 'technician');
    const job = (await ask(cookie, 'POST', '/api/jobs', NEW_JOB)).body.id;
    const find = async () => (await teamOf(shop.cookie)).people.find((p) => p.email === 'leaves@quillmoor.example')!;
    const { id, version } = await find();
    const change = { role: 'viewer', version };
    expect((await ask(shop.cookie, 'PATCH', `/api/people/${id}`, change)).status).toBe(204);
    expect((await ask(cookie, 'GET', '/api/session')).status).toBe(401);
    // Somebody else's screen still shows the role of before.
    expect((await ask(shop.cookie, 'PATCH', `/api/people/${id}`, { role: 'owner', version })).status).toBe(409);
    const signIn = () => ask('', 'POST', '/api/session', { email: 'leaves@quillmoor.example', password: PASSWORD });
    const again = await signIn();
    expect(again.body).toMatchObject({ role: 'viewer' });
    expect((await ask(shop.cookie, 'DELETE', `/api/people/${id}`)).status).toBe(204);
    expect((await ask(again.headers.get('set-cookie')!.split(';')[0]!, 'GET', '/api/session')).status).toBe(401);
    expect((await signIn()).status).toBe(401);
    expect(await find()).toBeUndefined();
    const log = (await ask(shop.cookie, 'GET', `/api/jobs/${job}/log`)).body as unknown as {
      rows: { person: string }[];
    };
    expect(log.rows[0]!.person).toBe('leaves');
    const { rows } = await onCluster(process.env.PEOPLE_DATABASE_URL!, async (client) => {
      await client.query(`SELECT set_config('prandel.shop', (SELECT shop_id::text FROM shops), false)`);
      return client.query<{ person_id: string }>('SELECT person_id FROM evidence WHERE job_id = $1', [job]);
    });
    expect(rows.map((r) => r.person_id)).toEqual(rows.map(() => id));
    // The address is free again.
    await invited(shop.cookie, 'leaves@quillmoor.example', 'viewer');
  });

  test('the last owner stays', async () => {
    const [owner] = (await teamOf(shop.cookie)).people.filter((p) => p.role === 'owner');
    const change = { role: 'viewer', version: owner!.version };
    expect((await ask(shop.cookie, 'PATCH', `/api/people/${owner!.id}`, change)).status).toBe(409);
    expect((await ask(shop.cookie, 'DELETE', `/api/people/${owner!.id}`)).status).toBe(409);
    // Two owners who remove each other in the same moment: one stays.
    const second = await invited(shop.cookie, 'second@quillmoor.example', 'owner');
    const two = (await teamOf(shop.cookie)).people.filter((p) => p.role === 'owner');
    const both = await Promise.all([
      ask(shop.cookie, 'DELETE', `/api/people/${two.find((p) => p.id !== owner!.id)!.id}`),
      ask(second, 'DELETE', `/api/people/${owner!.id}`),
    ]);
    expect(both.map((b) => b.status).filter((s) => s === 204)).toHaveLength(1);
    if (both[1].status === 204) shop.cookie = second;
  });
});

describe('one-time links', () => {
  test('an invitation lets one person in, once; a newer one, withdrawing and time make it void', async () => {
    const invite = async () =>
      (await ask(shop.cookie, 'POST', '/api/people/invitations', { email: 'new@quillmoor.example', role: 'viewer' }))
        .body.secret;
    const look = async (secret: string) => (await ask('', 'POST', '/api/links/look', { secret })).status;
    const [older, newer] = [await invite(), await invite()];
    expect([await look(older), await look(newer)]).toEqual([410, 200]);
    const { invitations } = await teamOf(shop.cookie);
    expect(JSON.stringify(invitations)).not.toContain(newer);
    await ask(shop.cookie, 'DELETE', `/api/people/invitations/${invitations[0]!.id}`);
    expect(await look(newer)).toBe(410);
    const late = await invite();
    await onCluster(process.env.PEOPLE_DATABASE_URL!, async (client) => {
      await client.query(`SELECT set_config('prandel.shop', (SELECT shop_id::text FROM shops), false)`);
      await client.query('UPDATE one_time_links SET expires_at = now() WHERE used_at IS NULL');
    });
    expect(await look(late)).toBe(410);
    const right = await invite();
    const use = () => ask('', 'POST', '/api/links/use', { secret: right, name: 'New One', password: PASSWORD });
    const weak = { secret: right, name: 'New One', password: 'new@quillmoor.example' };
    expect((await ask('', 'POST', '/api/links/use', weak)).status).toBe(400);
    const statuses = (await Promise.all([use(), use()])).map((u) => u.status);
    expect(statuses.sort()).toEqual([200, 410]);
    expect(
      (await ask(shop.cookie, 'POST', '/api/people/invitations', { email: 'NEW@quillmoor.example', role: 'viewer' }))
        .status,
    ).toBe(409);
  });

  test('a reset link sets a new password and ends the sessions of the old one', async () => {
    const cookie = await invited(shop.cookie, 'forgets@quillmoor.example', 'technician');
    const { id } = (await teamOf(shop.cookie)).people.find((p) => p.email === 'forgets@quillmoor.example')!;
    const { secret } = (await ask(shop.cookie, 'POST', `/api/people/${id}/reset-link`)).body;
    expect((await ask('', 'POST', '/api/links/look', { secret })).body).toMatchObject({
      ...{ purpose: 'password-reset', name: 'forgets', shop: 'Quillmoor Garage' },
    });
    const used = await ask('', 'POST', '/api/links/use', { secret, name: 'forgets', password: 'four settle pulls' });
    expect(used.body).toMatchObject({ role: 'technician' });
    expect((await ask(cookie, 'GET', '/api/session')).status).toBe(401);
    const signIn = (password: string) =>
      ask('', 'POST', '/api/session', { email: 'forgets@quillmoor.example', password });
    expect([(await signIn(PASSWORD)).status, (await signIn('four settle pulls')).status]).toEqual([401, 200]);
  });
});

describe('access tokens', () => {
  const as = (token: string, method: string, path: string, body?: unknown) =>
    fetch(shop.base + path, {
      method,
      headers: {
        authorization: `Bearer ${token}`,
        connection: 'close',
        ...(body && !(body instanceof FormData) ? { 'content-type': 'application/json' } : {}),
      },
      ...(body ? { body: body instanceof FormData ? body : JSON.stringify(body) } : {}),
    });
  const make = (body: object) => ask(shop.cookie, 'POST', '/api/access-tokens', body);

  test('one that reads jobs reads them and nothing else; it is shown once and ends when withdrawn', async () => {
    const made = await make({ name: 'office', scope: 'read-jobs' });
    const { token, id } = made.body as unknown as { token: string; id: string };
    const job = (await ask(shop.cookie, 'POST', '/api/jobs', NEW_JOB)).body.id;
    expect((await as(token, 'GET', `/api/jobs/${job}`)).status).toBe(200);
    for (const [method, path] of [
      ['PATCH', `/api/jobs/${job}`],
      ['DELETE', `/api/jobs/${job}`],
      ['GET', '/api/people'],
      ['GET', '/api/sessions'],
      ['GET', '/api/records?kind=customer'],
      ['POST', `/api/jobs/${job}/staged-files`],
    ])
      expect([path, (await as(token, method!, path!)).status]).toEqual([path, 403]);
    const list = await ask(shop.cookie, 'GET', '/api/access-tokens');
    expect(JSON.stringify(list.body)).not.toContain(token.slice(8, 20));
    expect(list.body).toMatchObject([{ name: 'office', lastUsedAt: expect.any(String) as unknown }]);
    expect((await ask(shop.cookie, 'DELETE', `/api/access-tokens/${id}`)).status).toBe(204);
    expect((await as(token, 'GET', `/api/jobs/${job}`)).status).toBe(401);
  });

  test('one that brings files brings them for the job in its bay only, and the log names it', async () => {
    await shop.app.get(LiveBays).startAll();
    const bay = (
      await ask(
        shop.cookie,
        'POST',
        '/api/bays',
        bayBody(() => 0.5),
      )
    ).body.id;
    const [here, elsewhere] = await Promise.all(
      [1, 2].map(async () => (await ask(shop.cookie, 'POST', '/api/jobs', NEW_JOB)).body.id),
    );
    expect((await make({ name: 'rollers', scope: 'upload-to-bay' })).status).toBe(400);
    const { token } = (await make({ name: 'rollers', scope: 'upload-to-bay', bayId: bay })).body as unknown as {
      token: string;
    };
    const bring = (job: string) =>
      as(token, 'POST', `/api/jobs/${job}/staged-files`, upload('files', [[FILES[0]![0], FILES[0]![1]]]));
    expect((await bring(here!)).status).toBe(403);
    const put = { action: 'open-job', job: here };
    expect((await ask(shop.cookie, 'POST', `/api/bays/${bay}/actions`, put)).status).toBeLessThan(300);
    expect((await bring(elsewhere!)).status).toBe(403);
    const [staged] = (await (await bring(here!)).json()) as { id: string; columns: { role: string; unit: string }[] }[];
    const body = {
      ...{
        fileIds: [staged!.id],
        setupId: 'A',
        settle: 1,
        columns: staged!.columns.map(({ role, unit }) => ({ role, unit })),
      },
      numberState: { kind: 'uncorrected' },
      conditions: { gear: '4', airC: 20, pressureHpa: 1000, relativeHumidity: 0.4 },
    };
    expect((await as(token, 'POST', `/api/jobs/${here!}/imports`, body)).status).toBe(201);
    expect((await as(token, 'GET', '/api/bays')).status).toBe(200);
    expect((await as(token, 'GET', `/api/jobs/${here!}`)).status).toBe(403);
    const log = (await ask(shop.cookie, 'GET', `/api/jobs/${here!}/log`)).body as unknown as {
      rows: { person: string }[];
    };
    expect(log.rows.map((e) => e.person)).toContain('access token “rollers”');
  });
});

describe('a second shop', () => {
  test('is made by the operator, comes in by its link, and nothing it asks reaches the first', async () => {
    const secret = await newShop(shop.app.get(Database), 'Harrow Works', 'Odd@harrow.example');
    const second = await join(secret, 'Odd H.');
    expect((await ask(second, 'GET', '/api/session')).body).toMatchObject({ shop: 'Harrow Works', role: 'owner' });
    // Of the first shop: a job with pulls and a staged file, a bay, a record, a person, a token, an invitation, a photo.
    const first = shop.cookie;
    const job = (await ask(first, 'POST', '/api/jobs', NEW_JOB)).body.id;
    const stage = async (as: string, to: string, k: number) => {
      const form = upload('files', [[`p${k}.csv`, FILES[k]![1]]]);
      const answer = (await ask(as, 'POST', `/api/jobs/${to}/staged-files`, form)).body as unknown;
      return (answer as { id: string; columns: { role: string; unit: string | null }[] }[])[0]!;
    };
    const staged = await stage(first, job, 0);
    const own = {
      ...{ job, file: staged.id, version: 1, random: () => 0.4, pick: <T>(list: readonly T[]) => list[0]! },
      columns: staged.columns.map(({ role, unit }) => ({ role, unit })),
    };
    const bodies = takenBodies(own);
    expect(
      (await ask(first, 'POST', `/api/jobs/${job}/imports`, bodies['post /api/jobs/{id}/imports']!())).status,
    ).toBe(201);
    own.file = (await stage(first, job, 1)).id;
    const bay = (await ask(first, 'GET', '/api/bays')).body as unknown as { id: string }[];
    const record = (await ask(first, 'POST', '/api/records', bodies['post /api/records']!())).body.id;
    const person = (await teamOf(first)).people[0]!.id;
    await ask(first, 'POST', '/api/people/invitations', { email: 'waits@quillmoor.example', role: 'viewer' });
    const invitation = (await teamOf(first)).invitations[0]!.id;
    const token = (await ask(first, 'POST', '/api/access-tokens', { name: 't', scope: 'read-jobs' })).body.id;
    const session = ((await ask(first, 'GET', '/api/sessions')).body as unknown as { id: string }[])[0]!.id;
    const idOf = (name: string, path: string) => {
      const among: [RegExp, string][] = [
        [/^\/api\/bays/, bay[0]!.id],
        [/^\/api\/records/, record],
        [/^\/api\/people\/invitations/, invitation],
        [/^\/api\/people/, person],
        [/^\/api\/access-tokens/, token],
        [/^\/api\/sessions/, session],
      ];
      const right: Record<string, string> = {
        ...{ kind: 'part', pull: 'A-1', file: own.file, startedAt: '2026-11-26T08:00:00Z', recording: STRANGER },
        id: among.find(([pattern]) => pattern.test(path))?.[1] ?? job,
      };
      return right[name] ?? STRANGER;
    };
    const everything = () =>
      onCluster(process.env.PEOPLE_DATABASE_URL!, async (client) => {
        const { rows: shops } = await client.query<{ id: string }>('SELECT shop_id AS id FROM shops');
        const { rows } = await client.query<{ name: string }>(
          `SELECT tablename AS name FROM pg_tables WHERE schemaname = 'public' ORDER BY 1`,
        );
        const found: string[] = [];
        for (const { id } of shops) {
          await client.query(`SELECT set_config('prandel.shop', $1, false)`, [id]);
          const { rows: own } = await client.query<{ name: string }>('SELECT name FROM shops WHERE shop_id = $1', [id]);
          if (own[0]!.name !== 'Quillmoor Garage') continue;
          for (const { name } of rows) {
            if (name === 'sign_in_tries') continue;
            // That the first shop's own session was used is written down now and then; what is worked out comes when it comes.
            const columns = name === 'sessions' ? "to_jsonb(t) - 'last_seen_at'" : 'to_jsonb(t)';
            if (/projection|baseline_peaks/.test(name)) continue;
            const table = await client.query<{ row: string }>(
              `SELECT ${columns}::text AS row FROM ${name} t ORDER BY 1`,
            );
            found.push(name, ...table.rows.map((r) => r.row));
          }
        }
        return found;
      });
    const before = await everything();
    expect(before.length).toBeGreaterThan(60);
    const reached: string[] = [];
    for (const { method, path, url } of operations(idOf)) {
      const named = /\{(id|recording|file)\}/.test(path);
      const template = bodies[`${method.toLowerCase()} ${path}`];
      if (!named && !template) continue;
      const body =
        method === 'GET' || method === 'DELETE' ? undefined : (template?.() ?? { role: 'viewer', version: 1 });
      const answer = await ask(second, method, url, body);
      if (named && answer.status < 400) reached.push(`${answer.status} ${method} ${url}`);
      if (JSON.stringify(answer.body).includes('Quillmoor')) reached.push(`leak: ${method} ${url}`);
    }
    expect(reached).toEqual([]);
    // Bodies that name what is the first shop's, in operations on the second shop's own things.
    const mine = (await ask(second, 'POST', '/api/jobs', NEW_JOB)).body.id;
    const use = { ...bodies['post /api/jobs/{id}/imports']!(), fileIds: [own.file] };
    expect((await ask(second, 'POST', `/api/jobs/${mine}/imports`, use)).status).toBeGreaterThanOrEqual(400);
    const theirBay = (
      await ask(
        second,
        'POST',
        '/api/bays',
        bayBody(() => 0.7),
      )
    ).body.id;
    const put = { action: 'open-job', job };
    expect((await ask(second, 'POST', `/api/bays/${theirBay}/actions`, put)).status).toBe(404);
    const foreign = { name: 'x', scope: 'upload-to-bay', bayId: bay[0]!.id };
    expect((await ask(second, 'POST', '/api/access-tokens', foreign)).status).toBe(404);
    expect(await everything()).toEqual(before);
    // Each sees its own, however many there are.
    const theirs = (await ask(second, 'GET', '/api/bays')).body as unknown as { id: string }[];
    expect(theirs.map((b) => b.id)).toContain(theirBay);
    expect(theirs.map((b) => b.id)).not.toContain(bay[0]!.id);
  });

  test('work for all shops is done for the second one too: its bays start with the server', async () => {
    const live = new LiveBays(shop.app.get(Database), null as never, null as never);
    const started: string[] = [];
    live.start = (row) => {
      started.push(row.shopId);
      return Promise.resolve(null as never);
    };
    await live.startAll();
    expect(new Set(started).size).toBe(2);
    await live.onModuleDestroy();
  });
});
