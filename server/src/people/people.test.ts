import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { OpenAPIObject } from '@nestjs/swagger';
import { sampleCsvFiles } from '@prandel/simulator';
import { LiveBays } from '../live/liveBays.ts';
import { bayBody } from '../test/bodies.ts';
import { askAs, join as joinShop, operations, PASSWORD, STRANGER, teamOf as team } from '../test/askAs.ts';
import { NEW_JOB, onCluster, TestShop, upload } from '../test/shop.ts';

// People, roles, links and tokens.
let shop: TestShop;
let document: OpenAPIObject;
const FILES = sampleCsvFiles();

const ask = (as: string, method: string, path: string, body?: unknown) => askAs(shop, as, method, path, body);
const join = (secret: string, name: string) => joinShop(shop, secret, name);

async function invited(as: string, email: string, role: string): Promise<string> {
  const made = await ask(as, 'POST', '/api/people/invitations', { email, role });
  expect(made.status).toBe(201);
  return join(made.body.secret, email.split('@')[0]!);
}

const teamOf = (as: string) => team(shop, as);

beforeAll(async () => {
  shop = await TestShop.open(process.env.PEOPLE_DATABASE_URL);
  document = (await shop.ask('GET', '/api/openapi.json')).body;
});
afterAll(() => shop?.close());

describe('roles', () => {
  const OPEN = [
    ...['/api/status', '/api/first-start', '/api/session', '/api/health', '/api/links/look', '/api/links/use'],
    // Whoever has the secret of a shared link sees what it shows.
    ...['', '/report', '/package'].map((what) => `/api/shared/{token}${what}`),
  ];
  /** What concerns nobody but who asks. */
  const OWN = ['/api/session', '/api/session/units', '/api/sessions', '/api/sessions/{id}', '/api/password'];
  /** What is the owner's. */
  const OWNERS = /^\/api\/(people|access-tokens)(\/|$)/;
  const OWNERS_ALSO = [
    ...['PUT /api/money', 'DELETE /api/bays/{id}', 'POST /api/bays/{id}/restore', 'POST /api/key/change'],
  ];

  test('every operation asks who it is, and lets in whom its rule names', async () => {
    const viewer = await invited(shop.cookie, 'look@quillmoor.example', 'viewer');
    const technician = await invited(shop.cookie, 'wrench@quillmoor.example', 'technician');
    const wrong: string[] = [];
    const expectStatus = async (as: string, who: string, o: { method: string; url: string }, closed: number | null) => {
      const { status } = await ask(as, o.method, o.url, o.method === 'GET' || o.method === 'DELETE' ? undefined : {});
      const right = closed === null ? status !== 401 && status !== 403 : status === closed;
      if (!right) wrong.push(`${who}: ${o.method} ${o.url} ${status}`);
    };
    const all = operations(document, () => STRANGER);
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
