import { mkdtempSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { judgeJob, type Job } from '@prandel/core';
import {
  fingerprint,
  readSeal,
  SEAL_PATH,
  signatureHolds,
  unzip,
  verifyPackage,
  verifyReport,
  writePackage,
  zip,
  type PackageFiles,
} from '@prandel/formats';
import { sealedVerdicts, unitsOfSealed } from '@prandel/presentation';
import { DEMO_DAYS, simulateDay } from '@prandel/simulator';
import { NEW_JOB, onCluster, TestShop, upload } from '../test/shop.ts';

// A job from its package to its seal, to a customer's link, and open again.
const keys = mkdtempSync(join(tmpdir(), 'prandel-keys-'));
process.env.PRANDEL_KEYS = keys;
const day = simulateDay(DEMO_DAYS.find((d) => d.id === 'QG-0910-2')!);
let shop: TestShop;
let job = '';

async function brought(files: PackageFiles): Promise<string> {
  const made = await shop.ask('POST', '/api/packages', upload('file', [['day.zip', await zip(files)]]));
  return (made.body as { id: string }).id;
}

beforeAll(async () => {
  shop = await TestShop.open(process.env.SEALS_DATABASE_URL);
  job = await brought(writePackage(day));
}, 60_000);
afterAll(async () => {
  await shop.close();
  rmSync(keys, { recursive: true, force: true });
});

const seal = (id = job) => shop.ask('POST', `/api/jobs/${id}/seals`);
const detail = ({ body }: { body: unknown }) => (body as { detail: string }).detail;
const read = async (id = job) =>
  (await shop.ask('GET', `/api/jobs/${id}`)).body as unknown as { version: number; sealedAt: string | null; job: Job };
interface Listed {
  id: string;
  n: number;
  fingerprint: string;
  sha256: string;
  reopenReason: string | null;
  links: { id: string; views: number; withdrawnAt: string | null }[];
}
const sealings = async (id = job) => (await shop.ask('GET', `/api/jobs/${id}/seals`)).body as unknown as Listed[];
const packageOf = async (id = job) => unzip((await shop.ask('GET', `/api/jobs/${id}/package`)).body);
const verified = (files: PackageFiles) =>
  verifyPackage(files, { judge: (own, like) => sealedVerdicts(judgeJob(own), unitsOfSealed(like)) });
const failed = (files: PackageFiles) => verified(files).checks.filter((c) => c.state === 'fails');
const pem = () =>
  join(
    keys,
    readdirSync(keys).find((name) => /^[0-9a-f-]{36}\.pem$/.test(name))!,
  );

describe('a sealed job', () => {
  test('its package and its report hold for somebody who has nothing but the files, and the key is the shop’s', async () => {
    expect(await seal()).toMatchObject({ status: 204 });
    const files = await packageOf();
    const { seal: own, checks } = verified(files);
    expect(checks.filter((c) => c.state !== 'holds').map((c) => c.code)).toEqual(['report-elsewhere']);
    expect(own!.verdicts[0]).toMatchObject({ candidate: 'B', verdict: 'verified-loss' });
    const key = (await shop.ask('GET', '/api/key')).body as unknown as { key: { fingerprint: string }; state: string };
    expect(key).toMatchObject({ state: 'there', key: { fingerprint: fingerprint(own!.publicKey) } });
    expect(statSync(pem()).mode & 0o777).toBe(0o600);
    const html = ((await shop.ask('GET', `/api/jobs/${job}/report.html`)).body as Buffer).toString('utf8');
    const report = verifyReport(html);
    expect(report.checks.filter((c) => c.state === 'fails')).toEqual([]);
    expect(report.seal).toEqual(own);
    expect(html).toContain(fingerprint(own!.publicKey));
    expect(html).toContain(own!.log.head.slice(0, 16));
    expect(html).toContain('/verify');
  });

  test('nothing of it can be changed, and the answer says how it could', async () => {
    const { version, sealedAt } = await read();
    expect(sealedAt).not.toBeNull();
    const before = (await shop.ask('GET', `/api/jobs/${job}/log`)).body;
    const pull = encodeURIComponent(day.pulls[3]!.id);
    const tries = [
      ['PATCH', '', { version, title: 'x' }],
      ['PATCH', `/pulls/${pull}`, { version, status: 'set-aside', reason: 'I like it more' }],
      ['POST', '/notes', { about: null, words: 'later' }],
      ['POST', '/setups', { parentId: 'A' }],
      [
        'POST',
        '/gauges',
        { readings: [{ pullId: day.pulls[0]!.id, channel: 'gearbox_c', moment: 'peak', value: 80 }] },
      ],
      ['POST', '/weather', { airC: 20, pressureHpa: 1000 }],
      ['DELETE', '', undefined],
      ['POST', '/seals', undefined],
    ] as const;
    for (const [method, path, body] of tries) {
      const answer = await shop.ask(method, `/api/jobs/${job}${path}`, body);
      expect([method, path, answer.status]).toEqual([method, path, 409]);
      expect(detail(answer)).toMatch(/sealed/);
    }
    expect((await shop.ask('GET', `/api/jobs/${job}/log`)).body).toEqual(before);
    expect((await read()).version).toBe(version);
  });

  test('is reopened with a reason only; sealed again, the new seal names the one it stands in place of', async () => {
    expect((await shop.ask('POST', `/api/jobs/${job}/seals/reopen`, { reason: ' ' })).status).toBe(400);
    const reason = 'The customer brought the invoice of another part.';
    expect((await shop.ask('POST', `/api/jobs/${job}/seals/reopen`, { reason })).status).toBe(204);
    expect((await read()).sealedAt).toBeNull();
    expect((await shop.ask('POST', `/api/jobs/${job}/seals/reopen`, { reason })).status).toBe(409);
    const { version } = await read();
    const pull = encodeURIComponent(day.pulls[3]!.id);
    const aside = { version, status: 'set-aside', reason: 'fan stopped' };
    expect((await shop.ask('PATCH', `/api/jobs/${job}/pulls/${pull}`, aside)).status).toBe(204);
    expect((await seal()).status).toBe(204);
    const [second, first] = await sealings();
    expect([second!.n, first!.n, first!.reopenReason]).toEqual([2, 1, reason]);
    const files = await packageOf();
    expect(failed(files)).toEqual([]);
    expect(verified(files).seal!.supersedes).toBe(first!.sha256);
    expect(verified(files).sealSha256).toBe(second!.sha256);
  });
});

describe('what cannot be sealed', () => {
  test('a job without a verdict, and one whose log was changed behind the program’s back', async () => {
    const empty = ((await shop.ask('POST', '/api/jobs', NEW_JOB)).body as { id: string }).id;
    const answer = await seal(empty);
    expect([answer.status, detail(answer)]).toEqual([422, expect.stringMatching(/no verdict to seal/)]);
    const other = await brought(writePackage({ ...day, id: 'other' }));
    await onCluster(process.env.SEALS_DATABASE_URL!, async (client) => {
      const { rows } = await client.query<{ shop_id: string }>('SELECT shop_id FROM shops');
      await client.query(`SELECT set_config('prandel.shop', $1, false)`, [rows[0]!.shop_id]);
      // The database itself refuses it as long as its trigger is there.
      await client.query('ALTER TABLE evidence DISABLE TRIGGER USER');
      await client.query(`UPDATE evidence SET what = what || '!' WHERE job_id = $1 AND n = 1`, [other]);
      await client.query('ALTER TABLE evidence ENABLE TRIGGER USER');
    });
    const broken = await seal(other);
    expect([broken.status, detail(broken)]).toEqual([409, expect.stringMatching(/log does not hold.*Row 1/)]);
    expect(await sealings(other)).toEqual([]);
  });

  test('a pull that was changed past the log: its digest is not what the log took in', async () => {
    const other = await brought(writePackage({ ...day, id: 'changed' }));
    await onCluster(process.env.SEALS_DATABASE_URL!, async (client) => {
      const { rows } = await client.query<{ shop_id: string }>('SELECT shop_id FROM shops');
      await client.query(`SELECT set_config('prandel.shop', $1, false)`, [rows[0]!.shop_id]);
      await client.query(`UPDATE pulls SET air_c = air_c + 1 WHERE job_id = $1 AND place = 2`, [other]);
    });
    const answer = await seal(other);
    expect([answer.status, detail(answer)]).toEqual([422, expect.stringContaining(`pull ${day.pulls[2]!.id}`)]);
  });

  test('a package that was tampered with is taken, and the log of its job says what does not hold', async () => {
    const files = await packageOf();
    const text = new TextDecoder().decode(files.get('pulls.csv'));
    files.set('pulls.csv', new TextEncoder().encode(text.replace(',settle,', ',counted,')));
    const id = await brought(files);
    const { rows } = (await shop.ask('GET', `/api/jobs/${id}/log`)).body as unknown as {
      rows: { what: string }[];
    };
    expect(rows.map((r) => r.what).join('\n')).toMatch(/does not hold: pulls\.csv was changed/);
    expect((await seal(id)).status).toBe(422);
  });
});

describe('the shop’s key', () => {
  const change = (lost: boolean) => shop.ask('POST', '/api/key/change', { lost });
  const standing = async () =>
    (await shop.ask('GET', '/api/key')).body as unknown as {
      key: { publicKey: string };
      state: string;
      history: { publicKey: string; changeText: string | null; changeSignature: string | null }[];
    };

  test('a new key is signed by the old one; what was sealed before still holds', async () => {
    const old = (await standing()).key.publicKey;
    expect((await change(true)).status).toBe(409);
    expect((await change(false)).status).toBe(204);
    const { key, state, history } = await standing();
    expect([state, history.length, history[1]!.publicKey]).toEqual(['there', 2, old]);
    const { changeText, changeSignature } = history[0]!;
    expect(JSON.parse(changeText!)).toMatchObject({ oldKey: old, newKey: key.publicKey });
    expect(signatureHolds(new TextEncoder().encode(changeText!), changeSignature!, old)).toBe(true);
    expect(failed(await packageOf())).toEqual([]);
  });

  test('without its file nothing is sealed and the answer says what to do; put back, it goes on', async () => {
    const other = await brought(writePackage({ ...day, id: 'third' }));
    const path = pem();
    renameSync(path, `${path}.away`);
    const answer = await seal(other);
    expect([answer.status, detail(answer)]).toEqual([
      409,
      expect.stringMatching(/key file keys\/.*is gone.*copy back/),
    ]);
    writeFileSync(path, readFileSync(`${path}.away`, 'utf8').replace(/[A-Za-z]{8}/, 'AAAAAAAA'));
    expect((await standing()).state).not.toBe('there');
    expect((await change(false)).status).toBe(409);
    renameSync(`${path}.away`, path);
    expect((await standing()).state).toBe('there');
    expect((await seal(other)).status).toBe(204);
  });

  test('a key that is lost for good is replaced by one that nobody signed, and says so', async () => {
    rmSync(pem());
    expect((await change(true)).status).toBe(204);
    const { state, history } = await standing();
    expect([state, history.length, history[0]!.changeSignature]).toEqual(['there', 3, null]);
  });
});

describe('a link', () => {
  const open = (token: string, more = '') => shop.ask('GET', `/api/shared/${token}${more}`, undefined, '');
  const make = async (days: number | null = null) => {
    const [newest] = await sealings();
    const made = await shop.ask('POST', `/api/jobs/${job}/seals/${newest!.id}/links`, { label: 'M. Quayle', days });
    return made.body as { id: string; token: string };
  };

  test('opens report and package without signing in, counts who looks, and shows nothing of the shop besides', async () => {
    const { id, token } = await make(30);
    expect(token).toMatch(/^[A-Za-z0-9_-]{22}$/);
    const { status, body, headers } = await open(token);
    expect(status).toBe(200);
    expect(headers.get('cache-control')).toContain('no-store');
    const { page, sealedAgain } = body as unknown as {
      page: { results: { sentence: string; picture: string }[] };
      sealedAgain: boolean;
    };
    expect(page.results[0]!.sentence).toMatch(/at the wheels/);
    expect(page.results[0]!.picture).toMatch(/^<svg/);
    expect(sealedAgain).toBe(false);
    expect(failed(await unzip((await open(token, '/package')).body))).toEqual([]);
    expect(verifyReport(((await open(token, '/report')).body as Buffer).toString('utf8')).seal.shop).toBe(
      'Quillmoor Garage',
    );
    const [newest] = await sealings();
    expect(newest!.links.find((l) => l.id === id)).toMatchObject({ views: 1 });
    // Its token opens nothing else.
    expect((await shop.ask('GET', `/api/jobs/${job}`, undefined, `session=${token}`)).status).toBe(401);
  });

  test('a withdrawn one and one that is over say so; a link of an older seal says that a newer one is there', async () => {
    const { id, token } = await make();
    expect((await shop.ask('DELETE', `/api/jobs/${job}/seals/links/${id}`)).status).toBe(204);
    expect((await shop.ask('DELETE', `/api/jobs/${job}/seals/links/${id}`)).status).toBe(404);
    expect(await open(token)).toMatchObject({
      status: 410,
      body: { detail: expect.stringContaining('withdrawn') as unknown },
    });
    expect((await open(token, '/package')).status).toBe(410);
    const over = await make(1);
    await onCluster(process.env.SEALS_DATABASE_URL!, async (client) => {
      const { rows } = await client.query<{ shop_id: string }>('SELECT shop_id FROM shops');
      await client.query(`SELECT set_config('prandel.shop', $1, false)`, [rows[0]!.shop_id]);
      await client.query(`UPDATE share_links SET expires_at = now() - interval '1 second' WHERE id = $1`, [over.id]);
    });
    expect((await open(over.token)).status).toBe(410);
    const first = (await sealings()).at(-1)!;
    const made = await shop.ask('POST', `/api/jobs/${job}/seals/${first.id}/links`, { label: 'old', days: null });
    const old = (await open((made.body as { token: string }).token)).body as unknown as Record<string, unknown>;
    expect(old).toMatchObject({
      sealedAgain: true,
      reopened: { reason: expect.stringContaining('invoice') as unknown },
    });
  });

  test('who guesses is stopped after some tries, and then even a right one waits', async () => {
    const { token } = await make();
    const answers: number[] = [];
    for (let k = 0; k < 24; k += 1) answers.push((await open(`guess-number-${k}`)).status);
    expect(answers.slice(0, 20)).toEqual(Array.from({ length: 20 }, () => 404));
    expect(answers.at(-1)).toBe(429);
    expect((await open(token)).status).toBe(429);
  });
});

test('the seal in a package is what the page of the job lists', async () => {
  const files = await packageOf();
  const own = readSeal(new TextDecoder().decode(files.get(SEAL_PATH)));
  const [newest] = await sealings();
  expect(newest!.fingerprint).toBe(fingerprint(own.publicKey));
});
