import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { isBayPrior, UNKNOWN_BAY, type BayLearned, type BayPrior, type Job } from '@prandel/core';
import { readPackage, unzip, writePackage, zip } from '@prandel/formats';
import { DEMO_DAYS, ROLLERS, simulateDay } from '@prandel/simulator';
import { pause } from '../test/liveShop.ts';
import { TestShop, upload } from '../test/shop.ts';

let shop: TestShop;
const ask: TestShop['ask'] = (...asked) => shop.ask(...asked);
beforeAll(async () => {
  shop = await TestShop.open(process.env.BAYS_DATABASE_URL);
});
afterAll(() => shop?.close());

describe('bays', () => {
  test('a bay without instruments is kept, edited field by field, asked what it learned, and refuses what makes no sense', async () => {
    const none = { rollers: null, weather: null, bus: null, aux: null };
    const rollers = { kind: 'inertia', rollerInertiaKgM2: 26.4, lossTorqueNm: [2.1, 0.04, 0.0003], readoutScale: 1.08 };
    const registers = {
      unit: 3,
      base: 10,
      wordOrder: 'big',
      channels: [{ name: 'charge_c', register: 0, kind: 'int16', scale: 0.1 }],
    };
    const body = { label: 'Bay 9', rollers, instruments: { ...none, registers } };
    const { id: own } = (await ask('POST', '/api/bays', body)).body as { id: string };
    const listed = async () =>
      (
        (await ask('GET', '/api/bays')).body as {
          id: string;
          version: number;
          rollers: object;
          status: object[];
          job: string | null;
        }[]
      ).find((b) => b.id === own)!;
    // What nobody told is unknown, never missing: the same rollers as of a package without a bay.
    expect(await listed()).toMatchObject({
      rollers: { ...UNKNOWN_BAY, ...rollers, label: 'Bay 9' },
      instruments: { registers },
      status: [],
      job: null,
    });
    expect((await ask('GET', `/api/bays/${own}/history`)).body).toEqual({
      prior: { jobs: 0, returnChecks: 0, learned: {} },
      minutesPerPull: null,
    });
    expect((await ask('GET', `/api/bays/${own}/sheet`)).body).toMatchObject({ state: 'no-job', job: null, rows: [] });
    const { version } = await listed();
    const edit = { version, label: 'Bay 10', rollers: { elevationM: 650, calibrationEpoch: '2026-10-01' } };
    expect((await ask('PATCH', `/api/bays/${own}`, edit)).status).toBe(204);
    expect((await ask('PATCH', `/api/bays/${own}`, edit)).status).toBe(409);
    // The coast-down, the read-out scale and the register map that no field named are all still there.
    expect(await listed()).toMatchObject({
      rollers: { ...rollers, label: 'Bay 10', elevationM: 650, calibrationEpoch: '2026-10-01' },
      instruments: { registers },
    });
    const wrong = { ...body, label: '', instruments: { ...none, rollers: { host: 'x', port: 70_000 } } };
    expect((await ask('POST', '/api/bays', wrong)).body).toMatchObject({
      status: 400,
      errors: expect.arrayContaining([
        expect.objectContaining({ path: 'label', message: 'Name the bay.' }),
        expect.objectContaining({ path: 'instruments.rollers.port' }),
      ]) as unknown,
    });
    expect((await ask('POST', `/api/bays/${own}/actions`, { action: 'keep' })).body).toMatchObject({
      status: 409,
      detail: 'No job is in this bay.',
    });
    expect((await ask('POST', `/api/bays/${own}/actions`, { action: 'explode' })).status).toBe(400);
    expect((await ask('GET', `/api/bays/${crypto.randomUUID()}/sheet`)).status).toBe(404);
    // Outside the demo there is no bench to play with.
    expect((await ask('GET', '/api/bench')).status).toBe(404);
  });

  test('a bay remembers its finished jobs; a job keeps what was known when it came, and its package carries it', async () => {
    const none = { rollers: null, weather: null, bus: null, aux: null };
    const { kind, rollerInertiaKgM2, calibrationEpoch, elevationM, lossTorqueNm } = ROLLERS;
    const rollers = { kind, rollerInertiaKgM2, calibrationEpoch, elevationM, lossTorqueNm };
    const made = await ask('POST', '/api/bays', { label: 'Remembering bay', rollers, instruments: none });
    const bay = (made.body as { id: string }).id;
    const day = (seed: number, prior: BayPrior | null = null): Job => {
      const job = simulateDay({ ...DEMO_DAYS[1]!, id: `R-${seed}`, seed, mishaps: [], sampleHz: 20 });
      return { ...job, bay: { ...job.bay, label: 'Remembering bay', prior } };
    };
    const take = async (job: Job) =>
      (
        (await ask('POST', '/api/packages', upload('file', [['day.zip', await zip(writePackage(job))]]))).body as {
          id: string;
        }
      ).id;
    const learned = async (more = '') =>
      (await ask('GET', `/api/bays/${bay}/history${more}`)).body as unknown as BayLearned;
    const priorOf = async (id: string) =>
      ((await ask('GET', `/api/jobs/${id}`)).body as unknown as { job: Job }).job.bay.prior;
    const ids: string[] = [];
    for (let seed = 1; seed <= 5; seed += 1) {
      ids.push(await take(day(seed)));
      for (const started = Date.now(); (await learned()).prior.jobs < seed; await pause(200))
        if (Date.now() - started > 30_000) throw new Error(`job ${seed} never taught its bay`);
    }
    const known = await learned();
    expect(known.prior.returnChecks).toBeGreaterThanOrEqual(5);
    expect(Object.keys(known.prior.learned)).toEqual(['power', 'bands']);
    expect(isBayPrior(known.prior)).toBe(true);
    // Each came with what was known by then, and stays with it.
    expect((await priorOf(ids[0]!))!.jobs).toBe(0);
    expect((await priorOf(ids[4]!))!.jobs).toBe(4);
    expect((await learned(`?exceptJob=${ids[0]}`)).prior.jobs).toBe(4);
    // The sixth is judged with five, and so is its package, anywhere.
    const sixth = await take(day(6));
    expect(await priorOf(sixth)).toEqual(known.prior);
    const file = (await ask('GET', `/api/jobs/${sixth}/package`)).body as unknown as Buffer;
    const { job } = readPackage(await unzip(file));
    expect(job.bay.prior).toEqual(known.prior);
    // A package that bears a prior keeps it, whatever this bay knows.
    const own = { jobs: 3, returnChecks: 1, learned: {} };
    expect(await priorOf(await take(day(7, own)))).toEqual(own);
    expect((await ask('GET', `/api/bays/${bay}/history?exceptJob=nothing`)).status).toBe(400);
  });
});
