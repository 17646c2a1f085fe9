import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { pullsInOrder, type Job } from '@prandel/core';
import { NEW_JOB, TestShop, upload } from '../test/shop.ts';

// Times that files say of themselves: taken together and in their order, or not at all.
let shop: TestShop;
let job = '';
beforeAll(async () => {
  shop = await TestShop.open(process.env.TIMES_DATABASE_URL);
  const body = { ...NEW_JOB, timeZone: 'Europe/Lisbon' };
  job = ((await shop.ask('POST', '/api/jobs', body)).body as { id: string }).id;
}, 60_000);
afterAll(() => shop.close());

let made = 0;
const csv = (above: string, blocks = 1) => {
  made += 1;
  const rows = Array.from({ length: 60 }, (_, i) => `${2500 + 50 * i},${60 + i + made / 100}`).join('\r\n');
  const block = `RPM,Power (kW)\r\n${rows}`;
  return [above, ...Array.from({ length: blocks }, (_, i) => block.replaceAll(',6', `,6${i}`))].join('\r\n\r\n');
};
interface Staged {
  readonly id: string;
  readonly recorded: { local: string; offset: string | null; source: string } | null;
  readonly columns: { role: string; unit: string | null }[];
}
const stage = async (files: [string, string][]) =>
  (await shop.ask('POST', `/api/jobs/${job}/staged-files`, upload('files', files))).body as unknown as Staged[];
const bring = async (setupId: string, files: readonly Staged[], clock?: object) =>
  shop.ask('POST', `/api/jobs/${job}/imports`, {
    ...{ fileIds: files.map((f) => f.id), setupId, settle: 0, numberState: { kind: 'uncorrected' } },
    columns: files[0]!.columns.map(({ role, unit }) => ({ role, unit })),
    ...(clock ? { clock } : {}),
  });
const pulls = async () => {
  const { job: now } = (await shop.ask('GET', `/api/jobs/${job}`)).body as { job: Job };
  return pullsInOrder(now.pulls).map((p) => `${p.setupId} ${p.position} ${p.startedAt}`);
};
const LISBON = { timeZone: 'Europe/Lisbon' };

describe('files that say when they were recorded', () => {
  test('come in in the order of their times, by the clock of the shop in summer and in winter', async () => {
    const files = await stage([
      ['late.csv', csv('Run: 2026-07-26 14:40:00')],
      ['early.csv', csv('Run: 2026-07-26 14:35:00')],
      ['20261126_091500.csv', csv('no time here')],
      ['utc.csv', csv('Run: 2026-11-26T09:20:00Z')],
    ]);
    expect(files.map((f) => f.recorded?.source)).toEqual(['header', 'header', 'file-name', 'header']);
    expect((await bring('A', files, LISBON)).status).toBe(201);
    expect(await pulls()).toEqual([
      'A 1 2026-07-26T13:35:00.000Z',
      'A 2 2026-07-26T13:40:00.000Z',
      'A 3 2026-11-26T09:15:00.000Z',
      'A 4 2026-11-26T09:20:00.000Z',
    ]);
  });

  test('without that word they have no time', async () => {
    expect((await bring('B', await stage([['b.csv', csv('Run: 2026-11-26 10:00:00')]]))).status).toBe(201);
    expect((await pulls()).at(-1)).toBe('B 1 null');
  });

  test.each<[string, [string, string][], string]>([
    [
      'a silent one',
      [
        ['x.csv', csv('Run: 2026-11-26 11:00')],
        ['y.csv', csv('nothing')],
      ],
      '"y.csv" does not say when',
    ],
    [
      'twins',
      [
        ['x.csv', csv('Run: 2026-11-26 11:00')],
        ['y.csv', csv('Run: 2026-11-26 11:00')],
      ],
      'say the same time',
    ],
    ['several pulls', [['x.csv', csv('Run: 2026-11-26 11:00', 2)]], 'holds 2 pulls'],
  ])('%s: nothing is taken, and it says which', async (_, files, words) => {
    const before = await pulls();
    const answer = await bring('B', await stage(files), LISBON);
    expect([answer.status, (answer.body as { detail: string }).detail]).toEqual([
      400,
      expect.stringContaining(words) as unknown,
    ]);
    expect(await pulls()).toEqual(before);
  });

  test('a zone that is none is refused', async () => {
    const files = await stage([['z.csv', csv('Run: 2026-11-26 12:00')]]);
    expect((await bring('B', files, { timeZone: 'Mars/Olympus' })).status).toBe(400);
  });
});
