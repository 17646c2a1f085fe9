import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { writePackage, zip } from '@prandel/formats';
import { REFERENCE_CAR, twoYears, yearJob, type YearDay } from '@prandel/simulator';
import type { TrendsAnswer } from '../http/coreAnswers.ts';
import { NEW_JOB, TestShop, upload } from '../test/shop.ts';

// What jobs leave behind: shelves of their parts, and charts of their bay.
let shop: TestShop;
const days = twoYears();
const SILENCER = 'silencer, straight-through';
const jobs = new Map<string, string>();

const ask = (method: string, path: string, body?: unknown) => shop.ask(method, path, body);
const get = async <T>(path: string) => (await ask('GET', path)).body as unknown as T;
const detail = ({ body }: { body: unknown }) => (body as { detail: string }).detail;
const part = async (label: string, fields: object = {}) =>
  ((await ask('POST', '/api/records', { kind: 'part', label, fields })).body as { id: string }).id;

async function bring(list: readonly YearDay[]): Promise<void> {
  for (const day of list) {
    const form = upload('file', [['day.zip', await zip(writePackage(yearJob(day)))]]);
    jobs.set(day.spec.id, ((await ask('POST', '/api/packages', form)).body as { id: string }).id);
  }
  // Lists never judge: what they show is worked out when it is asked for.
  for (let waited = 0; ; waited += 1) {
    const { jobs: rows } = await get<{ jobs: { state: string }[] }>('/api/jobs');
    if (rows.every((row) => row.state !== 'pending')) return;
    if (waited > 300) throw new Error('the jobs were not worked out');
    await new Promise((done) => setTimeout(done, 100));
  }
}

interface Listed {
  id: string;
  name: string;
  cars: number;
  jobs: number;
  estimate: number | null;
  nextLow: number | null;
  nextHigh: number | null;
}
const shelf = async (name: string) =>
  (await get<{ parts: Listed[] }>('/api/shelf')).parts.find((p) => p.name === name)!;
interface One {
  part: { mergedNames: string[]; mergedInto: string | null };
  measures: {
    answer: { all: { cars: number } | null; models: { model: string; cars: number }[] };
    rows: { number: string; weight: number; model: string | null }[];
  }[];
  apart: unknown[];
}

const silencers = days.filter((d) => d.part?.name === SILENCER);
const references = days.filter((d) => d.spec.vehicle.label === REFERENCE_CAR);

beforeAll(async () => {
  shop = await TestShop.open(process.env.MEMORY_DATABASE_URL);
  const registers = {
    unit: 1,
    base: 0,
    wordOrder: 'big',
    channels: [{ name: 'charge_c', register: 0, kind: 'int16', scale: 0.1 }],
  };
  const bay = await ask('POST', '/api/bays', {
    ...{ label: 'Bay 1', rollers: { kind: 'inertia', rollerInertiaKgM2: 26.4, calibrationEpoch: '2026-03-01' } },
    instruments: { rollers: null, weather: null, bus: null, aux: null, registers },
  });
  expect(bay.status).toBe(201);
  await bring([...silencers.slice(0, 6), ...references.slice(0, 11)]);
}, 120_000);
afterAll(() => shop?.close());

describe('a part on the shelf', () => {
  test('jobs that named it before the record knew it count from the day it is on record', async () => {
    expect((await get<{ parts: Listed[] }>('/api/shelf')).parts).toEqual([]);
    await part(SILENCER.toUpperCase(), { promisedPercent: 5 });
    const own = await shelf(SILENCER.toUpperCase());
    const alone = silencers.slice(0, 6).filter((d) => !d.bundled);
    expect([own.cars, own.jobs]).toEqual([alone.length, alone.length]);
    expect(own.nextLow!).toBeLessThan(own.estimate!);
    const expected = await get<object>(`/api/shelf/expected?name=${encodeURIComponent(SILENCER)}`);
    expect(expected).toMatchObject({ part: own.id, cars: own.cars, low: own.nextLow, promisedPercent: 5 });
  });

  test('a deleted job leaves it and comes back; an edited setup leaves it too', async () => {
    const { cars } = await shelf(SILENCER.toUpperCase());
    const job = jobs.get(silencers[0]!.spec.id)!;
    await ask('DELETE', `/api/jobs/${job}`);
    expect((await shelf(SILENCER.toUpperCase())).cars).toBe(cars - 1);
    await ask('POST', `/api/jobs/${job}/restore`);
    expect((await shelf(SILENCER.toUpperCase())).cars).toBe(cars);
  });

  test('two names of one part become one: its jobs count there, it leaves lists, and it merges once', async () => {
    const from = (await shelf(SILENCER.toUpperCase())).id;
    const { cars } = await shelf(SILENCER.toUpperCase());
    const into = await part('straight silencer', {});
    expect((await ask('POST', `/api/shelf/${from}/merge`, { into: from })).status).toBe(400);
    expect((await ask('POST', `/api/shelf/${from}/merge`, { into })).status).toBe(204);
    expect((await shelf('straight silencer')).cars).toBe(cars);
    expect(await shelf(SILENCER.toUpperCase())).toBeUndefined();
    const one = await get<One>(`/api/shelf/${into}`);
    expect(one.part.mergedNames).toEqual([SILENCER.toUpperCase()]);
    expect((await get<One>(`/api/shelf/${from}`)).part.mergedInto).toBe(into);
    expect((await ask('POST', `/api/shelf/${from}/merge`, { into })).status).toBe(409);
    expect((await ask('POST', `/api/shelf/${into}/merge`, { into: from })).status).toBe(409);
    // A new job that names the old one counts for the new one.
    await bring(silencers.slice(6, 8));
    expect((await shelf('straight silencer')).jobs).toBe(silencers.slice(0, 8).filter((d) => !d.bundled).length);
  });

  test('a model that is renamed takes its jobs along', async () => {
    const label = silencers[0]!.model.label;
    const card = { kind: 'model-card', label, fields: { gear: '4' } };
    const { id } = (await ask('POST', '/api/records', card)).body as { id: string };
    const car = (
      await get<{ records: { id: string; label: string; version: number }[] }>('/api/records?kind=vehicle')
    ).records.find((r) => r.label === silencers[0]!.spec.vehicle.label)!;
    const edit = { version: car.version, fields: { modelCard: label } };
    expect((await ask('PATCH', `/api/records/vehicle/${car.id}`, edit)).status).toBe(204);
    expect((await ask('PATCH', `/api/records/model-card/${id}`, { version: 1, label: 'Renamed 9' })).status).toBe(204);
    const { id: own } = await shelf('straight silencer');
    const { rows } = (await get<One>(`/api/shelf/${own}`)).measures[0]!;
    expect(rows.find((r) => r.number === silencers[0]!.spec.id)!.model).toBe('Renamed 9');
  });
});

describe('what searches teach', () => {
  test('a model keeps what it learned when it is renamed; another one that takes its old name begins anew', async () => {
    const card = async (label: string) =>
      ((await ask('POST', '/api/records', { kind: 'model-card', label, fields: { gear: '4' } })).body as { id: string })
        .id;
    const search = { complaint: 'smoke', words: '', budgetMinutes: 60 };
    const open = async (cardId: string) => {
      const { id } = (await ask('POST', '/api/jobs', { ...NEW_JOB, day: { cardId } })).body as { id: string };
      expect((await ask('POST', `/api/jobs/${id}/searches`, search)).status).toBe(204);
      return id;
    };
    const seen = async (job: string) =>
      (
        await get<{ seen: { suspect: string; own: object; others: object }[] }[]>(`/api/jobs/${job}/searches`)
      )[0]!.seen.find((s) => s.suspect === 'breather');
    const first = await card('Hollin 1.4');
    const look = { suspect: 'breather', result: 'cured', minutes: 12, pull: null };
    expect((await ask('POST', `/api/jobs/${await open(first)}/searches/looks`, look)).status).toBe(204);
    expect(
      (await ask('PATCH', `/api/records/model-card/${first}`, { version: 1, label: 'Hollin 1.4 mk2' })).status,
    ).toBe(204);
    const [once, none] = [
      { looks: 1, cures: 1 },
      { looks: 0, cures: 0 },
    ];
    expect(await seen(await open(first))).toMatchObject({ own: once, others: none });
    expect(await seen(await open(await card('Hollin 1.4')))).toMatchObject({ own: none, others: once });
    const models = await get<{ label: string; jobs: number }[]>('/api/models');
    expect(models.filter((m) => m.label.startsWith('Hollin')).map((m) => [m.label, m.jobs])).toEqual([
      ['Hollin 1.4', 1],
      ['Hollin 1.4 mk2', 2],
    ]);
  });
});

describe('a bay against itself', () => {
  interface Charts {
    repeatability: { sd: number };
    returns: { points: unknown[] };
    references: { car: string; stretches: { points: unknown[]; open: { code: string }[] }[] }[];
    answers: { answer: string; words: string }[];
  }
  let bay = '';
  const charts = () => get<Charts>(`/api/bays/${bay}/charts`);
  const open = () => get<{ chart: string; code: string }[]>('/api/bay-signals');

  test('without a reference car there is no chart of one; three rounds give no limits and no signal', async () => {
    bay = (await get<{ id: string }[]>('/api/bays'))[0]!.id;
    const before = await charts();
    expect(before.references).toEqual([]);
    expect(before.repeatability.sd).toBeGreaterThan(0.1);
    expect(await open()).toEqual([]);
  });

  test('a drift shows itself, is told until somebody answers, and is then on record', async () => {
    const { records } = await get<{ records: { id: string; label: string; version: number }[] }>(
      '/api/records?kind=vehicle',
    );
    const car = records.find((r) => r.label === REFERENCE_CAR)!;
    await ask('PATCH', `/api/records/vehicle/${car.id}`, { version: car.version, fields: { reference: true } });
    expect((await charts()).references[0]!.stretches[0]!.points).toHaveLength(11);
    expect(await open()).toEqual([]);
    const answer = { chart: 'reference', answer: 'tyre', words: 'The left rear was at 1.6 bar.' };
    expect(detail(await ask('POST', `/api/bays/${bay}/charts/answers`, answer))).toMatch(/waits for an answer/);
    await bring(references.slice(11, 14));
    expect((await open()).map((s) => s.code)).toContain('outside');
    expect((await ask('POST', `/api/bays/${bay}/charts/answers`, answer)).status).toBe(204);
    expect(await open()).toEqual([]);
    expect((await charts()).answers).toMatchObject([{ answer: 'tyre', words: 'The left rear was at 1.6 bar.' }]);
    await bring(references.slice(14, 17));
    // What came before is never compared with what came after.
    const { stretches } = (await charts()).references[0]!;
    expect(stretches.length).toBeGreaterThan(1);
    expect(stretches.at(-1)!.open).toEqual([]);
  });

  test('a second instrument is held against the station; a pressure of the sea is refused', async () => {
    const second = (body: object) => ask('POST', `/api/bays/${bay}/charts/second`, body);
    expect((await second({ source: 'instrument', ownHpa: 1003, otherHpa: 1003.4 })).status).toBe(204);
    expect(detail(await second({ source: 'airport', ownHpa: 1003, otherHpa: 1013 }))).toMatch(/elevation/);
    expect((await second({ source: 'instrument', ownHpa: 10, otherHpa: 1003 })).status).toBe(400);
  });

  test('one round without anything to compare can be opened: the monthly reference round', async () => {
    const { setups, question } = NEW_JOB;
    const body = {
      ...NEW_JOB,
      setups: setups.slice(0, 1),
      question: { ...question, candidateSetups: [], plan: [{ setup: 'A', settle: 1, counted: 3 }] },
    };
    const made = await ask('POST', '/api/jobs', body);
    expect([made.status, detail(made)]).toEqual([201, undefined]);
    expect((await ask('POST', '/api/jobs', { ...body, question: { ...body.question, plan: [] } })).status).toBe(400);
  });
});

describe('trends', () => {
  const trends = () => get<TrendsAnswer>('/api/trends');
  const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);

  test('add up what every job says of itself, and follow each change at once', async () => {
    const before = await trends();
    const brought = days.filter((d) => jobs.has(d.spec.id)).map(yearJob);
    expect(sum(before.months.map((m) => m.jobs))).toBe(brought.length);
    const held = brought.flatMap((job) => job.pulls.flatMap((p) => p.heldS?.interval ?? []));
    expect(held.length).toBeGreaterThan(100);
    expect(before.holds.find((h) => h.gate === 'interval')).toMatchObject({ seconds: sum(held), pulls: held.length });
    expect(before.setAside.find((m) => m.aside > 0)).toBeUndefined();
    // Asked again it is the same; a pull that is set aside, and a job that is taken away, are seen at once.
    expect(await trends()).toEqual(before);
    const [{ spec }] = silencers as [YearDay];
    const id = jobs.get(spec.id)!;
    const { version } = await get<{ version: number }>(`/api/jobs/${id}`);
    const aside = { version, status: 'set-aside', reason: 'tyre slip' };
    expect((await ask('PATCH', `/api/jobs/${id}/pulls/A-3`, aside)).status).toBeLessThan(300);
    expect((await trends()).reasons).toMatchObject([
      { reason: 'tyre slip', pulls: 1, behind: [{ job: id, pull: 'A-3' }] },
    ]);
    expect((await ask('DELETE', `/api/jobs/${id}`)).status).toBeLessThan(300);
    const after = await trends();
    expect(after.reasons).toEqual([]);
    expect(sum(after.months.map((m) => m.jobs))).toBe(brought.length - 1);
  });
});
