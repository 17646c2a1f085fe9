import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { nmeaSentence, readPackage, unzip, writePackage, zip } from '@prandel/formats';
import {
  DEMO_DAYS,
  driveRoadDay,
  DUCT_ON_THE_ROAD,
  loggerCsv,
  loggerRecord,
  rmcBodies,
  simulateDay,
  speedCsv,
  withoutLogger,
} from '@prandel/simulator';
import { TestShop, upload } from '../test/shop.ts';
import type { LoggerAnswer } from './loggers.dto.ts';

// What is laid beside the pulls of a day, asked of the server: it stays whole, or nothing of it is stored.
const day = withoutLogger(
  simulateDay({
    ...DEMO_DAYS.find((d) => d.id === 'QG-0919-1')!,
    rounds: ['A', 'B'].map((setup, i) => ({ setup, settle: 0, counted: 2, startMinute: 70 * i, minutesPerPull: 4 })),
  }),
);
const record = loggerRecord(day, { seed: 5, offsetS: 4211.6, ppm: 300, hz: 10, around: 10 });
const road = driveRoadDay(DUCT_ON_THE_ROAD);

interface Refusal {
  readonly status: number;
  readonly detail: string;
}

let shop: TestShop;
let job = '';
let other = '';
const ask = (method: string, path: string, body?: unknown) => shop.ask(method, `/api/jobs/${job}${path}`, body);
/** The job as its package tells it, with every sample. */
const read = async () => readPackage(await unzip((await ask('GET', '/package')).body as Buffer)).job;
/** The job and its version as they are stored, without samples. */
const stored = async () => JSON.stringify((await ask('GET', '')).body);
const log = async () =>
  ((await ask('GET', '/log')).body as { rows: { what: string }[] }).rows.map(({ what }) => what).join('\n');

interface Staged {
  readonly id: string;
  readonly columns: readonly { role: string; unit: string | null }[];
}
/** Stages a file of this job. @returns the body that names it, with its columns as they were guessed */
async function staged(name: string, text: string) {
  const answer = await ask('POST', '/staged-files', upload('files', [[name, text]]));
  const [file] = answer.body as unknown as Staged[];
  return { fileId: file!.id, columns: file!.columns.map(({ role, unit }) => ({ role, unit })) };
}
const channelNames = async () => {
  const { pulls } = await read();
  return pulls.map((p) => p.channels.map((c) => c.name));
};
/** What a refusal says; the job must be as it was before. */
async function refused(request: () => ReturnType<typeof ask>, status: number): Promise<string> {
  const before = await stored();
  const answer = await request();
  expect(answer.status).toBe(status);
  expect(await stored()).toBe(before);
  return (answer.body as unknown as Refusal).detail;
}

beforeAll(async () => {
  shop = await TestShop.open(process.env.LOGS_DATABASE_URL);
  const bring = async () => {
    const form = upload('file', [['day.zip', await zip(writePackage(day))]]);
    return ((await shop.ask('POST', '/api/packages', form)).body as { id: string }).id;
  };
  job = await bring();
  other = await bring();
}, 60_000);
afterAll(() => shop.close());

describe('a record of another logger', () => {
  test('is looked at without being stored, then added, told in the log, and refused a second time', async () => {
    const file = await staged('afternoon.csv', loggerCsv(record));
    const before = await channelNames();
    const look = (await ask('POST', '/loggers/preview', file)).body as LoggerAnswer;
    expect(look.why).toBeNull();
    expect(look.laid!.pulls.map((p) => p.id)).toEqual(['A-1', 'A-2', 'B-1', 'B-2']);
    expect(look.laid!.ratePpm).toBeCloseTo(300, -2);
    expect(await channelNames()).toEqual(before);

    const added = await ask('POST', '/loggers', file);
    expect([added.status, added.body]).toEqual([
      201,
      expect.objectContaining({
        channels: ['exhaust_c', 'gearbox_c'],
        pulls: ['A-1', 'A-2', 'B-1', 'B-2'],
      }),
    ]);
    expect(await channelNames()).toEqual(before.map((own) => [...own, 'exhaust_c', 'gearbox_c']));
    expect(await log()).toContain('Added exhaust_c, gearbox_c of the logger afternoon.csv to A-1, A-2, B-1, B-2');

    expect(await refused(() => ask('POST', '/loggers', file), 409)).toContain('already taken in');
    const twin = await staged('copy.csv', loggerCsv(record));
    expect(await refused(() => ask('POST', '/loggers', twin), 409)).toContain('already added as "afternoon.csv"');
  });

  test('a second logger of the same pulls keeps what the first one said: its channels bear other names', async () => {
    const seed = loggerRecord(day, { seed: 6, offsetS: 12, ppm: -50, hz: 10, around: 10 });
    const second = await staged('second.csv', loggerCsv(seed));
    const added = await ask('POST', '/loggers', second);
    expect(added.status).toBe(201);
    const { channels, id } = added.body as { channels: string[]; id: string };
    expect(channels).toHaveLength(2);
    for (const own of await channelNames()) expect(new Set(own).size).toBe(own.length);

    expect((await ask('DELETE', `/loggers/${id}`)).status).toBe(204);
    for (const own of await channelNames()) {
      expect(own).toEqual(expect.arrayContaining(['exhaust_c', 'gearbox_c']));
      for (const name of channels) expect(own).not.toContain(name);
    }
    expect(await refused(() => ask('DELETE', `/loggers/${id}`), 404)).toContain('no such logger');
  });

  test('of another day, or placed by a pull that is not there, it is refused; a person may place it', async () => {
    const away = { ...record, rpm: record.rpm.map((_, i) => 1500 + 600 * Math.sin(i / 7)) };
    const file = await staged('other-day.csv', loggerCsv(away));
    const look = (await ask('POST', '/loggers/preview', file)).body as LoggerAnswer;
    expect([look.laid, look.why!.code]).toEqual([null, expect.stringMatching(/no-match|ambiguous|residual/)]);
    expect(await refused(() => ask('POST', '/loggers', file), 400)).toBe(look.why!.text);
    const placed = (pull: string, atS: number) => ({ ...file, byHand: { pull, atS } });
    expect(await refused(() => ask('POST', '/loggers', placed('Z-9', 0)), 400)).toContain('no pull Z-9');
    // A second far from every pull: nothing of the record falls into one.
    expect(await refused(() => ask('POST', '/loggers', placed('A-1', 900_000)), 400)).toContain('falls into a pull');
    expect((await ask('POST', '/loggers', placed('A-1', 4211.6))).status).toBe(201);
  });

  test('a clock in another unit, and one that runs backwards, are told before anything is worked out of them', async () => {
    const table = (of: (i: number) => number) =>
      `Time (s);Engine speed (rpm);Exhaust gas temp (°C)\r\n${Array.from({ length: 400 }, (_, i) => `${of(i)};${900 + (i % 97) * 40};${300 + i / 9}`).join('\r\n')}`;
    const long = await staged(
      'milliseconds.csv',
      table((i) => i * 2.5e6),
    );
    const look = (await ask('POST', '/loggers/preview', long)).body as LoggerAnswer;
    expect(look.why).toMatchObject({ code: 'too-long', text: expect.stringContaining('another unit') as unknown });
    const back = await staged(
      'backwards.csv',
      table((i) => (i < 300 ? i / 10 : i / 10 - 20)),
    );
    expect(await refused(() => ask('POST', '/loggers/preview', back), 422)).toContain('runs backwards');
  });

  test('a file of another job and columns that are nothing are refused', async () => {
    const file = await staged('third.csv', loggerCsv({ ...record, rpm: record.rpm.map((v) => v + 1) }));
    const elsewhere = await shop.ask('POST', `/api/jobs/${other}/loggers`, file);
    expect(elsewhere.status).toBe(404);
    const odd = { ...file, columns: [{ role: 'altitude', unit: null }, ...file.columns.slice(1)] };
    expect(await refused(() => ask('POST', '/loggers', odd), 400)).toContain('"altitude"');
  });
});

describe('gauges that somebody read', () => {
  const oil = (pullId: string, value: number | null, moment = 'peak') => ({ pullId, channel: 'oil_c', moment, value });
  const gauges = (...readings: object[]) => ask('POST', '/gauges', { readings });

  test('are kept beside those that were there, taken away without a value, and written to the log', async () => {
    expect((await gauges(oil('A-1', 104), oil('A-2', 106))).status).toBe(204);
    expect((await gauges(oil('B-1', 108), oil('A-2', null))).status).toBe(204);
    expect((await read()).readings).toEqual([oil('A-1', 104), oil('B-1', 108)]);
    expect(await log()).toContain('Read by hand: oil_c of B-1, A-2.');
  });

  test('what no gauge shows and a pull that is not there are refused, and nothing of the sheet is stored', async () => {
    const beyond = await refused(() => gauges(oil('A-2', 106), oil('B-2', 3000)), 400);
    expect(beyond).toMatch(/^Pull B-2: .*3000/);
    expect(await refused(() => gauges(oil('A-2', 106), oil('C-1', 100)), 400)).toBe('This job has no pull C-1.');
    await refused(() => gauges(oil('A-2', 106, 'sometimes')), 400);
  });
});

describe('passes on the road', () => {
  const speeds = (fromKmH: number, toKmH: number) => `?fromKmH=${fromKmH}&toKmH=${toKmH}`;
  const asked = (name: string, text: string, query = speeds(80, 120)) =>
    ask('POST', `/road/speed-log${query}`, upload('file', [[name, text]]));

  test('are found in the log of a receiver as in a CSV of the same drive; nothing is stored', async () => {
    const before = await stored();
    const sentences = rmcBodies(road.log, DUCT_ON_THE_ROAD.startAt).map(nmeaSentence).join('\r\n');
    interface Found {
      kind: string;
      passes: { seconds: number; direction: string; broken: boolean }[];
    }
    const [nmea, csv] = [await asked('road.nmea', sentences), await asked('road.csv', speedCsv(road.log))].map(
      (a) => a.body as unknown as Found,
    ) as [Found, Found];
    expect([nmea.kind, csv.kind]).toEqual(['nmea', 'csv']);
    expect(nmea.passes.length).toBeGreaterThanOrEqual(road.passes.length);
    expect(nmea.passes).toHaveLength(csv.passes.length);
    nmea.passes.forEach((pass, i) => expect(pass.seconds).toBeCloseTo(csv.passes[i]!.seconds, 1));
    expect(await stored()).toBe(before);
  });

  test('speeds the wrong way round, a log without speed and no file say what to do', async () => {
    expect(await refused(() => asked('road.csv', speedCsv(road.log), speeds(120, 80)), 400)).toMatch(/120|higher/i);
    const jump = `time (s),speed (km/h)\n${Array.from({ length: 60 }, (_, i) => `${i < 40 ? i : i - 30},${70 + i}`).join('\n')}`;
    expect(await refused(() => asked('jump.csv', jump), 422)).toContain('runs backwards');
    expect(await refused(() => asked('x.csv', 'time (s),rpm\n0,1\n1,2\n2,3\n3,4\n'), 422)).toContain('road speed');
    expect(await refused(() => ask('POST', `/road/speed-log${speeds(80, 120)}`, new FormData()), 400)).toContain(
      'Choose the log',
    );
  });

  test('are taken one and all, or not at all, with the pass that cannot be named', async () => {
    const pass = { setupId: 'A', at: null, direction: 'out', fromKmH: 80, toKmH: 120, seconds: 6.4 };
    const { version } = (await ask('GET', '')).body as { version: number };
    const edit = (...roadPasses: object[]) => ask('PATCH', '', { version, roadPasses });
    expect(await refused(() => edit(pass, { ...pass, setupId: 'Q' }), 400)).toContain('Pass 2 names setup Q');
    expect(await refused(() => edit(pass, { ...pass, fromKmH: 120, toKmH: 80 }), 400)).toMatch(/^Pass 2: /);
    expect((await edit(pass, { ...pass, direction: 'back', seconds: 6.7 })).status).toBe(204);
    expect((await read()).roadPasses).toHaveLength(2);
    expect(await log()).toContain('Added to the passes on the road: A out 80–120 km/h 6.4 s; A back');
  });
});
