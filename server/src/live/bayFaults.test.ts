import net from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { channelValues, newPull } from '@prandel/core';
import { USUAL_REGISTERS } from '@prandel/formats';
import { sampleCsvFiles } from '@prandel/simulator';
import { eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { recordingChunks, recordings } from '../database/schema.ts';
import { LiveShop, pause } from '../test/liveShop.ts';
import { onCluster, upload } from '../test/shop.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { hearingMs } from './hearingClock.ts';
import { LiveBays, MOST_BAYS } from './liveBays.ts';
import { PullSegmenter } from './pullSegmenter.ts';
import { Readings } from './readings.ts';
import { closeRecording, Recording } from './recorder.ts';
import { RollersClock } from './rollersClock.ts';
import { SampleWriter } from './sampleWriter.ts';

const live = new LiveShop();
const URL_OF_TEST = process.env.ROUGH_DATABASE_URL;
const sql = <T extends object>(text: string, values: unknown[] = []) =>
  onCluster(URL_OF_TEST!, async (client) => {
    await client.query(`SELECT set_config('prandel.shop', $1, false)`, [await live.shopId()]);
    return (await client.query<T>(text, values)).rows;
  });

interface Quarantined {
  id: string;
  reason: string;
  samples: number;
  jobTitle: string | null;
}
const quarantine = () => live.ask<Quarantined[]>('GET', `/bays/${live.bay}/quarantine`);
/** What the database refuses for good: every pull of this setup. */
const refusing = {
  begin: () =>
    sql(`CREATE FUNCTION refuse_pulls() RETURNS trigger LANGUAGE plpgsql AS $$
         BEGIN RAISE EXCEPTION 'no pull is taken' USING ERRCODE = '23514'; END $$;
         CREATE TRIGGER refuse_pulls BEFORE INSERT ON pulls FOR EACH ROW EXECUTE FUNCTION refuse_pulls()`),
  end: () => sql(`DROP TRIGGER refuse_pulls ON pulls; DROP FUNCTION refuse_pulls()`),
};

beforeAll(async () => {
  await live.open(URL_OF_TEST);
  await live.act('open-job', { job: live.job });
  await live.act('start-round', { setup: 'A' });
  await live.drive(0.5, 0);
  await live.until('ready', (s) => s.state === 'ready');
});
afterAll(() => live.close());

describe('keys and places of pulls', () => {
  test('an import into the setup whose pull is being recorded takes other keys, and both are stored', async () => {
    const [file] = sampleCsvFiles().filter(([name]) => name.startsWith('roller-A'));
    const [staged] = await live.ask<{ id: string; columns: { role: string; unit: string }[] }[]>(
      'POST',
      `/jobs/${live.job}/staged-files`,
      upload('files', [file!]),
    );
    await live.drive(2, 1);
    await live.until('pulling', (s) => s.recording !== null && s.recording.samples > 50);
    const request = {
      fileIds: [staged!.id],
      setupId: 'A',
      settle: 0,
      columns: staged!.columns.map(({ role, unit }) => ({ role, unit })),
      numberState: { kind: 'uncorrected' },
    };
    // Two clicks on "Import" at once, and one later: one import, three equal answers.
    const clicks = [1, 2].map(() => live.ask('POST', `/jobs/${live.job}/imports`, request));
    expect(await Promise.all(clicks)).toEqual([{ pulls: 1 }, { pulls: 1 }]);
    expect(await live.ask('POST', `/jobs/${live.job}/imports`, request)).toEqual({ pulls: 1 });
    await live.drive(1, 1);
    await live.drive(1.2, 0);
    await live.until('in review', (s) => s.state === 'review');
    const keys = (await live.stored()).job.pulls.map((p) => p.id);
    expect([...keys].sort()).toEqual(['A-1', 'A-2']);
    expect((await live.sheet()).waiting).toBe(0);
  });

  test('two pulls while PostgreSQL takes nothing get two keys and two places, and are stored in order', async () => {
    await live.ready();
    const before = (await live.stored()).job.pulls.length;
    await sql('ALTER TABLE recordings RENAME TO gone');
    const sent = await live.pull(3);
    live.clockMs += 150_000;
    await live.drive(0.3, 0);
    await live.pull(3);
    const stuck = await live.until('waiting', (s) => s.waiting > sent);
    expect(stuck.waiting).toBeGreaterThan(sent);
    await sql('ALTER TABLE gone RENAME TO recordings');
    for (let i = 0; i < 100 && (await live.stored()).job.pulls.length < before + 2; i += 1) await pause(100);
    const [first, second] = (await live.stored()).job.pulls.slice(before);
    expect(first!.id).not.toBe(second!.id);
    expect(second!.position).toBe(first!.position + 1);
    for (const pull of [first!, second!]) expect(channelValues(pull, 'time_s')!.length).toBeGreaterThan(280);
  });
});

describe('what the database refuses for good', () => {
  test('a recording that cannot become a pull is quarantined with its samples; the next pull is stored', async () => {
    await live.act('keep').catch(() => undefined);
    await live.ready();
    await refusing.begin();
    const sent = await live.pull(2.5);
    const held = await live.until('quarantined', (s) => s.quarantined === 1);
    expect(held.waiting).toBe(0);
    await refusing.end();
    const [row] = await quarantine();
    expect(row).toMatchObject({ reason: 'no pull is taken', jobTitle: 'Does it help?' });
    expect(row!.samples).toBeGreaterThanOrEqual(sent);
    const before = (await live.stored()).job.pulls.length;
    live.clockMs += 150_000;
    await live.drive(0.5, 0);
    await live.pull(2.5);
    await live.until('in review', (s) => s.state === 'review');
    expect((await live.stored()).job.pulls).toHaveLength(before + 1);
    // A person takes it back: it becomes a pull, set aside, with every sample.
    const { pull } = await live.ask<{ pull: string }>('POST', `/bays/${live.bay}/quarantine/${row!.id}/retry`);
    const kept = (await live.stored()).job.pulls.find((p) => p.id === pull)!;
    expect(kept.status).toBe('set-aside');
    expect(channelValues(kept, 'time_s')!.length).toBe(row!.samples);
    expect(await quarantine()).toEqual([]);
    expect((await live.sheet()).quarantined).toBe(0);
    await live.act('keep').catch(() => undefined);
  });

  test('a failed restore of one bay stops neither the start nor the other bays; the recording waits on the bay page', async () => {
    const other = await live.ask<{ id: string }>('POST', '/bays', live.baySettings('Bay 2'));
    await live.ready();
    await live.drive(2, 1);
    await live.until('pulling', (s) => (s.recording?.samples ?? 0) > 100);
    await live.app.close();
    await onCluster(URL_OF_TEST!, async (client) => {
      await client.query(`CREATE FUNCTION refuse_pulls() RETURNS trigger LANGUAGE plpgsql AS $$
         BEGIN RAISE EXCEPTION 'no pull is taken' USING ERRCODE = '23514'; END $$;
         CREATE TRIGGER refuse_pulls BEFORE INSERT ON pulls FOR EACH ROW EXECUTE FUNCTION refuse_pulls()`);
    });
    await live.start();
    const [row] = await quarantine();
    expect(row!.samples).toBeGreaterThan(100);
    expect((await live.sheet()).job).not.toBeNull();
    const csv = await fetch(`${live.base}/api/bays/${live.bay}/quarantine/${row!.id}/samples.csv`, {
      headers: { cookie: live.cookie },
    });
    expect((await csv.text()).split('\r\n').length).toBe(row!.samples + 2);
    await refusing.end();
    await live.ask('DELETE', `/bays/${live.bay}/quarantine/${row!.id}`);
    expect(await quarantine()).toEqual([]);
    await live.ask('DELETE', `/bays/${other.id}`);
  });
});

describe('settings and numbers of bays', () => {
  test('a register map without channels is refused with the path; one that stands in the database leaves the bay "not configured"', async () => {
    const settings = {
      ...live.baySettings('Bay 3'),
      instruments: { aux: { host: '127.0.0.1', port: 1 }, registers: {} },
    };
    await expect(live.ask('POST', '/bays', settings)).rejects.toThrow(/^400: .*channels/);
    const added = await live.ask<{ id: string }>('POST', '/bays', {
      ...settings,
      instruments: { ...settings.instruments, registers: USUAL_REGISTERS },
    });
    await live.app.close();
    await onCluster(URL_OF_TEST!, async (client) => {
      await client.query(`SELECT set_config('prandel.shop', (SELECT shop_id::text FROM shops), false)`);
      await client.query(`UPDATE bays SET registers = '{}' WHERE id = $1`, [added.id]);
    });
    await live.start();
    await pause(600);
    const bays = await live.ask<{ id: string; fault: string | null }[]>('GET', '/bays');
    expect(bays.find((b) => b.id === added.id)!.fault).toContain('register map');
    expect(bays.find((b) => b.id === live.bay)!.fault).toBeNull();
    await live.ask('DELETE', `/bays/${added.id}`);
  });

  test('bays are limited, cost one connection for all leads, and can be deleted and brought back', async () => {
    const none = { rollers: null, weather: null, bus: null, aux: null };
    const ids: string[] = [];
    for (let k = 0; k < MOST_BAYS - 1; k += 1)
      ids.push(
        (
          await live.ask<{ id: string }>('POST', '/bays', {
            label: `Row ${k}`,
            rollers: {},
            instruments: none,
          })
        ).id,
      );
    await expect(live.ask('POST', '/bays', { label: 'One too many', rollers: {}, instruments: none })).rejects.toThrow(
      `409: A shop has at most ${MOST_BAYS} bays`,
    );
    const [{ n }] = (await sql<{ n: number }>(
      `SELECT count(*)::int AS n FROM pg_stat_activity WHERE datname = current_database() AND application_name = 'prandel leads'`,
    )) as [{ n: number }];
    expect(n).toBe(1);
    for (const id of ids) await live.ask('DELETE', `/bays/${id}`);
    await expect(live.ask('DELETE', `/bays/${live.bay}`)).rejects.toThrow('409: A job is in this bay');
    const deleted = await live.ask<{ id: string }[]>('GET', '/bays/deleted');
    expect(deleted.map((b) => b.id)).toEqual(expect.arrayContaining(ids));
    await live.ask('POST', `/bays/${ids[0]}/restore`);
    expect((await live.ask<{ id: string }[]>('GET', '/bays')).map((b) => b.id)).toContain(ids[0]);
    await live.ask('DELETE', `/bays/${ids[0]}`);
  });

  test('two bays of one name are told so, without an error of the server', async () => {
    await expect(live.ask('POST', '/bays', live.baySettings('Bay 1'))).rejects.toThrow(
      '409: There is a bay Bay 1 already',
    );
  });
});

describe('the live channel under attack', () => {
  test('upgrades that are reset, of other paths, or without a session end at once and end nothing else', async () => {
    const { port } = new URL(live.base);
    const upgrade = (path: string) =>
      `GET ${path} HTTP/1.1\r\nHost: x\r\nUpgrade: websocket\r\nConnection: Upgrade\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\nSec-WebSocket-Version: 13\r\n\r\n`;
    for (let k = 0; k < 20; k += 1) {
      const socket = net.connect(Number(port), '127.0.0.1');
      socket.on('error', () => undefined);
      await new Promise((done) => socket.once('connect', done));
      socket.write(upgrade(`/api/live?bay=${live.bay}`));
      if (k % 2) await pause(2);
      socket.resetAndDestroy();
    }
    const answer = (path: string) =>
      new Promise<string>((done) => {
        const socket = net.connect(Number(port), '127.0.0.1', () => socket.write(upgrade(path)));
        let text = '';
        socket.on('data', (d) => (text += d.toString())).on('close', () => done(text.split('\r\n')[0]!));
      });
    expect(await answer('/somewhere')).toBe('HTTP/1.1 404 Not Found');
    expect(await answer('/api/live?bay=%')).toBe('HTTP/1.1 401 Unauthorized');
    expect((await live.sheet()).job!.id).toBe(live.job);
  });
});

describe('clocks', () => {
  test('a stall of the event loop is no silence', () => {
    const before = hearingMs();
    const until = performance.now() + 1500;
    while (performance.now() < until);
    expect(hearingMs() - before).toBeLessThan(300);
  });

  test('a rollers’ clock that is set back or forward moves no pull: time goes on, and the jump is told', () => {
    const clock = new RollersClock();
    const seen = [0, 10, 20, -3_600_000, -3_599_990].map((raw, i) => clock.take(1e12 + raw, i * 10, true, null));
    expect(seen.map((s) => s.atMs - 1e12)).toEqual([0, 10, 20, 30, 40]);
    expect(seen.map((s) => s.jumpMs)).toEqual([0, 0, 0, -3_600_030, 0]);
    // Forward in a pull is a jump, between pulls it is time that passed.
    expect(clock.take(1e12 + 86_400_000, 50, true, null).atMs).toBe(1e12 + 50);
    expect(clock.take(1e12 + 86_400_010, 60, false, null).jumpMs).toBe(0);
    // A bay's time that was reached before a restart is never gone back behind.
    expect(new RollersClock().take(5000, 0, false, 9000)).toEqual({ atMs: 9000, jumpMs: -4000 });
  });

  test('after a clock was set back the next pull holds its own samples only, and bears the mark', async () => {
    await live.act('resume-round').catch(() => undefined);
    await live.drive(0.5, 0);
    const before = (await live.stored()).job.pulls.length;
    live.clockMs -= 3_600_000;
    await live.drive(3, 0);
    const sent = await live.pull(2.5);
    for (let i = 0; i < 100 && (await live.stored()).job.pulls.length === before; i += 1) await pause(100);
    const pull = (await live.stored()).job.pulls.at(-1)!;
    expect(pull.marks!.join()).toMatch(/clock was set back by 3600\.\d s/);
    const time = channelValues(pull, 'time_s')!;
    expect(time.length).toBeLessThan(sent + 130);
    for (let i = 1; i < time.length; i += 1) expect(time[i]!).toBeGreaterThanOrEqual(time[i - 1]!);
  });

  test('however a device times its samples, only so many are kept from before a pull', () => {
    const rows: number[][] = [];
    const wholes: boolean[] = [];
    const segmenter = new PullSegmenter(new Readings(), {
      begin: (_, whole) => wholes.push(whole),
      row: (row) => rows.push(row),
      end: () => undefined,
    });
    const sample = (throttle: number) => ({
      atMs: null,
      channels: { engine_rpm: 2500, roller_rad_s: 50, throttle_fraction: throttle },
    });
    for (let i = 0; i < 50_000; i += 1) segmenter.push(sample(0), 1e12);
    for (let i = 0; i < 40; i += 1) segmenter.push(sample(1), 1e12 + 10 * i);
    expect(wholes).toEqual([true]);
    expect(rows.length).toBeGreaterThan(0);
    expect(rows.length).toBeLessThan(2100);
    // A line that comes up in the middle of a pull hears a part of it, and knows that.
    segmenter.lost();
    for (let i = 0; i < 40; i += 1) segmenter.push(sample(1), 2e12 + 10 * i);
    expect(wholes).toEqual([true, false]);
  });
});

test('a commit whose answer was lost is tried again and stores nothing twice', async () => {
  const [database, store, shopId] = [live.app.get(Database), live.app.get(JobStore), await live.shopId()];
  const { channels: _, ...draft } = { ...newPull('', 'B', 9), startedAt: '2026-11-23T15:00:00.000Z' };
  const recording = new Recording({ channels: ['time_s', 'engine_rpm'], startMs: 0 }, () => draft);
  for (let k = 0; k < 2; k += 1) await recording.begin(database, shopId, live.bay, live.job);
  const { id, draft: recorded } = recording;
  await recording.write(new SampleWriter(database), shopId, [
    [0, 2000],
    [0.01, 2010],
  ]);
  const before = (await live.log()).length;
  for (let k = 0; k < 2; k += 1)
    await database.inShop(shopId, (tx) =>
      closeRecording(tx, store, shopId, live.job, { id, draft: recorded, cut: 'Tried twice.' }),
    );
  const kept = (await live.stored()).job.pulls.filter((p) => p.id === recording.pull!.id);
  expect(kept).toMatchObject([{ status: 'set-aside', reason: 'Tried twice.' }]);
  expect([...channelValues(kept[0]!, 'engine_rpm')!]).toEqual([2000, 2010]);
  expect((await live.log()).length).toBe(before + 1);
});

test('of chunks that are written together, one that cannot be stored keeps no other from it', async () => {
  const [database, shopId] = [live.app.get(Database), await live.shopId()];
  const writer = new SampleWriter(database);
  const recording = new Recording({ channels: ['time_s'], startMs: 0 }, () => newPull('', 'B', 9));
  await recording.begin(database, shopId, live.bay, null);
  const chunk = (recordingId: string, n: number) =>
    writer.write(shopId, { recordingId, n, samples: Buffer.from(Float64Array.of(n).buffer) });
  // The first one is under way alone; the others wait for it and go together.
  const ends = await Promise.allSettled([
    ...[chunk(recording.id, 0), chunk(recording.id, 1)],
    ...[chunk('77777777-7777-4777-8777-777777777777', 0), chunk(recording.id, 2)],
  ]);
  expect(ends.map(({ status }) => status)).toEqual(['fulfilled', 'fulfilled', 'rejected', 'fulfilled']);
  const own = { where: eq(recordingChunks.recordingId, recording.id), orderBy: recordingChunks.n };
  const rows = await database.inShop(shopId, (tx) => tx.query.recordingChunks.findMany(own));
  expect(rows.map(({ n, samples }) => [n, samples.readDoubleLE(0)])).toEqual([0, 1, 2].map((n) => [n, n]));
  await database.inShop(shopId, (tx) => tx.delete(recordings).where(eq(recordings.id, recording.id)));
});

test('every sample is in the database under row-level security of its own shop', async () => {
  const seen = await live.app
    .get(Database)
    .inShop('33333333-3333-4333-8333-333333333333', (tx) => tx.query.recordings.findMany());
  expect(seen).toEqual([]);
  expect(live.app.get(LiveBays).all(await live.shopId()).length).toBeGreaterThan(0);
});
