import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { UNKNOWN_BAY } from '@prandel/core';
import { TestShop } from '../test/shop.ts';

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
});
