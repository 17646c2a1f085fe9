import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { drawOrder, framesIn, judgeJob, USUAL_DAY, type Job } from '@prandel/core';
import { readPackage, unzip, writePackage, zip } from '@prandel/formats';
import { demoJobs } from '@prandel/simulator';
import WebSocket from 'ws';
import { createApp } from './createApp.ts';
import { Database } from './database/database.ts';
import { LiveBays } from './live/liveBays.ts';
import { NEW_JOB, TestShop, upload } from './test/shop.ts';

let shop: TestShop;
beforeAll(async () => {
  shop = await TestShop.open(process.env.PAPERS_DATABASE_URL);
});
afterAll(() => shop?.close());
const ask: TestShop['ask'] = (...asked) => shop.ask(...asked);
const read = async (id: string) =>
  (await ask('GET', `/api/jobs/${id}`)).body as unknown as { version: number; job: Job };
const told = async (id: string) =>
  ((await ask('GET', `/api/jobs/${id}/log`)).body as unknown as { rows: { what: string; detail: string }[] }).rows;

describe('the order of setups', () => {
  const third = { id: 'C', label: 'another part', parentId: 'A', changes: [], state: {} };
  const step = (setup: string) => ({ setup, settle: 2, counted: 3 });
  const { drawn: _, ...plan } = { ...USUAL_DAY.plan, order: 'randomised' };
  let id = '';
  const edit = async (more: object) => ask('PATCH', `/api/jobs/${id}`, { version: (await read(id)).version, ...more });

  test('is drawn once, by the server, and the evidence tells the seed from which anybody can draw it again', async () => {
    const question = { ...NEW_JOB.question, candidateSetups: ['B', 'C'], plan: ['A', 'B', 'C'].map(step) };
    const body = { ...NEW_JOB, question, setups: [...NEW_JOB.setups, third] };
    id = ((await ask('POST', '/api/jobs', body)).body as { id: string }).id;
    expect((await edit({ day: { plan } })).status).toBe(204);
    const { job } = await read(id);
    const drawn = job.day!.plan.drawn!;
    expect(drawn).toEqual(drawOrder(['B', 'C'], drawn.seed));
    expect(job.question.plan.map((s) => s.setup)).toEqual(['A', ...drawn.candidates]);
    expect((await told(id)).at(-1)!.what).toBe(
      `Drew the order of the setups: ${drawn.candidates.join(', ')} (seed ${drawn.seed}).`,
    );
    // Neither saving again nor going to and fro draws another one.
    for (const order of ['randomised', 'fixed', 'randomised']) await edit({ day: { plan: { ...plan, order } } });
    expect((await read(id)).job.day!.plan.drawn).toEqual(drawn);
    expect((await told(id)).map((row) => row.what)).toEqual(
      expect.arrayContaining([expect.stringMatching(/^Left the drawn order/), expect.stringMatching(/^Went back to/)]),
    );
  });

  test('cannot be drawn for one candidate alone, and nobody can bring an order of their own as drawn', async () => {
    id = ((await ask('POST', '/api/jobs', NEW_JOB)).body as { id: string }).id;
    expect((await edit({ day: { plan } })).body).toMatchObject({
      status: 400,
      detail: 'One candidate has no order to draw. Name a second one, or keep the order fixed.',
    });
    const own = { ...plan, order: 'fixed', drawn: { seed: 1, candidates: ['B'] } };
    expect((await edit({ day: { plan: own } })).status).toBe(400);
    expect((await read(id)).job.day?.plan.drawn ?? null).toBeNull();
  });
});

describe('the calibration of a job', () => {
  test('that was wrong or missing is corrected with a reason, in the log, and the pulls are worked out anew', async () => {
    const body = { ...NEW_JOB, bay: { label: 'elsewhere', kind: 'inertia', rollerInertiaKgM2: null } };
    const { id } = (await ask('POST', '/api/jobs', body)).body as { id: string };
    // Rollers that speed up evenly, with an rpm pickup: power is what it takes to turn them.
    const rows = Array.from({ length: 400 }, (_, i) => `${i / 50},${2500 + i * 10},${(20 + i * 0.25).toFixed(3)}`);
    const form = upload('files', [['a.csv', `Time (s),RPM,Roller speed (rad/s)\r\n${rows.join('\r\n')}`]]);
    const [file] = (await ask('POST', `/api/jobs/${id}/staged-files`, form)).body as unknown as {
      id: string;
      columns: { role: string; unit: string | null }[];
    }[];
    const taken = {
      ...{ fileIds: [file!.id], setupId: 'A', settle: 0, numberState: { kind: 'uncorrected' } },
      columns: file!.columns.map(({ role, unit }) => ({ role, unit })),
    };
    expect((await ask('POST', `/api/jobs/${id}/imports`, taken)).status).toBe(201);
    const judged = async () => {
      const { body: zipped } = await ask('GET', `/api/jobs/${id}/package`);
      return judgeJob(readPackage(await unzip(zipped)).job, 'verdict').pulls[0]!;
    };
    // What stands for the samples follows the rollers' facts: a page judges from it.
    const kept = async () => {
      const { body: frames } = await ask('GET', `/api/jobs/${id}/moments`);
      return [...framesIn(new Uint8Array(frames as Buffer).buffer).values()][0]!;
    };
    expect((await kept()).moments.raw).toHaveLength(0);
    expect((await judged()).findings).toMatchObject([{ code: 'no-power', parameters: { why: 'no-inertia' } }]);
    const { version } = await read(id);
    const calibration = { rollerInertiaKgM2: 26.4, readoutScale: 1 };
    expect((await ask('PATCH', `/api/jobs/${id}`, { version, calibration })).status).toBe(400);
    const edit = { version, calibration: { ...calibration, reason: 'left out at the start' } };
    expect((await ask('PATCH', `/api/jobs/${id}`, edit)).status).toBe(204);
    expect((await read(id)).job.bay).toMatchObject({ label: 'elsewhere', kind: 'inertia', rollerInertiaKgM2: 26.4 });
    // 26.4 kg·m² · 12.5 rad/s² · 70 rad/s in the middle of the pull.
    expect(Math.abs((await judged()).windowMeanW / (26.4 * 12.5 * 70) - 1)).toBeLessThan(0.1);
    expect((await kept()).moments.raw.length).toBeGreaterThan(100);
    expect((await told(id)).at(-1)!.what).toBe(
      'Corrected the calibration: roller inertia not known to 26.4 kg·m²; because: left out at the start',
    );
    // Another job on the same rollers keeps its own.
    const other = ((await ask('POST', '/api/jobs', body)).body as { id: string }).id;
    expect((await read(other)).job.bay.rollerInertiaKgM2).toBeNull();
  });
});

describe('a baseline and its search', () => {
  const card = { label: 'Tarn Vireo 1.8', gear: '4', baselinesSeenW: [90_000, 91_000, 89_500, 90_500] };
  let id = '';
  /** Asked again until every other car is worked out. */
  const standing = async (job: string) => {
    for (let k = 0; k < 100; k += 1) {
      const { body } = await ask('GET', `/api/jobs/${job}/baseline`);
      if ((body as { waiting: number }).waiting === 0) return body;
      await new Promise((again) => setTimeout(again, 200));
    }
    throw new Error('cars stay to be worked out');
  };

  test('a job of the same model, bay and gear is held against what its card and the other cars have shown', async () => {
    const [demo] = demoJobs();
    const made = async (label: string, modelCard: object) => {
      const job = { ...demo!, vehicle: { ...demo!.vehicle, label }, day: { ...USUAL_DAY, modelCard } as Job['day'] };
      const bytes = await zip(writePackage(job));
      return ((await ask('POST', '/api/packages', upload('file', [['day.zip', bytes]]))).body as { id: string }).id;
    };
    // Alone with its card: far above the four cars that were typed.
    id = await made('Vireo one', { ...USUAL_DAY.modelCard, ...card });
    expect(await standing(id)).toMatchObject({ stands: 'high', range: { cars: 4 } });
    // A second car of the model counts for it, once however often it came; another gear does not.
    const other = await made('Vireo two', { ...USUAL_DAY.modelCard, ...card, baselinesSeenW: [] });
    await made('Vireo two', { ...USUAL_DAY.modelCard, ...card });
    await made('Vireo three', { ...USUAL_DAY.modelCard, ...card, gear: '3' });
    expect(await standing(id)).toMatchObject({ range: { cars: 5 } });
    expect(await standing(other)).toMatchObject({ stands: 'unknown', range: null });
  });

  test('what somebody looked at is kept with who and when, and told in the log', async () => {
    const look = (suspect: string, result: string, pull: string | null = null) =>
      ask('POST', `/api/jobs/${id}/searches/looks`, { suspect, result, minutes: null, pull });
    expect((await look('tyres', 'fine')).body).toMatchObject({
      detail: expect.stringMatching(/Open one first/) as unknown,
    });
    const search = { complaint: 'reads-low', words: 'ten less than his friend', budgetMinutes: 45 };
    expect((await ask('POST', `/api/jobs/${id}/searches`, { ...search, budgetMinutes: 1 })).status).toBe(400);
    expect((await ask('POST', `/api/jobs/${id}/searches`, search)).status).toBe(204);
    expect((await ask('POST', `/api/jobs/${id}/searches`, search)).status).toBe(409);
    expect((await look('tyres', 'fine')).status).toBe(204);
    expect((await look('straps', 'found')).status).toBe(204);
    expect((await look('boost', 'fine')).body).toMatchObject({ detail: 'This car has no such suspect.' });
    expect((await look('straps', 'cured', 'Z-9')).body).toMatchObject({ detail: 'This job has no pull Z-9.' });
    // A later look at the same suspect takes the place of the earlier one; a cure ends the search.
    expect((await look('straps', 'cured')).status).toBe(204);
    const [own] = (await read(id)).job.day!.searches!;
    expect(own).toMatchObject({ words: 'ten less than his friend', openedBy: 'Ines R.' });
    expect(own!.closedAt).not.toBeNull();
    expect(own!.looks).toMatchObject([
      { suspect: 'tyres', result: 'fine', who: 'Ines R.' },
      { suspect: 'straps', result: 'cured' },
    ]);
    expect((await told(id)).at(-1)!.what).toMatch(/^Looked at Straps too tight.*that was it, and it is cured/);
    // The next car of another model with this complaint starts from what was found here, at a quarter of its weight.
    const { id: next } = (await ask('POST', '/api/jobs', { ...NEW_JOB, day: {} })).body as { id: string };
    await ask('POST', `/api/jobs/${next}/searches`, search);
    const { body } = await ask('GET', `/api/jobs/${next}/searches`);
    expect(body).toMatchObject([
      {
        seen: expect.arrayContaining([
          { suspect: 'straps', own: { looks: 0, cures: 0 }, others: { looks: 1, cures: 1 } },
        ]) as unknown,
      },
    ]);
    expect((await ask('POST', `/api/jobs/${next}/searches/close`)).status).toBe(204);
  });

  test('measures and the channels beside power are kept as they were agreed, and a fifth channel is refused', async () => {
    const { version, job } = await read(id);
    const measures = [
      { id: 'windowMeanPower', meaningful: 1 },
      { id: 'mean', channel: 'manifold_kpa', windowRpm: [3000, 5000], meaningful: 2 },
      { id: 'rollOnTime', target: 240, meaningful: 5 },
    ];
    const { text, baselineSetup, candidateSetups, partChangesIntakeTemperature } = job.question;
    const question = { text, baselineSetup, candidateSetups, partChangesIntakeTemperature, measures };
    const edit = (body: object) => ask('PATCH', `/api/jobs/${id}`, { version, amendment: 'asked for', ...body });
    expect((await edit({ day: { channels: ['a_c', 'b_c', 'c_c', 'd_c', 'e_c'] } })).status).toBe(400);
    expect((await edit({ question: { ...question, measures: [] } })).body).toMatchObject({
      errors: [{ path: 'question.measures', message: 'A question is asked of one to three measures.' }],
    });
    expect((await edit({ question, day: { channels: ['oil_c', 'manifold_kpa'] } })).status).toBe(204);
    const kept = (await read(id)).job;
    expect(kept.question.measures).toEqual(measures);
    expect(kept.day!.channels).toEqual(['oil_c', 'manifold_kpa']);
    expect(kept.day!.amendments!.at(-1)!.what).toContain('manifold pressure, mean over the window, 3000–5000 rpm');
  });

  test('an extension is declared before the first counted pull, not after', async () => {
    const { version, job } = await read(id);
    const { text, baselineSetup, candidateSetups, measures } = job.question;
    const question = {
      ...{ text, baselineSetup, candidateSetups, measures },
      ...{ partChangesIntakeTemperature: false, extension: 'declared' },
    };
    const answer = await ask('PATCH', `/api/jobs/${id}`, { version, question, amendment: 'it would help' });
    expect(answer.body).toMatchObject({
      status: 400,
      detail: expect.stringContaining('before the first counted pull') as unknown,
    });
  });
});

describe('photos of a fitting', () => {
  // One pixel as PNG.
  const pixel = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  );
  const sha256 = createHash('sha256').update(pixel).digest('hex');
  const startedAt = '2026-05-02T09:30:00.000Z';
  const fitting = {
    ...{ setup: 'B', who: 'Ines R.', startedAt, stoppedAt: null },
    ...{ changed: 'fan', disturbed: '', parts: '', cost: null, notes: '' },
  };
  let id = '';
  const add = (files: [string, Uint8Array | string][], at = startedAt) =>
    ask('POST', `/api/jobs/${id}/fittings/${at}/photos`, upload('photos', files));
  const photos = async () => (await read(id)).job.day!.fittings[0]!.photos ?? [];

  beforeAll(async () => {
    const made = ((await ask('POST', '/api/jobs', NEW_JOB)).body as { id: string }).id;
    const files = await unzip((await ask('GET', `/api/jobs/${made}/package`)).body as Buffer);
    const { job } = readPackage(files);
    const withFitting = await zip(writePackage({ ...job, day: { ...USUAL_DAY, fittings: [fitting] } }));
    id = ((await ask('POST', '/api/packages', upload('file', [['day.zip', withFitting]]))).body as { id: string }).id;
  });

  test('are shown, and travel with the package to the last byte', async () => {
    expect((await add([['pump in place.png', pixel]])).status).toBe(204);
    const [photo] = await photos();
    expect(photo).toMatchObject({ name: 'pump in place.png', sha256 });
    const shown = await ask('GET', `/api/jobs/${id}/${photo!.path}`);
    expect(shown.headers.get('content-type')).toBe('image/png');
    expect(shown.headers.get('x-content-type-options')).toBe('nosniff');
    expect(Buffer.compare(shown.body as Buffer, pixel)).toBe(0);
    const row = (await told(id)).at(-1)!;
    expect(row.what).toBe('Added photo pump in place.png to the fitting of B.');
    expect(JSON.parse(row.detail)).toMatchObject({ sha256 });
    const out = (await ask('GET', `/api/jobs/${id}/package`)).body as Buffer;
    expect(Buffer.from((await unzip(out)).get(photo!.path)!)).toEqual(pixel);
    const back = ((await ask('POST', '/api/packages', upload('file', [['day.zip', out]]))).body as { id: string }).id;
    expect((await read(back)).job.day!.fittings[0]!.photos).toEqual([photo]);
    expect(((await ask('GET', `/api/jobs/${back}/${photo!.path}`)).body as Buffer).equals(pixel)).toBe(true);
  });

  test('the same picture twice is kept once; a file that is no picture keeps the whole choice out', async () => {
    await add([['again.png', pixel]]);
    expect(await photos()).toHaveLength(1);
    const answer = await add([
      ['good.png', Buffer.concat([pixel, Buffer.from('x')])],
      ['notes.txt', 'not a picture'],
    ]);
    expect(answer.body).toMatchObject({
      status: 400,
      detail: 'notes.txt is no picture. Photos are kept as JPEG, PNG or WebP; none of this choice was stored.',
    });
    expect(await photos()).toHaveLength(1);
    expect((await add([['p.png', pixel]], '2026-05-02T00:00:00.000Z')).status).toBe(404);
    expect((await ask('GET', `/api/jobs/${id}/photos/nothing.png`)).status).toBe(404);
  });

  test('writing about a fitting at the desk leaves its photos where they are', async () => {
    const { version } = await read(id);
    const { startedAt: at, changed, parts, cost, notes } = fitting;
    const words = { startedAt: at, changed, parts, cost, notes, disturbed: 'coolant hose' };
    expect((await ask('PATCH', `/api/jobs/${id}`, { version, day: { fittings: [words] } })).status).toBe(204);
    expect((await read(id)).job.day!.fittings[0]).toMatchObject({ disturbed: 'coolant hose', photos: [{ sha256 }] });
  });
});

describe('two server processes on one database', () => {
  test('one leads a bay; the other hands its screens on to it, outlives its silence, and takes over when it is gone', async () => {
    const none = { rollers: null, weather: null, bus: null, aux: null };
    const body = { label: 'Bay 1', rollers: {}, instruments: none };
    const { id } = (await ask('POST', '/api/bays', body)).body as { id: string };
    const second = await createApp();
    try {
      await second.get(LiveBays).startAll();
      await second.listen(0, '127.0.0.1');
      const base = (await second.getUrl()).replace('[::1]', '127.0.0.1');
      const sheet = async () => {
        const headers = { cookie: shop.cookie, connection: 'close' };
        const answer = await fetch(`${base}/api/bays/${id}/sheet`, { headers });
        return { status: answer.status, body: (await answer.json()) as { detail?: string; state?: string } };
      };
      expect((await ask('GET', `/api/bays/${id}/sheet`)).body).toMatchObject({ state: 'no-job' });
      expect(await sheet()).toMatchObject({
        status: 409,
        body: { detail: expect.stringContaining('Bay 1 is led by another server process on this database') as unknown },
      });
      // Once the first says where it is reached, a screen on the second is served all the same, live channel and all.
      const { leads } = shop.app.get(Database);
      /** Who leads is asked once a second at most. */
      const announced = async (address: string) => {
        await leads.announce(address);
        await new Promise((later) => setTimeout(later, 1100));
      };
      await announced(shop.base);
      expect(await sheet()).toMatchObject({ status: 200, body: { state: 'no-job' } });
      const socket = new WebSocket(`${base.replace('http', 'ws')}/api/live?bay=${id}`, {
        headers: { cookie: shop.cookie, origin: base },
      });
      const [first] = (await once(socket, 'message')) as [Buffer];
      expect(JSON.parse(String(first))).toMatchObject({ v: 1, kind: 'sheet', sheet: { state: 'no-job' } });
      socket.terminate();
      expect((await fetch(`${base}/api/bays/${id}/sheet`, { headers: { connection: 'close' } })).status).toBe(401);
      // What was handed on once is not handed on again, and a leader that is not there ends nothing.
      const again = { cookie: shop.cookie, connection: 'close', 'x-prandel-relayed': '1' };
      expect((await fetch(`${base}/api/bays/${id}/sheet`, { headers: again })).status).toBe(409);
      for (const wrong of ['here', 'https://127.0.0.1:1', `http://${'a'.repeat(60)}:1`])
        await expect(leads.announce(wrong)).rejects.toThrow('PRANDEL_ADDRESS');
      await announced('http://127.0.0.1:1');
      expect((await sheet()).status).toBe(503);
      const dead = new WebSocket(`${base.replace('http', 'ws')}/api/live?bay=${id}`, {
        headers: { cookie: shop.cookie, origin: base },
      });
      dead.on('error', () => undefined);
      await new Promise((closed) => dead.on('close', closed));
      const listed = { headers: { cookie: shop.cookie, connection: 'close' } };
      const bays = (await (await fetch(`${base}/api/bays`, listed)).json()) as object[];
      expect(bays).toMatchObject([{ id, ledElsewhere: true }]);
      await announced(shop.base);
      expect((await sheet()).status).toBe(200);
      // A bay made on one is known to the other, and one deleted there is gone.
      const labels = async () => {
        const headers = { cookie: shop.cookie, connection: 'close' };
        const listed = (await (await fetch(`${base}/api/bays`, { headers })).json()) as { label: string }[];
        return listed.map((bay) => bay.label);
      };
      const seen = async (is: (now: string[]) => boolean) => {
        for (let k = 0; k < 30 && !is(await labels()); k += 1) await new Promise((again) => setTimeout(again, 200));
        return labels();
      };
      const made = (await ask('POST', '/api/bays', { ...body, label: 'Bay 2' })).body as { id: string };
      expect(await seen((now) => now.includes('Bay 2'))).toContain('Bay 2');
      expect((await ask('DELETE', `/api/bays/${made.id}`)).status).toBe(204);
      expect(await seen((now) => !now.includes('Bay 2'))).not.toContain('Bay 2');
      await shop.close();
      let now = await sheet();
      for (let k = 0; k < 50 && now.status !== 200; k += 1) {
        await new Promise((again) => setTimeout(again, 200));
        now = await sheet();
      }
      expect(now).toMatchObject({ status: 200, body: { state: 'no-job' } });
    } finally {
      await second.close();
    }
  }, 60_000);
});
