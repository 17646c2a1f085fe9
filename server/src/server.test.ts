import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { brokenRow, evidenceCsv, readEvents, readPackage, unzip, writePackage, zip } from '@prandel/formats';
import { framesIn, judgeJob, judgePrepared, PreparedPulls, type Job } from '@prandel/core';
import { DEMO_DAYS, sampleCsvFiles, simulateDay } from '@prandel/simulator';
import { inEveryShop, NEW_JOB, onCluster, TestShop, upload } from './test/shop.ts';

const mother = process.env.DATABASE_URL;
let shop: TestShop;

const ask: TestShop['ask'] = (...asked) => shop.ask(...asked);

interface Log {
  rows: { n: number; what: string; hash: string }[];
  broken: { n: number; why: string } | null;
}

beforeAll(async () => {
  shop = await TestShop.open(mother);
});
afterAll(() => shop?.close());

describe('jobs', () => {
  let id = '';
  const log = async (of = id) => (await ask('GET', `/api/jobs/${of}/log`)).body as unknown as Log;
  const read = async () =>
    (await ask('GET', `/api/jobs/${id}`)).body as unknown as {
      version: number;
      job: { pulls: { id: string; status: string; reason: string | null }[]; question: object };
    };

  test('a job is opened, files are staged and imported whole, and the original bytes come back', async () => {
    id = ((await ask('POST', '/api/jobs', NEW_JOB)).body as { id: string }).id;
    const files = sampleCsvFiles().filter(([name]) => name.startsWith('roller-A'));
    const staged = (await ask('POST', `/api/jobs/${id}/staged-files`, upload('files', files))).body as unknown as {
      id: string;
      columns: { role: string; unit: string }[];
      problems: unknown[];
    }[];
    expect(staged).toHaveLength(files.length);
    const columns = staged[0]!.columns.map(({ role, unit }) => ({ role, unit }));
    const request = {
      fileIds: staged.map((f) => f.id),
      setupId: 'A',
      settle: 2,
      columns,
      numberState: { kind: 'uncorrected' },
      conditions: { gear: '4', pressureHpa: 1003 },
    };
    const wrong = await ask('POST', `/api/jobs/${id}/imports`, {
      ...request,
      columns: columns.map((c) => ({ role: 'other', unit: c.unit })),
    });
    expect(wrong.body).toMatchObject({
      status: 422,
      problems: expect.arrayContaining([
        expect.objectContaining({ message: expect.stringContaining('No column is engine speed') as unknown }),
      ]) as unknown,
    });
    expect((await read()).job.pulls).toHaveLength(0);
    expect((await ask('POST', `/api/jobs/${id}/imports`, request)).body).toEqual({ pulls: files.length });
    expect((await read()).job.pulls.map((p) => p.status).slice(0, 3)).toEqual(['settle', 'settle', 'counted']);
    const original = await ask('GET', `/api/jobs/${id}/files/${staged[0]!.id}`);
    expect(Buffer.compare(original.body as Buffer, Buffer.from(files[0]![1]))).toBe(0);
    const again = (await ask('POST', `/api/jobs/${id}/staged-files`, upload('files', [files[0]!]))).body as unknown as {
      id: null;
      problems: { message: string }[];
    }[];
    expect(again[0]).toMatchObject({
      id: null,
      problems: [{ message: expect.stringContaining('already imported') as unknown }],
    });
    const next = (
      await ask(
        'POST',
        `/api/jobs/${id}/staged-files`,
        upload('files', [sampleCsvFiles().find(([n]) => n.startsWith('roller-B'))!]),
      )
    ).body as unknown as { remembered: boolean }[];
    expect(next[0]!.remembered).toBe(true);
  });

  test('two people at two screens lose nothing: the older version is refused', async () => {
    const { version, job } = await read();
    const pull = job.pulls[3]!.id;
    expect((await ask('PATCH', `/api/jobs/${id}/pulls/${pull}`, { version, status: 'set-aside' })).status).toBe(400);
    expect(
      (await ask('PATCH', `/api/jobs/${id}/pulls/${pull}`, { version, status: 'set-aside', reason: 'tyre slip' }))
        .status,
    ).toBe(204);
    expect((await ask('PATCH', `/api/jobs/${id}/pulls/${pull}`, { version, status: 'counted' })).body).toMatchObject({
      status: 409,
      detail: expect.stringContaining('Somebody else') as unknown,
    });
    expect((await read()).job.pulls[3]).toMatchObject({ status: 'set-aside', reason: 'tyre slip' });
    expect(await log()).toMatchObject({ broken: null });
    expect((await log()).rows.map((row) => row.what).join()).toContain('tyre slip');
  });

  test('a package goes in and out to the last digit, and a broken one stores nothing', async () => {
    const job = simulateDay(DEMO_DAYS[4]!);
    const { id: taken } = (
      await ask('POST', '/api/packages', upload('file', [['day.zip', await zip(writePackage(job))]]))
    ).body as { id: string };
    const out = await ask('GET', `/api/jobs/${taken}/package`);
    const back = readPackage(await unzip(out.body as Buffer)).job;
    expect(back).toEqual(job);
    expect(judgeJob(back)).toEqual(judgeJob(job));
    const count = async () => ((await ask('GET', '/api/jobs')).body as { jobs: unknown[] }).jobs.length;
    const before = await count();
    expect((await ask('POST', '/api/packages', upload('file', [['x.zip', 'nothing']]))).status).toBe(422);
    expect(await count()).toBe(before);
    const report = ((await ask('GET', `/api/jobs/${taken}/report.html`)).body as Buffer).toString();
    expect(report).toContain('Verified loss');
    expect(report).not.toMatch(/(src|href)="https?:/);
    // A report that is kept goes as soon as anything that it shows has changed.
    const again = async () => ((await ask('GET', `/api/jobs/${taken}/report.html`)).body as Buffer).toString();
    expect(await again()).toBe(report);
    const { version } = (await ask('GET', `/api/jobs/${taken}`)).body as { version: number };
    await ask('PATCH', `/api/jobs/${taken}`, { version, day: { claim: 'Says three horses more' } });
    expect(await again()).toContain('Says three horses more');
    // What stands for the samples is made anew when its rows are damaged or gone, and a page judges from it to the same digits.
    const moments = async () => {
      const bytes = (await ask('GET', `/api/jobs/${taken}/moments`)).body as Buffer;
      return framesIn(new Uint8Array(bytes).buffer);
    };
    const sound = await moments();
    const prepared = new PreparedPulls();
    prepared.take(sound);
    const bare = { ...job, pulls: job.pulls.map((p) => ({ ...p, channels: [] })) };
    expect(prepared.missing(bare)).toEqual([]);
    expect(judgePrepared(bare, prepared.of(bare)).verdicts).toEqual(judgeJob(job).verdicts);
    for (const harm of [`UPDATE pull_moments SET frame = '\\x00ff'`, 'DELETE FROM pull_moments']) {
      expect(await inEveryShop(mother!, harm)).toBeGreaterThanOrEqual(job.pulls.length);
      expect(await moments()).toEqual(sound);
    }
    const frames = (await ask('GET', `/api/jobs/${taken}/channels`)).body as Buffer;
    const length = frames.readUInt32LE(0);
    const index = JSON.parse(frames.subarray(4, 4 + length).toString()) as {
      pull: string;
      name: string;
      length: number;
    }[];
    expect(index[0]).toEqual({
      pull: job.pulls[0]!.id,
      name: 'time_s',
      length: job.pulls[0]!.channels[0]!.values.length,
    });
    expect(frames.readDoubleLE(4 + length + 8)).toBe(job.pulls[0]!.channels[0]!.values[1]);
  });

  test('the evidence log goes with the package; a log that was touched is found and kept apart', async () => {
    const out = await unzip((await ask('GET', `/api/jobs/${id}/package`)).body as Buffer);
    const rows = readEvents(out.get('events.csv')!);
    expect(brokenRow(rows)).toBeNull();
    expect(rows.map((row) => row.what)).toEqual((await log()).rows.map((row) => row.what));
    const take = async (events: string) => {
      const files = new Map(out).set('events.csv', new TextEncoder().encode(events));
      const answer = await ask('POST', '/api/packages', upload('file', [['day.zip', await zip(files)]]));
      return (answer.body as { id: string }).id;
    };
    const whole = await log(await take(evidenceCsv(rows)));
    expect(whole.broken).toBeNull();
    expect(whole.rows.slice(0, rows.length).map((row) => row.hash)).toEqual(rows.map((row) => row.hash));
    const touched = await take(evidenceCsv(rows.map((row) => (row.n === 2 ? { ...row, what: 'nothing' } : row))));
    expect((await log(touched)).rows[0]!.what).toMatch(/evidence log is broken: Row 2/);
    const back = await unzip((await ask('GET', `/api/jobs/${touched}/package`)).body as Buffer);
    expect(back.has('events-broken.csv')).toBe(true);
  });

  test('evidence is only ever added to, even with the database at hand', async () => {
    const change = (sql: string) =>
      onCluster(mother!, async (client) => {
        await client.query('BEGIN');
        await client.query(`SELECT set_config('prandel.shop', (SELECT shop_id FROM shops LIMIT 1)::text, true)`);
        return (await client.query(sql)).rowCount;
      });
    await expect(change(`UPDATE evidence SET what = 'nothing'`)).rejects.toThrow('append-only');
    await expect(change('DELETE FROM evidence')).rejects.toThrow('append-only');
  });

  test('a planned day goes into a calendar; an unplanned one says so', async () => {
    expect((await ask('GET', `/api/jobs/${id}/plan.ics`)).status).toBe(404);
    const { version } = await read();
    const plan = {
      shape: 'return',
      startAt: '2026-05-02T08:00:00.000Z',
      minutesPerPull: 5,
      fittingMinutes: 50,
      openFromMin: 480,
      openUntilMin: 1080,
      forecastC: null,
      order: 'fixed',
    };
    expect((await ask('PATCH', `/api/jobs/${id}`, { version, day: { plan } })).status).toBe(204);
    const text = ((await ask('GET', `/api/jobs/${id}/plan.ics`)).body as Buffer).toString().replace(/\r\n[ \t]/g, '');
    // RFC 5545: three rounds of pulls with two fittings between them.
    expect(text.match(/BEGIN:VEVENT/g)).toHaveLength(5);
    expect(text).toContain('DTSTART:20260502T080000Z');
    expect(text).toContain('DTEND:20260502T105000Z');
    expect(text).toMatch(/SUMMARY:Fit B/);
    expect((await read()).version).toBe(version + 1);
  });

  test('row-level security keeps another shop out even when a query forgets', async () => {
    const rows = await onCluster(mother!, async (client) => {
      await client.query('BEGIN');
      await client.query("SELECT set_config('prandel.shop', '11111111-1111-1111-1111-111111111111', true)");
      const counts = [];
      for (const table of ['jobs', 'pulls', 'channels', 'files', 'people'])
        counts.push(Number((await client.query<{ n: string }>(`SELECT count(*) AS n FROM ${table}`)).rows[0]!.n));
      const insert = await client
        .query("INSERT INTO shops (shop_id, name) VALUES ('22222222-2222-2222-2222-222222222222', 'x')")
        .catch((e: Error) => e.message);
      return { counts, insert };
    });
    expect(rows.counts).toEqual([0, 0, 0, 0, 0]);
    expect(rows.insert).toMatch(/row-level security/);
  });

  test('what is wrong with a new job is said field by field', async () => {
    const refused = async (change: object) => (await ask('POST', '/api/jobs', { ...NEW_JOB, ...change })).body;
    expect(await refused({ title: '' })).toMatchObject({
      status: 400,
      errors: [{ path: 'title', message: 'Write the question in words.' }],
    });
    expect(await refused({ setups: [] })).toMatchObject({
      errors: [{ path: 'setups', message: 'A job needs a setup.' }],
    });
    expect(await refused({ question: { ...NEW_JOB.question, candidateSetups: ['Z'] } })).toMatchObject({
      detail: 'The question names setup "Z", which the job does not have.',
    });
    expect(await refused({ question: { ...NEW_JOB.question, windowRpm: [6000, 3000] } })).toMatchObject({
      detail: expect.stringContaining('rises from a lower') as unknown,
    });
    const beauty = { ...NEW_JOB.question, measures: [{ id: 'beauty', meaningful: 1 }] };
    expect(JSON.stringify(await refused({ question: beauty }))).toContain('question.measures.0.id');
    expect(await refused({ vehicle: { label: 'x', massKg: -3 } })).toMatchObject({
      errors: [{ path: 'vehicle.massKg' }],
    });
    expect(await refused({ surprise: true })).toMatchObject({ errors: [{ path: 'surprise' }] });
  });

  test('a setup with pulls cannot be taken away, and a late change of the question is named in the log', async () => {
    const { version, job } = (await read()) as unknown as {
      version: number;
      job: { setups: object[]; question: object };
    };
    const added = { setups: [{ id: 'C', label: 'c', changes: [], state: {} }], removedSetups: ['A'] };
    const question = { baselineSetup: 'B', candidateSetups: ['C'] };
    expect((await ask('PATCH', `/api/jobs/${id}`, { version, ...added, question })).body).toMatchObject({
      status: 400,
      detail: 'Setup "A" has pulls and cannot be taken away.',
    });
    const late = { version, question: { ...NEW_JOB.question, windowRpm: [3500, 6500] } };
    expect((await ask('PATCH', `/api/jobs/${id}`, late)).body).toMatchObject({
      status: 400,
      detail: expect.stringContaining('The question froze at the first counted pull') as unknown,
    });
    expect((await ask('PATCH', `/api/jobs/${id}`, { ...late, amendment: 'the gear was wrong' })).status).toBe(204);
    const { job: amended } = (await ask('GET', `/api/jobs/${id}`)).body as unknown as { job: Job };
    expect(amended.day!.amendments).toMatchObject([{ who: 'Ines R.', reason: 'the gear was wrong' }]);
    expect(amended.day!.amendments![0]!.what).toMatch(/window .* to 3500–6500 rpm/);
    expect((await log()).rows.at(-1)!.what).toMatch(
      /Changed the question after the first counted pull: .* window 3500–6500.* because: the gear was wrong/,
    );
    expect(job.setups).toHaveLength(2);
    // Words that follow at the desk are added to the chain, about a row or about the job.
    const { rows } = await log();
    const note = (about: number | null, words: string) => ask('POST', `/api/jobs/${id}/notes`, { about, words });
    expect((await note(rows[0]!.n, 'by telephone')).status).toBe(204);
    expect((await note(null, 'customer watched')).status).toBe(204);
    expect((await note(99_999, 'x')).body).toMatchObject({
      status: 404,
      detail: 'The log of this job has no row 99999.',
    });
    const after = await log();
    expect(after.broken).toBeNull();
    expect(after.rows.slice(-2).map((r) => r.what)).toEqual([
      `About row ${rows[0]!.n} (${rows[0]!.what}): by telephone`,
      'Note: customer watched',
    ]);
  });

  test('gauges read by hand: air for pulls that recorded none, start temperatures that no sensor told, in the log', async () => {
    const air = (body: object) => ask('POST', `/api/jobs/${id}/weather`, body);
    expect((await air({ airC: 21.5, pressureHpa: 1002.4, relativeHumidity: 0.5 })).status).toBe(204);
    expect((await air({ airC: 21.5, pressureHpa: 1002.4, relativeHumidity: 50 })).body).toMatchObject({
      status: 400,
      detail: expect.stringContaining('looks like per cent') as unknown,
    });
    const { job: now } = (await ask('GET', `/api/jobs/${id}`)).body as unknown as { job: Job };
    expect(now.weather.at(-1)).toMatchObject({ airC: 21.5, pressureHpa: 1002.4 });
    const pull = now.pulls[0]!;
    const start = (body: object) => ask('POST', `/api/jobs/${id}/pulls/${pull.id}/readings`, body);
    const none = { intakeStartC: null, coolantStartC: null, oilStartC: null };
    expect(pull.oilStartC).toBeNull();
    expect((await start({ ...none, oilStartC: 94, coolantStartC: 99 })).status).toBe(204);
    // A value that a sensor told is not typed over.
    expect((await start({ ...none, coolantStartC: 99 })).status).toBe(400);
    const { job: after } = (await ask('GET', `/api/jobs/${id}`)).body as unknown as { job: Job };
    expect(after.pulls[0]).toMatchObject({
      intakeStartC: pull.intakeStartC,
      coolantStartC: pull.coolantStartC,
      oilStartC: 94,
    });
    expect((await log()).rows.at(-1)!.what).toBe(`Read by hand at the start of pull ${pull.id}: oil 94 °C.`);
  });

  test('a number state without its factor, an unknown pull and a foreign id are refused', async () => {
    const { version } = await read();
    const import_ = {
      fileIds: ['00000000-0000-4000-8000-000000000000'],
      setupId: 'A',
      settle: 0,
      columns: [],
      numberState: { kind: 'corrected' },
    };
    expect((await ask('POST', `/api/jobs/${id}/imports`, import_)).body).toMatchObject({
      status: 400,
      detail: expect.stringContaining('by which factor') as unknown,
    });
    expect(
      (await ask('POST', `/api/jobs/${id}/imports`, { ...import_, numberState: { kind: 'unknown' } })).status,
    ).toBe(404);
    expect((await ask('PATCH', `/api/jobs/${id}/pulls/none`, { version, status: 'counted' })).status).toBe(404);
    expect((await ask('GET', '/api/jobs/00000000-0000-4000-8000-000000000000')).status).toBe(404);
    expect((await ask('GET', '/api/jobs/not-an-id')).status).toBe(400);
    // The refused edit of the unknown pull took no version with it.
    expect((await read()).version).toBe(version);
  });

  test('the report’s numbers come as JSON without NaN', async () => {
    const answer = (await ask('GET', `/api/jobs/${id}/report.json`)).body as {
      digest: string;
      verdicts: { candidate: string; verdict: string; gain: null; noiseFloorPercent: null }[];
    };
    expect(answer.digest).toMatch(/^[0-9a-f]{64}$/);
    expect(answer.verdicts).toMatchObject([{ candidate: 'B', verdict: 'not-resolved', gain: null }]);
    expect(JSON.stringify(answer)).not.toContain('NaN');
  });

  test('the OpenAPI document names the routes', async () => {
    expect(Object.keys(((await ask('GET', '/api/openapi.json')).body as { paths: object }).paths)).toEqual(
      expect.arrayContaining(['/api/jobs', '/api/jobs/{id}/imports', '/api/packages']),
    );
  });
});
