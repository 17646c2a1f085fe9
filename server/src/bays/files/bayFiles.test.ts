import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Job, LiveSheet } from '@prandel/core';
import { DEMO_DAYS, foreignFile, foreignPull, PLAIN_SHAPE, simulateDay, type Shape } from '@prandel/simulator';
import { NEW_JOB, TestShop, upload } from '../../test/shop.ts';

// A bay without instruments: its pulls come as files of a watched folder, brought by a program with a token for that bay.
const day = simulateDay({ ...DEMO_DAYS.find((d) => d.id === 'QG-0910-2')!, seed: 5, effects: { B: () => 2 } });
const shape: Shape = { ...PLAIN_SHAPE, language: 'de', clock: 'elapsed' };
const file = (k: number, of: Shape = shape) => foreignFile([foreignPull(day, day.pulls[k]!, 60)], of);

let shop: TestShop;
let bay = '';
let job = '';
beforeAll(async () => {
  shop = await TestShop.open(process.env.WATCHED_DATABASE_URL);
  bay = ((await shop.ask('POST', '/api/bays', { label: 'Bay 7', rollers: {}, instruments: {} })).body as { id: string })
    .id;
  const body = { ...NEW_JOB, bay: { label: 'Bay 7' }, timeZone: 'Europe/Lisbon' };
  job = ((await shop.ask('POST', '/api/jobs', body)).body as { id: string }).id;
}, 60_000);
afterAll(() => shop.close());

const act = (body: object) => shop.ask('POST', `/api/bays/${bay}/actions`, body);
const bring = async (name: string, bytes: Uint8Array) =>
  (await shop.ask('POST', `/api/bays/${bay}/files`, upload('file', [[name, bytes]]))).body as unknown as {
    outcome: string;
    code: string | null;
    pulls: string[];
    message: string | null;
  };
const listed = async () =>
  (await shop.ask('GET', `/api/bays/${bay}/files`)).body as unknown as {
    folder: string | null;
    last: { name: string } | null;
    tray: { id: string; name: string; code: string; message: string }[];
  };
const pulls = async () => ((await shop.ask('GET', `/api/jobs/${job}`)).body as { job: Job }).job.pulls;

describe('files of a watched folder', () => {
  test('wait in the tray until a job, a round and a shape are there; nothing is lost and nothing comes twice', async () => {
    expect(await bring('1.csv', file(0))).toMatchObject({ outcome: 'tray', code: 'shape-unknown' });
    expect(await bring('1 again.csv', file(0))).toMatchObject({ outcome: 'tray', code: 'shape-unknown' });
    expect(await bring('photo.csv', new Uint8Array([0xff, 0xd8, 0, 1, 2, 3]))).toMatchObject({
      outcome: 'tray',
      code: 'unreadable',
    });
    const { tray, last } = await listed();
    expect([tray.map((f) => [f.name, f.code]), last?.name]).toEqual([
      [
        ['1.csv', 'shape-unknown'],
        ['photo.csv', 'unreadable'],
      ],
      'photo.csv',
    ]);
    const bytes = await shop.ask('GET', `/api/bays/${bay}/tray/${tray[0]!.id}`);
    expect(bytes.status).toBe(200);
  });

  test('a shape that was looked at once and is trusted comes in by itself, as the next pull of the round that is open', async () => {
    expect((await act({ action: 'open-job', job })).status).toBeLessThan(300);
    // Looked at: the file is staged into the job of the bay, mapped, and imported as a day of one pull that is then set aside.
    const staged = (await shop.ask('POST', `/api/jobs/${job}/staged-files`, upload('files', [['look.csv', file(9)]])))
      .body as unknown as { id: string; columns: { role: string; unit: string | null }[] }[];
    const shapes = [
      {
        columns: staged[0]!.columns.map(({ role, unit }) => ({ role, unit })),
        answers: { state: 'as-stated', standard: null, factor: null, averagingRpm: null, rpmPerKmH: null },
        byItself: true,
      },
    ];
    const files = [{ id: staged[0]!.id, shape: 0 }];
    const none = {
      airC: null,
      pressureHpa: null,
      relativeHumidity: null,
      intakeStartC: null,
      coolantStartC: null,
      oilStartC: null,
    };
    const asked = {
      ...{ fileId: staged[0]!.id, index: 0, round: 1, setupId: 'B', status: 'set-aside', reason: 'only looked at' },
      ...{
        startedAt: null,
        timeFrom: null,
        conditions: none,
        numberState: { kind: 'uncorrected' },
        gear: null,
        averagingRpm: null,
      },
    };
    expect((await shop.ask('POST', `/api/jobs/${job}/day-imports`, { files, shapes, pulls: [asked] })).status).toBe(
      201,
    );
    const waiting = (await listed()).tray.find((f) => f.code === 'shape-unknown')!;
    const retry = () => shop.ask('POST', `/api/bays/${bay}/tray/${waiting.id}/retry`);
    expect((await retry()).body).toMatchObject({ outcome: 'tray', code: 'no-round' });
    expect((await act({ action: 'start-round', setup: 'A' })).status).toBeLessThan(300);
    expect((await retry()).body).toMatchObject({ outcome: 'pull', pulls: ['A-1'] });
    expect((await listed()).tray.map((f) => f.name)).toEqual(['photo.csv']);
    const [first] = (await pulls()).filter((p) => p.setupId === 'A');
    expect(first).toMatchObject({ status: 'settle', round: 1, numberState: { kind: 'uncorrected' } });
    expect(first!.airC).toBeCloseTo(day.pulls[0]!.airC!, 1);
    expect(Math.abs(Date.parse(first!.startedAt!) - Date.parse(day.pulls[0]!.startedAt!))).toBeLessThan(1500);
  });

  test('the next ones follow within the round, are looked at, and are known when they come again', async () => {
    expect(await bring('2.csv', file(1))).toMatchObject({ outcome: 'pull', pulls: ['A-2'] });
    const sheet = (await shop.ask('GET', `/api/bays/${bay}/sheet`)).body as unknown as LiveSheet;
    expect(sheet.state).toBe('review');
    expect(sheet.review?.pullId).toBe('A-2');
    expect(await bring('2.csv', file(1))).toMatchObject({ outcome: 'known' });
    expect(await bring('2 under another name.csv', Buffer.concat([file(1), Buffer.from('\n')]))).toMatchObject({
      outcome: 'known',
      pulls: ['A-2'],
    });
    expect((await pulls()).filter((p) => p.setupId === 'A')).toHaveLength(2);
  });

  test('a token brings files to its own bay and to no other', async () => {
    const made = (await shop.ask('POST', '/api/access-tokens', { name: 'rollers', scope: 'upload-to-bay', bayId: bay }))
      .body as { token: string };
    const other = (
      (await shop.ask('POST', '/api/bays', { label: 'Bay 8', rollers: {}, instruments: {} })).body as { id: string }
    ).id;
    const as = (path: string) =>
      fetch(`${shop.base}${path}`, {
        method: 'POST',
        headers: { authorization: `Bearer ${made.token}` },
        body: upload('file', [['3.csv', file(2)]]),
      });
    expect((await as(`/api/bays/${other}/files`)).status).toBe(403);
    // What one bay has read is known in every bay of the shop, with no pull of this one to show for it.
    const again = await shop.ask('POST', `/api/bays/${other}/files`, upload('file', [['2 again.csv', file(1)]]));
    expect(again.body).toMatchObject({ outcome: 'known', pulls: [] });
    const own = await as(`/api/bays/${bay}/files`);
    expect([own.status, await own.json()]).toEqual([201, expect.objectContaining({ outcome: 'pull', pulls: ['A-3'] })]);
  });
});
