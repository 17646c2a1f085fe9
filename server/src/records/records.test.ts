import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { NEW_JOB, TestShop, upload } from '../test/shop.ts';

let shop: TestShop;
const ask: TestShop['ask'] = (...asked) => shop.ask(...asked);
beforeAll(async () => {
  shop = await TestShop.open(process.env.RECORDS_DATABASE_URL);
});
afterAll(() => shop?.close());

describe('records', () => {
  test('records are reused, checked, and guarded against two people at once; an edit keeps what it does not name', async () => {
    const card = { kind: 'model-card', label: 'Tarn Vireo 1.8', fields: { gear: '4', notes: 'straps at the rear' } };
    const { id: own } = (await ask('POST', '/api/records', card)).body as { id: string };
    expect((await ask('POST', '/api/records', card)).body).toMatchObject({ status: 409 });
    const edit = { version: 1, fields: { gear: '5' } };
    expect((await ask('PATCH', `/api/records/model-card/${own}`, edit)).status).toBe(204);
    expect((await ask('PATCH', `/api/records/model-card/${own}`, edit)).status).toBe(409);
    expect((await ask('GET', '/api/records?kind=model-card')).body).toMatchObject({
      records: [{ label: 'Tarn Vireo 1.8', version: 2, fields: { gear: '5', notes: 'straps at the rear' } }],
      next: null,
    });
    expect((await ask('GET', '/api/records?kind=secrets')).status).toBe(400);
    const wrong = { version: 2, fields: { settlePulls: 'many' } };
    expect((await ask('PATCH', `/api/records/model-card/${own}`, wrong)).status).toBe(400);
    const method = { kind: 'method', label: 'Odd', fields: { gates: { intakeC: 99 } } };
    expect((await ask('POST', '/api/records', method)).body).toMatchObject({
      status: 400,
      detail: 'Intake air start, above the bay’s air: 99 is outside 0.5–10 °C.',
    });
  });

  test('two cars of one label stay two, each with its owner; records are found by a part of their name', async () => {
    const car = (owner: string) => ({
      kind: 'vehicle',
      label: 'Tarn Vireo 1.8 roadster',
      fields: { owner, massKg: 1060 },
    });
    const ids: string[] = [];
    for (const owner of ['Bram T.', 'Oda L.'])
      ids.push(((await ask('POST', '/api/records', car(owner))).body as { id: string }).id);
    const { records } = (await ask('GET', '/api/records?kind=vehicle&q=VIREO')).body as {
      records: { id: string; fields: { owner: string } }[];
    };
    const own = records.filter((r) => ids.includes(r.id));
    expect(own.map((r) => r.fields.owner).sort()).toEqual(['Bram T.', 'Oda L.']);
    const jobs: { links: { vehicleId: string; customerId: string } }[] = [];
    for (const vehicleId of ids) {
      const made = (await ask('POST', '/api/jobs', { ...NEW_JOB, vehicleId })).body as { id: string };
      jobs.push((await ask('GET', `/api/jobs/${made.id}`)).body);
    }
    expect(jobs.map((j) => j.links.vehicleId)).toEqual(ids);
    expect(
      (await ask('POST', '/api/jobs', { ...NEW_JOB, vehicleId: jobs[0]!.links.customerId ?? crypto.randomUUID() }))
        .status,
    ).toBe(404);
  });
});

test('a fitted part of the record is known by its id: its bench figures follow it when it is renamed', async () => {
  const bench = { benchFlowLS: 52, benchDropKpa: 2.5, benchAirC: 20, benchSource: 'own bench' };
  const untyped = { price: null, currency: null, hours: null };
  const part = { kind: 'part', label: 'Wide duct', fields: bench };
  const { id: own } = (await ask('POST', '/api/records', part)).body as { id: string };
  const change = (kind: string, name: string | null) => ({ kind, part: name, text: 'duct' });
  const setups = NEW_JOB.setups.map((s) =>
    s.id === 'B'
      ? {
          ...s,
          changes: [
            change('part-fitted', 'Wide duct'),
            change('part-fitted', 'Nobody keeps this one'),
            change('tune', null),
          ],
        }
      : s,
  );
  const made = (await ask('POST', '/api/jobs', { ...NEW_JOB, setups })).body as { id: string };
  const fitted = async () => (await ask('GET', `/api/jobs/${made.id}/parts`)).body;
  expect(await fitted()).toEqual([{ setupId: 'B', name: 'Wide duct', ...bench, ...untyped }]);
  expect((await ask('PATCH', `/api/records/part/${own}`, { version: 1, label: 'Wider duct', fields: {} })).status).toBe(
    204,
  );
  expect(await fitted()).toEqual([{ setupId: 'B', name: 'Wider duct', ...bench, ...untyped }]);
  expect((await ask('GET', `/api/jobs/${crypto.randomUUID()}/parts`)).status).toBe(404);
});

test('standards of the shop’s own are whole, have one name each, and go again', async () => {
  const reference = {
    kind: 'reference',
    referenceC: 20,
    referenceHpa: 1013.25,
    pressure: 'total',
    mechanicalEfficiency: 1,
  };
  const add = (name: string, body: object) => ask('POST', '/api/standards', { name, ...body });
  expect((await add('Neighbour', reference)).status).toBe(201);
  const { id: own } = (await add('Sheet of 12 May', { kind: 'factor', factor: 1.031 })).body as { id: string };
  expect((await add('Neighbour', reference)).body).toMatchObject({
    status: 409,
    detail: expect.stringMatching(/already/) as unknown,
  });
  expect((await add('Half', { ...reference, pressure: null })).status).toBe(400);
  expect((await add('None', { kind: 'factor' })).body).toMatchObject({
    detail: 'Say the factor that the sheet prints.',
  });
  expect((await add('Hot', { ...reference, referenceC: 200 })).status).toBe(400);
  const listed = async () =>
    ((await ask('GET', '/api/standards')).body as unknown as { name: string }[]).map((s) => s.name);
  expect(await listed()).toEqual(['Neighbour', 'Sheet of 12 May']);
  expect((await ask('DELETE', `/api/standards/${own}`)).status).toBe(204);
  expect((await ask('DELETE', `/api/standards/${own}`)).status).toBe(404);
  expect(await listed()).toEqual(['Neighbour']);
});

test('a method that corrects for compression ignition keeps the engine’s figures', async () => {
  const engine = { turbocharged: true, fuelMgPerLitreCycle: 52, boostPressureRatio: 1.9 };
  const { id: own } = (await ask('POST', '/api/jobs', NEW_JOB)).body as { id: string };
  const read = async () => (await ask('GET', `/api/jobs/${own}`)).body as { version: number; job: { method: object } };
  const change = async (compressionIgnition: object) =>
    ask('PATCH', `/api/jobs/${own}`, {
      version: (await read()).version,
      method: { correction: 'iso-1585-ci', averagingWidthRpm: 200, compressionIgnition },
    });
  expect((await change({ ...engine, boostPressureRatio: 40 })).status).toBe(400);
  expect((await change(engine)).status).toBeLessThan(300);
  expect((await read()).job.method).toMatchObject({ correction: 'iso-1585-ci', compressionIgnition: engine });
});

test('a curve file says its peak, its standard and its weather without becoming part of any job', async () => {
  const rows = Array.from({ length: 40 }, (_, i) => `${2000 + 100 * i};${(30 + i * 1.5).toFixed(1).replace('.', ',')}`);
  const text = [
    'Lufttemperatur: 24,5 °C',
    'Korrektur: DIN 70020',
    'Korrekturfaktor: 1,031',
    'Drehzahl;Leistung [kW]',
    ...rows,
  ];
  const answer = await ask('POST', '/api/standards/sheets', upload('file', [['sheet.csv', text.join('\r\n')]]));
  expect([answer.status, answer.body]).toEqual([
    201,
    [
      expect.objectContaining({
        peakPowerW: 88_500,
        standard: 'din-70020',
        factor: 1.031,
        airC: 24.5,
        pressureHpa: null,
      }),
    ],
  ]);
  const wrong = await ask(
    'POST',
    '/api/standards/sheets',
    upload('file', [['photo.jpg', new Uint8Array([255, 216, 0, 1])]]),
  );
  expect(wrong.status).toBe(422);
});
