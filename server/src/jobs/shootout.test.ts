import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { newJob, newPull, USE_PRESETS, type Job } from '@prandel/core';
import { readPackage, unzip, writePackage, zip } from '@prandel/formats';
import { DEMO_DAYS, demoJobs } from '@prandel/simulator';
import { NEW_JOB, TestShop } from '../test/shop.ts';

// Several setups of a job: added, priced, with gears and use; kept, given out and refused.
let shop: TestShop;
let job = '';
beforeAll(async () => {
  shop = await TestShop.open(process.env.PARTS_DATABASE_URL);
  job = ((await shop.ask('POST', '/api/jobs', NEW_JOB)).body as { id: string }).id;
}, 60_000);
afterAll(() => shop.close());

const read = async (id = job) =>
  (await shop.ask('GET', `/api/jobs/${id}`)).body as unknown as { version: number; job: Job; rowId: string };
const add = (body: object, id = job) => shop.ask('POST', `/api/jobs/${id}/setups`, body);
const edit = async (body: object) =>
  shop.ask('PATCH', `/api/jobs/${job}`, { version: (await read()).version, ...body });
const detail = ({ body }: { body: unknown }) => (body as { detail: string }).detail;
const GEARING = { ratios: [3.2, 2.1, 1.5], finalDrive: 3.9, circumferenceM: 1.94, limiterRpm: 6500, shiftSeconds: 0.4 };

describe('setups of a shootout', () => {
  test('are added with the next letter, as candidates, planned ahead of the last return check', async () => {
    const plan = ['A', 'B', 'A2'].map((setup) => ({ setup, settle: 2, counted: 3 }));
    const a2 = { id: 'A2', label: 'check', parentId: 'A', returnsTo: 'A', changes: [], state: {} };
    expect((await edit({ setups: [a2], question: { plan } })).status).toBe(204);
    const change = { kind: 'fluid', part: null, text: 'fluid: thin axle oil' };
    const made = await add({
      parentId: 'B',
      label: 'thin oil',
      changes: [change],
      partCost: 44,
      labourHours: 0.5,
      currency: 'EUR',
    });
    expect([made.status, made.body]).toEqual([201, { id: 'C' }]);
    const { job: now } = await read();
    expect(now.question.candidateSetups).toEqual(['B', 'C']);
    expect(now.question.plan.map((s) => s.setup)).toEqual(['A', 'B', 'C', 'A2']);
    expect(now.setups.find((s) => s.id === 'C')).toMatchObject({ parentId: 'B', partCost: 44, changes: [change] });
    expect(now.setups.find((s) => s.id === 'C')!.addedAt).toBeUndefined();
  });

  test.each([
    [{ parentId: 'X' }, 'There is no setup X to make it from'],
    [{ parentId: 'A', id: 'B' }, 'Setup B is there already'],
  ])('%j is refused in words, and nothing is stored', async (body, words) => {
    const before = await read();
    const answer = await add(body);
    expect([answer.status, detail(answer)]).toEqual([400, expect.stringContaining(words)]);
    expect(await read()).toEqual(before);
  });

  test('a circle of parents, and more than twelve setups', async () => {
    const circle = await edit({ setups: [{ id: 'B', parentId: 'C' }] });
    expect([circle.status, detail(circle)]).toEqual([400, expect.stringContaining('B from C from B')]);
    const many = ((await shop.ask('POST', '/api/jobs', { ...NEW_JOB, title: 'many' })).body as { id: string }).id;
    for (let k = 0; k < 10; k += 1) expect((await add({ parentId: 'A' }, many)).status).toBe(201);
    expect((await read(many)).job.setups.map((s) => s.id).join('')).toBe('ABCDEFGHIJKL');
    const answer = await add({ parentId: 'A' }, many);
    expect([answer.status, detail(answer)]).toEqual([400, expect.stringContaining('at most 12 setups')]);
  });

  test('costs, outcomes, minutes between setups and values to print stay as typed; what is not named is not touched', async () => {
    const costs = { adapters: 18, consumables: null, tune: 150 };
    expect(
      (
        await edit({
          setups: [{ id: 'C', costs, outcomes: { noise: 'louder', difficulty: '2' }, cure: true, permanent: true }],
        })
      ).status,
    ).toBe(204);
    expect((await edit({ setups: [{ id: 'C', outcomes: { difficulty: '' }, labourHours: 0.75 }] })).status).toBe(204);
    expect((await read()).job.setups.find((s) => s.id === 'C')).toMatchObject({
      ...{ costs, cure: true, permanent: true, outcomes: { noise: 'louder' }, labourHours: 0.75, partCost: 44 },
    });
    const plan = {
      ...{ shape: 'own', startAt: null, minutesPerPull: 5, fittingMinutes: 40, openFromMin: 480, openUntilMin: 1080 },
      ...{ forecastC: null, order: 'fixed', times: [{ from: 'B', to: 'C', minutes: 15 }] },
    };
    expect((await edit({ day: { plan, readAtRpm: [3000, 4500] } })).status).toBe(204);
    const { day } = (await read()).job;
    expect([day!.plan.shape, day!.plan.times, day!.readAtRpm]).toEqual(['own', plan.times, [3000, 4500]]);
  });

  test('gears go with the car to its next job; gears that no car has, and a use that does not add up, are refused', async () => {
    const wrong = await edit({ gearing: { ...GEARING, ratios: [3, 4] } });
    expect([wrong.status, detail(wrong)]).toEqual([
      400,
      expect.stringContaining('gear 2 (4) is shorter than gear 1 (3)'),
    ]);
    const use = await edit({ use: { name: 'mine', shares: [{ fromRpm: 3000, share: 0.5 }] } });
    expect([use.status, detail(use)]).toEqual([400, expect.stringContaining('add up to 50 %')]);
    expect((await edit({ gearing: GEARING, use: USE_PRESETS.tow })).status).toBe(204);
    const own = await read();
    expect([own.job.gearing, own.job.use]).toEqual([GEARING, USE_PRESETS.tow]);
    const { links } = own as unknown as { links: { vehicleId: string } };
    const next = await shop.ask('POST', '/api/jobs', { ...NEW_JOB, title: 'next', vehicleId: links.vehicleId });
    expect((await read((next.body as { id: string }).id)).job).toMatchObject({ gearing: GEARING });
  });

  test('a curve of another job lies beneath and comes back as it was', async () => {
    const references = [
      {
        name: 'Another car',
        at: '2026-05-02T15:10:00Z',
        bay: 'Bay 1',
        correction: 'sae-j1349',
        first: 100,
        values: [50e3, 51e3],
      },
    ];
    expect((await edit({ references })).status).toBe(204);
    expect((await read()).job.references).toEqual(references);
    expect((await edit({ references: [] })).status).toBe(204);
    expect((await read()).job.references).toBeUndefined();
  });
});

describe('what costs are reckoned with', () => {
  test('the shop’s currency and rate are in every job that says nothing of its own; a package keeps its own', async () => {
    expect((await shop.ask('PUT', '/api/money', { currency: 'EUR', hourlyRate: 78 })).status).toBe(204);
    expect((await shop.ask('GET', '/api/money')).body).toEqual({ currency: 'EUR', hourlyRate: 78 });
    expect((await read()).job.money).toEqual({ currency: 'EUR', hourlyRate: 78 });
    expect((await shop.ask('PUT', '/api/money', { currency: 'EUR', hourlyRate: -1 })).status).toBe(400);
    const packed = (await shop.ask('GET', `/api/jobs/${job}/package`)).body as unknown as Uint8Array;
    expect(readPackage(await unzip(packed)).job).toMatchObject({ money: { hourlyRate: 78 }, gearing: GEARING });
    const foreign = {
      ...newJob('F-1', 'Elsewhere'),
      money: { currency: 'CHF', hourlyRate: 120 },
      pulls: [newPull('A-1', 'A', 1)],
    };
    const form = new FormData();
    form.append('file', new Blob([new Uint8Array(await zip(writePackage(foreign)))]), 'f.zip');
    const stored = (await shop.ask('POST', '/api/packages', form)).body as { id: string };
    expect((await read(stored.id)).job.money).toEqual({ currency: 'CHF', hourlyRate: 120 });
  });

  test('the demo’s shootouts go through the database and come out as they were', async () => {
    for (const made of demoJobs().slice(-3)) {
      expect(DEMO_DAYS.some((d) => d.id === made.id)).toBe(true);
      const form = new FormData();
      form.append('file', new Blob([new Uint8Array(await zip(writePackage(made)))]), 'd.zip');
      const { id } = (await shop.ask('POST', '/api/packages', form)).body as { id: string };
      const { job: kept } = await read(id);
      expect(kept.setups).toEqual(made.setups);
      expect([kept.gearing, kept.day?.readAtRpm]).toEqual([made.gearing, made.day?.readAtRpm]);
      const added = await add({ parentId: 'B' }, id);
      const setup = (await read(id)).job.setups.find((s) => s.id === (added.body as { id: string }).id)!;
      expect(Date.parse(setup.addedAt!)).toBeGreaterThan(Date.now() - 60_000);
      const log = (await shop.ask('GET', `/api/jobs/${id}/log`)).body as unknown as { rows: { what: string }[] };
      expect(log.rows.at(-1)!.what).toContain('its pulls had begun');
      const report = (await shop.ask('GET', `/api/jobs/${id}/report.html`)).body as unknown as Buffer;
      expect(report.toString()).toContain('Conditions of every setup');
    }
  }, 60_000);
});
