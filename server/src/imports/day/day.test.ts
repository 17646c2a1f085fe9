import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { judgeJob, plannedRounds, pullsInOrder, roundsOfDay, type Job } from '@prandel/core';
import { zip } from '@prandel/formats';
import {
  DEMO_DAYS,
  foreignFile,
  foreignPull,
  PLAIN_SHAPE,
  simulateDay,
  type ForeignPull,
  type Shape,
} from '@prandel/simulator';
import { NEW_JOB, TestShop, upload } from '../../test/shop.ts';

// A made-up day as foreign software writes it: one file a pull, its time and weather in German above the numbers, corrected.
const day = simulateDay({ ...DEMO_DAYS.find((d) => d.id === 'QG-0910-2')!, seed: 77, effects: { B: () => 3 } });
const ordered = pullsInOrder(day.pulls);
const made = ordered.map((p) => foreignPull(day, p, 60));
const SHAPE: Shape = { ...PLAIN_SHAPE, language: 'de', corrected: true, clock: 'elapsed' };
const fileOf = (pull: ForeignPull, shape: Shape = SHAPE) => foreignFile([pull], shape);

let shop: TestShop;
beforeAll(async () => {
  shop = await TestShop.open(process.env.FILES_DATABASE_URL);
}, 60_000);
afterAll(() => shop.close());

const newJobOf = async () => {
  const setups = [
    ...NEW_JOB.setups,
    { id: 'A2', label: 'as arrived', parentId: null, returnsTo: 'A', changes: [], state: {} },
  ];
  const body = { ...NEW_JOB, setups, timeZone: 'Europe/Lisbon' };
  return ((await shop.ask('POST', '/api/jobs', body)).body as { id: string }).id;
};
interface Staged {
  readonly id: string | null;
  readonly name: string;
  readonly columns: { role: string; unit: string | null }[];
  readonly answers: object | null;
  readonly changedAt: string | null;
  readonly problems: { message: string }[];
}
interface Laid {
  readonly fileId: string;
  readonly index: number;
  readonly file: string;
  readonly when: { at: string; source: string; unsure: string | null } | null;
  readonly conditions: Record<string, { value: number; source: string } | null>;
  readonly state: { kind: string; standard: string; factor: number; computed: number } | null;
  readonly round: string | null;
  readonly twin: { kind: string; place: number | null; pullId: string | null } | null;
}
const stage = async (job: string, files: [string, Uint8Array | string][]) =>
  (await shop.ask('POST', `/api/jobs/${job}/staged-files`, upload('files', files))).body as unknown as Staged[];
const ANSWERS = { state: 'as-stated', standard: null, factor: null, averagingRpm: null, rpmPerKmH: null };
const shapesOf = (staged: readonly Staged[]) => [
  { columns: staged[0]!.columns.map(({ role, unit }) => ({ role, unit })), answers: ANSWERS },
];
const filesOf = (staged: readonly Staged[]) =>
  staged.flatMap((f) => (f.id ? [{ id: f.id, shape: 0, changedAt: f.changedAt }] : []));
const layOut = async (job: string, staged: readonly Staged[]) =>
  (
    await shop.ask('POST', `/api/jobs/${job}/day-layout`, {
      ...{ files: filesOf(staged), shapes: shapesOf(staged), timeZone: 'Europe/Lisbon' },
    })
  ).body as unknown as { pulls: Laid[]; unlaid: { name: string; problems: { message: string }[] }[] };
const storedJob = async (job: string) => ((await shop.ask('GET', `/api/jobs/${job}`)).body as { job: Job }).job;

/** The day as the page would send it: rounds by their pauses, setups in the planned order. */
async function request(job: string, staged: readonly Staged[], pulls: readonly Laid[]) {
  const rounds = roundsOfDay(
    pulls.map((p, k) => ({ id: String(k), startedMs: p.when && Date.parse(p.when.at), round: p.round })),
  );
  const planned = plannedRounds(await storedJob(job), rounds.length);
  return {
    files: filesOf(staged),
    shapes: shapesOf(staged),
    pulls: rounds.flatMap((ids, r) =>
      ids.map((id, k) => {
        const pull = pulls[Number(id)]!;
        return {
          ...{ fileId: pull.fileId, index: pull.index, round: r + 1, setupId: planned[r]!.setup },
          ...{ status: k < 2 ? 'settle' : 'counted', reason: null, gear: null, averagingRpm: null },
          ...{ startedAt: pull.when?.at ?? null, timeFrom: pull.when?.source ?? null },
          conditions: Object.fromEntries(
            Object.entries(pull.conditions).map(([key, said]) => [key, said?.value ?? null]),
          ),
          numberState: { kind: 'corrected', standard: pull.state!.standard, factor: pull.state!.factor },
        };
      }),
    ),
  };
}

describe('a day dropped at once', () => {
  let job = '';
  test('a ZIP with photos in it: rounds, setups, times, weather and correction as the day was, nothing typed; the verdict is that of the day', async () => {
    job = await newJobOf();
    const members = new Map<string, Uint8Array>(
      made.map((pull, k) => [`day/run_${(k * 5) % made.length}.csv`, fileOf(pull)] as const),
    );
    members.set('day/holiday.jpg', new Uint8Array([1, 2, 3]));
    members.set('day/older.zip', new Uint8Array([80, 75, 3, 4]));
    members.set('day/nul\0in its name.jpg', new Uint8Array([1]));
    members.set(`day/${'long'.repeat(2000)}.jpg`, new Uint8Array([1]));
    members.set('__MACOSX/day/._run_1.csv', new Uint8Array([0]));
    const staged = await stage(job, [['day.zip', await zip(members)]]);
    expect(staged.filter((f) => f.id === null).map((f): unknown[] => [f.name, f.problems[0]!.message])).toEqual([
      ['day/holiday.jpg', 'This is no file of pulls.'],
      ['day/older.zip', 'A ZIP inside a ZIP is not opened. Unpack it first.'],
      ['file', 'This is no file of pulls.'],
      [`day/${'long'.repeat(2000)}`.slice(0, 255), 'This is no file of pulls.'],
    ]);
    const { pulls, unlaid } = await layOut(job, staged);
    expect([pulls.length, unlaid]).toEqual([made.length, []]);
    expect(new Set(pulls.map((p) => p.when?.source))).toEqual(new Set(['header']));
    for (const { state, conditions } of pulls) {
      expect(conditions).toMatchObject({
        airC: { source: 'header' },
        pressureHpa: { source: 'header' },
        intakeStartC: { source: 'channel' },
      });
      expect(state!.standard).toBe('sae-j1349');
      // Printed to four digits, from weather printed to one.
      expect(Math.abs(state!.factor - state!.computed)).toBeLessThan(2e-3);
    }
    const body = await request(job, staged, pulls);
    expect(await shop.ask('POST', `/api/jobs/${job}/day-imports`, body)).toMatchObject({
      status: 201,
      body: { pulls: made.length },
    });
    expect((await shop.ask('POST', `/api/jobs/${job}/day-imports`, body)).status).toBe(201);
    const stored = await storedJob(job);
    const wanted = ordered.map((p) => [
      p.setupId,
      new Date(Math.round(Date.parse(p.startedAt!) / 1000) * 1000).getTime(),
    ]);
    const got = pullsInOrder(stored.pulls).map((p) => [p.setupId, Date.parse(p.startedAt!)]);
    expect(got.map(([setup]) => setup)).toEqual(wanted.map(([setup]) => setup));
    // Written in local time to whole seconds.
    got.forEach(([, at], i) => expect(Math.abs((at as number) - (wanted[i]![1] as number))).toBeLessThan(1500));
    const samples = (await shop.ask('GET', `/api/jobs/${job}/report.json`)).body as {
      verdicts: { verdict: string; gain: { percent: number } }[];
    };
    const own = judgeJob(day).verdicts[0]!;
    expect(samples.verdicts[0]!.verdict).toBe(own.verdict);
    expect(Math.abs(samples.verdicts[0]!.gain.percent - own.gain!.percent!)).toBeLessThan(0.3);
  });

  test('the second day of the same shape needs no answer; its pulls again, or exported again, are told', async () => {
    const again = await newJobOf();
    const shifted = made.slice(0, 6).map((p, k) => ({
      ...p,
      local: p.local.replace('2026-', '2027-'),
      torqueNm: p.torqueNm.map((t) => t + k * 1e-3),
    }));
    const smooth = (v: readonly number[]) => v.map((x, i) => 0.1 * (v[i - 1] ?? x) + 0.8 * x + 0.1 * (v[i + 1] ?? x));
    const staged = await stage(again, [
      ...shifted.map((p, k): [string, Uint8Array] => [`second_${k}.csv`, fileOf(p)]),
      ['printed.csv', fileOf({ ...shifted[2]!, torqueNm: smooth(shifted[2]!.torqueNm) }, { ...SHAPE, about: 'none' })],
      ['copied.csv', fileOf({ ...shifted[3]!, local: '2027-09-10T18:00:00' })],
    ]);
    expect(staged.map((f) => f.answers)).toEqual(staged.map(() => ANSWERS));
    const { pulls } = await layOut(again, staged);
    expect(pulls.flatMap((p) => (p.twin ? [[p.file, p.twin.kind, p.twin.place]] : []))).toEqual([
      ['printed.csv', 'second-export', 2],
      ['copied.csv', 'same-samples', 3],
    ]);
  });

  test.each<[string, (pull: Record<string, unknown>, k: number) => object, RegExp]>([
    ['two pulls at one time', (p) => ({ ...p, startedAt: '2026-09-10T09:00:00Z' }), /Type the time of one of them/],
    ['a setup that is not there', (p) => ({ ...p, setupId: 'Q' }), /no setup "Q"/],
    ['two setups in a round', (p, k) => ({ ...p, round: 1, setupId: k === 0 ? 'A' : 'B' }), /pulls of A and of B/],
    ['set aside without a reason', (p) => ({ ...p, status: 'set-aside' }), /without a reason/],
    ['a pull that the file does not hold', (p) => ({ ...p, index: 4 }), /holds 1 pulls; pull 5 was asked for/],
    ['corrected by no factor', (p) => ({ ...p, numberState: { kind: 'corrected' } }), /by which factor/],
  ])('%s: nothing is stored, and it says what', async (name, wrong, words) => {
    const own = await newJobOf();
    const staged = await stage(
      own,
      made
        .slice(0, 4)
        .map((p, k): [string, Uint8Array] => [
          `${name} ${k}.csv`,
          fileOf({ ...p, torqueNm: p.torqueNm.map((t) => t + 1) }),
        ]),
    );
    const body = await request(own, staged, (await layOut(own, staged)).pulls);
    const answer = await shop.ask('POST', `/api/jobs/${own}/day-imports`, {
      ...body,
      pulls: body.pulls.map((p, k) => wrong(p, k)),
    });
    expect([answer.status, (answer.body as { detail: string }).detail]).toEqual([
      400,
      expect.stringMatching(words) as unknown,
    ]);
    expect((await storedJob(own)).pulls).toEqual([]);
  });

  test('one file that says power in W and calls it kW does not keep the others out', async () => {
    const own = await newJobOf();
    const lie = Buffer.from(fileOf(made[1]!))
      .toString()
      .replace(/^(\d+(?:,\d+)?;)(\d+),(\d{3})/gm, '$1$2$3');
    const staged = await stage(own, [
      ['good.csv', fileOf(made[0]!)],
      ['lie.csv', lie],
    ]);
    const { pulls, unlaid } = await layOut(own, staged);
    expect(pulls.map((p) => p.file)).toEqual(['good.csv']);
    expect(unlaid.map((f) => [f.name, f.problems[0]!.message])).toEqual([
      ['lie.csv', expect.stringMatching(/is the unit right\?/)],
    ]);
  });

  test('an hour that comes twice is told; a time below all others is that of the file, and is said to be unsure', async () => {
    const own = await newJobOf();
    const night = { ...made[0]!, local: '2026-10-25T01:30:00' };
    const staged = await stage(own, [
      ['night.csv', fileOf(night)],
      [
        'silent.csv',
        fileOf({ ...made[1]!, torqueNm: made[1]!.torqueNm.map((t) => t + 2) }, { ...SHAPE, about: 'none' }),
      ],
    ]);
    const files = filesOf(staged).map((f, k) => (k === 1 ? { ...f, changedAt: '2026-10-25T12:00:00.000Z' } : f));
    const { pulls } = (
      await shop.ask('POST', `/api/jobs/${own}/day-layout`, {
        ...{ files, shapes: shapesOf(staged), timeZone: 'Europe/Lisbon' },
      })
    ).body as unknown as { pulls: Laid[] };
    expect(pulls.map((p) => p.when)).toMatchObject([
      { at: '2026-10-25T01:30:00.000Z', source: 'header', unsure: 'comes-twice' },
      { at: '2026-10-25T12:00:00.000Z', source: 'file-date', unsure: 'copied' },
    ]);
  });

  test('a day imported for a bay of the shop teaches that bay; one on another shop’s rollers teaches none', async () => {
    const { id: bay } = (await shop.ask('POST', '/api/bays', { label: 'Bay 4', rollers: {}, instruments: {} }))
      .body as {
      id: string;
    };
    const learned = async () =>
      ((await shop.ask('GET', `/api/bays/${bay}/history`)).body as { prior: { jobs: number } }).prior.jobs;
    const bring = async (label: string, shift: number) => {
      const body = { ...NEW_JOB, bay: { label }, timeZone: 'Europe/Lisbon' };
      const { id: own } = (await shop.ask('POST', '/api/jobs', body)).body as { id: string };
      const pulls = made.slice(0, 10).map((p) => ({ ...p, torqueNm: p.torqueNm.map((t) => t + shift) }));
      const staged = await stage(
        own,
        pulls.map((p, k): [string, Uint8Array] => [`${label} ${k}.csv`, fileOf(p)]),
      );
      const request_ = await request(own, staged, (await layOut(own, staged)).pulls);
      expect((await shop.ask('POST', `/api/jobs/${own}/day-imports`, request_)).status).toBe(201);
      await shop.ask('GET', `/api/jobs/${own}/report.json`);
    };
    await bring('rollers elsewhere', 3);
    await bring('Bay 4', 4);
    for (const until = Date.now() + 20_000; Date.now() < until && (await learned()) === 0;)
      await new Promise((done) => setTimeout(done, 200));
    expect(await learned()).toBe(1);
  }, 60_000);

  test('weather that no file knows comes from the station of the bay at that time, and says so', async () => {
    expect((await shop.ask('POST', '/api/bays', { label: 'Bay 5', rollers: {}, instruments: {} })).status).toBe(201);
    const inBay = async () => {
      const body = { ...NEW_JOB, bay: { label: 'Bay 5' }, timeZone: 'UTC' };
      return ((await shop.ask('POST', '/api/jobs', body)).body as { id: string }).id;
    };
    const weather = { airC: 19.5, pressureHpa: 1008, relativeHumidity: 0.41 };
    expect((await shop.ask('POST', `/api/jobs/${await inBay()}/weather`, weather)).status).toBeLessThan(300);
    const own = await inBay();
    const at = (minutes: number) => new Date(Date.now() + minutes * 60_000).toISOString().slice(0, 19);
    const silent = (k: number) =>
      fileOf({ ...made[k]!, torqueNm: made[k]!.torqueNm.map((t) => t + 6) }, { ...SHAPE, about: 'none' });
    const staged = await stage(own, [
      [`run_${at(-5).replaceAll(':', '-')}.csv`, silent(0)],
      [`run_${at(-300).replaceAll(':', '-')}.csv`, silent(1)],
    ]);
    const { pulls } = (
      await shop.ask('POST', `/api/jobs/${own}/day-layout`, {
        ...{ files: filesOf(staged), shapes: shapesOf(staged), timeZone: 'UTC' },
      })
    ).body as unknown as { pulls: Laid[] };
    const near = pulls.find((p) => p.file.includes(at(-5).slice(11, 16).replace(':', '-')))!;
    expect(near.when?.source).toBe('file-name');
    expect(near.conditions).toMatchObject({
      airC: { value: 19.5, source: 'station' },
      pressureHpa: { value: 1008, source: 'station' },
    });
    expect(pulls.find((p) => p !== near)!.conditions.airC).toBeNull();
  });
});
