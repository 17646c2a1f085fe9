import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { request } from 'node:http';
import WebSocket from 'ws';
import { loggable } from './database/faults.ts';
import { LiveBays } from './live/liveBays.ts';
import { PeopleService } from './people/people.service.ts';
import { deviceHostProblem, deviceNetworks } from './security/deviceNetworks.ts';
import { weakPassword } from './security/passwords.ts';
import { allowedHosts, fromOwnPage } from './security/requestGuards.ts';
import { FIRST_START, NEW_JOB, onCluster, TestShop } from './test/shop.ts';

let shop: TestShop;
beforeAll(async () => {
  process.env.PRANDEL_TRUST_PROXY = '1';
  shop = await TestShop.open(process.env.DOORS_DATABASE_URL);
});
afterAll(async () => {
  delete process.env.PRANDEL_TRUST_PROXY;
  await shop?.close();
});

/** Asks with headers that `fetch` does not let anybody set. */
function raw(method: string, path: string, headers: Record<string, string>, body = '') {
  return new Promise<{ status: number; headers: NodeJS.Dict<string | string[]>; text: string }>((resolve, reject) => {
    const { port } = new URL(shop.base);
    const asked = request({ host: '127.0.0.1', port, method, path, headers }, (answer) => {
      let text = '';
      answer.on('data', (piece: Buffer) => (text += piece.toString()));
      answer.on('end', () => resolve({ status: answer.statusCode!, headers: answer.headers, text }));
    });
    asked.on('error', reject);
    asked.end(body);
  });
}
const json = { 'content-type': 'application/json' };
const signIn = (email: string, password: string, more: Record<string, string> = {}) =>
  raw('POST', '/api/session', { ...json, host: 'localhost', ...more }, JSON.stringify({ email, password }));

describe('signing in', () => {
  test('a fresh server is claimed only with its set-up code, and only one shop can come of it', async () => {
    const claim = { ...FIRST_START, email: 'other@quillmoor.example' };
    expect((await shop.ask('POST', '/api/first-start', claim, '')).status).toBe(409);
    // The shop is put away for a moment, as on a fresh server.
    const asShop = (statements: string) =>
      onCluster(process.env.DOORS_DATABASE_URL!, async (client) => {
        const { rows } = await client.query<{ id: string }>('SELECT shop_id AS id FROM shops');
        for (const { id } of rows) {
          await client.query(`SELECT set_config('prandel.shop', $1, false)`, [id]);
          await client.query(statements);
        }
      });
    await asShop('CREATE TABLE kept AS SELECT * FROM shops; DELETE FROM shops; DELETE FROM installation');
    expect((await shop.ask('POST', '/api/first-start', { ...claim, setupCode: 'guessed' }, '')).status).toBe(403);
    expect((await shop.ask('POST', '/api/first-start', { ...claim, password: 'password123' }, '')).body).toMatchObject({
      status: 400,
      errors: [{ path: 'password' }],
    });
    // Two people who claim it in the same moment: one shop.
    const people = shop.app.get(PeopleService);
    const both = await Promise.allSettled(
      ['one', 'two'].map((name) => people.firstStart({ ...claim, email: `${name}@quillmoor.example` })),
    );
    expect(both.map((b) => b.status).sort()).toEqual(['fulfilled', 'rejected']);
    await asShop('DELETE FROM people; DELETE FROM shops; DELETE FROM installation');
    await onCluster(process.env.DOORS_DATABASE_URL!, async (client) => {
      await client.query(`SELECT set_config('prandel.shop', (SELECT shop_id::text FROM kept), false)`);
      await client.query(
        'INSERT INTO installation SELECT shop_id FROM kept; INSERT INTO shops SELECT * FROM kept; DROP TABLE kept',
      );
    });
  });

  test('tries are limited per account and per address, with a time, whatever the account', async () => {
    for (const email of [FIRST_START.email, 'nobody@quillmoor.example']) {
      const answers = [];
      for (let k = 0; k < 11; k += 1) answers.push(await signIn(email, 'wrong', { 'x-forwarded-for': '10.1.1.1' }));
      expect(answers.slice(0, 10).map((a) => a.status)).toEqual(Array(10).fill(401));
      // Nothing tells an address that exists from one that does not.
      expect(new Set(answers.slice(0, 10).map((a) => a.text)).size).toBe(1);
      expect(answers[10]!.status).toBe(429);
      expect(Number(answers[10]!.headers['retry-after'])).toBeGreaterThan(600);
      expect(answers[10]!.text).toMatch(/Try again in 1\d min/);
    }
    // Another account from that address runs out too, in the end; from elsewhere it does not.
    const statuses = [];
    for (let k = 0; k < 40; k += 1)
      statuses.push((await signIn(`p${k}@quillmoor.example`, 'wrong', { 'x-forwarded-for': '10.1.1.1' })).status);
    expect(statuses.filter((s) => s === 429).length).toBeGreaterThan(5);
    expect((await signIn('p0@quillmoor.example', 'wrong', { 'x-forwarded-for': '10.1.1.2' })).status).toBe(401);
    await onCluster(process.env.DOORS_DATABASE_URL!, async (client) => {
      const { rows } = await client.query<{ key: string }>('SELECT key FROM sign_in_tries');
      expect(rows.length).toBeGreaterThan(10);
      expect(rows.map((r) => r.key).join()).not.toMatch(/quillmoor|10\.1\.1/);
      await client.query('DELETE FROM sign_in_tries');
    });
  });

  test('behind TLS the cookie is bound to the host and secure; without it, plain', async () => {
    const right = [FIRST_START.email, FIRST_START.password] as const;
    const behind = await signIn(...right, { 'x-forwarded-proto': 'https' });
    expect(String(behind.headers['set-cookie'])).toMatch(
      /^__Host-prandel_session=.*Path=\/.*HttpOnly.*Secure.*SameSite=Strict/,
    );
    expect(String((await signIn(...right)).headers['set-cookie'])).toMatch(/^prandel_session=(?!.*Secure)/);
    const cookie = String(behind.headers['set-cookie']).split(';')[0]!;
    expect((await raw('GET', '/api/session', { cookie, host: 'localhost' })).status).toBe(200);
  });

  test('commonest passwords and one’s own name are not taken', () => {
    expect(weakPassword('Password123', [])).toContain('among the first');
    expect(weakPassword('aaaaaaaaaaaa', [])).toContain('among the first');
    expect(weakPassword('short', [])).toContain('at least 10');
    expect(weakPassword('Quillmoor Garage', ['Quillmoor Garage'])).toContain('your own name');
    expect(weakPassword('two settle pulls', ['Quillmoor Garage'])).toBeNull();
  });
});

describe('sessions', () => {
  test('are listed, ended one by one and all at once; a screen goes dark with its session', async () => {
    const enter = async () => {
      const answer = await signIn(FIRST_START.email, FIRST_START.password, { 'user-agent': 'A tablet' });
      return String(answer.headers['set-cookie']).split(';')[0]!;
    };
    const [tablet, other] = [await enter(), await enter()];
    const list = (await shop.ask('GET', '/api/sessions')).body as unknown as {
      id: string;
      own: boolean;
      userAgent: string;
    }[];
    expect(list.filter((s) => s.own)).toHaveLength(1);
    expect(list.filter((s) => s.userAgent === 'A tablet').length).toBeGreaterThanOrEqual(2);
    expect(JSON.stringify(list)).not.toContain(tablet.split('=')[1]);
    const mine = (await shop.ask('GET', '/api/sessions', undefined, other)).body as unknown as typeof list;
    expect((await shop.ask('DELETE', `/api/sessions/${mine.find((s) => s.own)!.id}`)).status).toBe(204);
    expect((await shop.ask('GET', '/api/session', undefined, other)).status).toBe(401);
    // A live screen of the tablet.
    await shop.app.get(LiveBays).startAll();
    const none = { rollers: null, weather: null, bus: null, aux: null };
    const { id } = (await shop.ask('POST', '/api/bays', { label: 'Bay 1', rollers: {}, instruments: none })).body as {
      id: string;
    };
    const screen = new WebSocket(`${shop.base.replace('http', 'ws')}/api/live?bay=${id}`, {
      headers: { cookie: tablet },
    });
    await new Promise((open, failed) => screen.on('open', open).on('error', failed));
    const dark = new Promise<number>((closed) => screen.on('close', closed));
    expect((await shop.ask('DELETE', '/api/sessions')).body).toMatchObject({ ended: expect.any(Number) as unknown });
    expect(await dark).toBe(4401);
    expect((await shop.ask('GET', '/api/session')).status).toBe(200);
    const foreign = new WebSocket(`${shop.base.replace('http', 'ws')}/api/live?bay=${id}`, {
      headers: { cookie: shop.cookie, origin: 'http://elsewhere.example' },
    });
    await expect(new Promise((open, failed) => foreign.on('open', open).on('error', failed))).rejects.toThrow('401');
  });

  test('idle and old ones are over', async () => {
    const age = (column: string, interval: string) =>
      onCluster(process.env.DOORS_DATABASE_URL!, async (client) => {
        await client.query(`SELECT set_config('prandel.shop', (SELECT shop_id::text FROM shops), false)`);
        await client.query(`UPDATE sessions SET ${column} = now() + $1::interval`, [interval]);
      });
    await age('last_seen_at', '-8 days');
    expect((await shop.ask('GET', '/api/session')).status).toBe(401);
    await age('last_seen_at', '0');
    expect((await shop.ask('GET', '/api/session')).status).toBe(200);
    await age('expires_at', '-1 second');
    expect((await shop.ask('GET', '/api/session')).status).toBe(401);
    await age('expires_at', '1 day');
  });

  test('a new password wants the old one and ends the other sessions', async () => {
    const elsewhere = String((await signIn(FIRST_START.email, FIRST_START.password)).headers['set-cookie']).split(
      ';',
    )[0]!;
    const change = (current: string, next: string) => shop.ask('POST', '/api/password', { current, next });
    expect((await change('wrong', 'three dull spanners')).body).toMatchObject({
      status: 400,
      errors: [{ path: 'current' }],
    });
    expect((await change(FIRST_START.password, 'qwertyuiop')).body).toMatchObject({
      status: 400,
      errors: [{ path: 'next' }],
    });
    expect((await change(FIRST_START.password, 'three dull spanners')).status).toBe(204);
    expect((await shop.ask('GET', '/api/session', undefined, elsewhere)).status).toBe(401);
    expect((await signIn(FIRST_START.email, FIRST_START.password)).status).toBe(401);
    expect((await change('three dull spanners', FIRST_START.password)).status).toBe(204);
  });
});

describe('what a browser may send, and what it is told', () => {
  test('changes from another site, other names and other kinds of bodies are refused', async () => {
    const cookie = shop.cookie;
    const body = JSON.stringify(NEW_JOB);
    const post = (headers: Record<string, string>) =>
      raw('POST', '/api/jobs', { cookie, host: 'localhost', ...json, ...headers }, body);
    expect((await post({ origin: 'http://elsewhere.example' })).status).toBe(403);
    expect((await post({ origin: 'null' })).status).toBe(403);
    expect((await post({ 'sec-fetch-site': 'cross-site' })).status).toBe(403);
    expect((await post({ 'sec-fetch-site': 'same-site' })).status).toBe(403);
    expect((await post({ host: 'rebound.example' })).status).toBe(421);
    expect((await post({ 'content-type': 'text/plain' })).status).toBe(415);
    expect((await post({ origin: 'http://localhost', 'sec-fetch-site': 'same-origin' })).status).toBe(201);
    expect((await raw('GET', '/api/status', { host: 'rebound.example' })).status).toBe(421);
  });

  test('hosts are addresses, own names and those that the operator allows', () => {
    const allowed = allowedHosts('bay.quillmoor.example');
    for (const host of ['localhost:4870', '127.0.0.1', '[::1]:80', '192.168.4.9:4870', 'bay.quillmoor.example'])
      expect(allowed(host)).toBe(true);
    for (const host of ['evil.example', 'localhost.evil.example', '', undefined, 'a b', 'x:y:z'])
      expect(allowed(host)).toBe(false);
    expect(fromOwnPage({ headers: { origin: 'not a url', host: 'x' } })).toBe(false);
  });

  test('headers: a strict policy without inline code, no sniffing, no frames, no referrer; ids but no software names', async () => {
    const { headers } = await raw('GET', '/api/status', { host: 'localhost' });
    const policy = String(headers['content-security-policy']);
    expect(policy).toContain("default-src 'none'");
    expect(policy).toMatch(/style-src 'self' 'nonce-[A-Za-z0-9+/=]{20,}'/);
    expect(policy).not.toMatch(/unsafe|\*/);
    expect(headers).toMatchObject({
      'x-content-type-options': 'nosniff',
      'x-frame-options': 'DENY',
      'referrer-policy': 'no-referrer',
      'x-request-id': expect.stringMatching(/^[0-9a-f]{8}$/) as unknown,
    });
    expect(headers['x-powered-by']).toBeUndefined();
  });
});

describe('the log', () => {
  test('of a failed statement holds neither its parameters nor the row that was refused', () => {
    const refused = Object.assign(new Error('duplicate key value violates unique constraint "people_email"'), {
      code: '23505',
      detail: 'Key (email)=(ines@quillmoor.example) already exists.',
    });
    const failed = Object.assign(
      new Error('Failed query: insert … params: $argon2id$v=19$secret', { cause: refused }),
      {
        query: 'insert into "people" values ($1)',
        params: ['$argon2id$v=19$secret'],
      },
    );
    expect(loggable(failed)).toContain('insert into "people"');
    expect(loggable(failed)).toContain('duplicate key');
    expect(loggable(failed)).not.toMatch(/argon2|quillmoor/);
  });
});

describe('addresses of instruments', () => {
  test('only this machine and the local network, unless the operator says otherwise', () => {
    for (const host of ['127.0.0.1', '10.3.2.1', '192.168.1.20', '::1', 'rollers.local'])
      expect(deviceHostProblem(host)).toBeNull();
    for (const host of ['8.8.8.8', '169.255.0.1', '2001:db8::1', '../../etc', 'a b', '-x', ''])
      expect(deviceHostProblem(host)).not.toBeNull();
    expect(deviceNetworks('203.0.113.0/24').check('203.0.113.9')).toBe(true);
    expect(() => deviceNetworks('everywhere')).toThrow('is no network');
  });

  test('a bay that points elsewhere is refused, and says nothing of what listens there', async () => {
    const at = (host: string) => ({
      label: `Bay ${host}`,
      rollers: {},
      instruments: { rollers: { host, port: 22 }, weather: null, bus: null, aux: null },
    });
    expect((await shop.ask('POST', '/api/bays', at('8.8.8.8'))).body).toMatchObject({
      status: 400,
      errors: [{ path: 'instruments.rollers.host' }],
    });
    expect((await shop.ask('POST', '/api/bays', at('127.0.0.1'))).status).toBe(201);
    await new Promise((done) => setTimeout(done, 400));
    const bays = (await shop.ask('GET', '/api/bays')).body as unknown as {
      label: string;
      status: { fault: object }[];
    }[];
    const { fault } = bays.find((b) => b.label === 'Bay 127.0.0.1')!.status[0]!;
    expect(fault).toEqual({ code: 'no-connection', host: '127.0.0.1', port: 22 });
  });
});
