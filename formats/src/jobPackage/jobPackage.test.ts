import { describe, expect, test } from '@jest/globals';
import { declared, newJob, newPull, newSetup, type Job } from '@prandel/core';
import fc from 'fast-check';
import yazl from 'yazl';
import { UnreadableError } from '../problem.ts';
import { readPackage } from './readPackage.ts';
import { writePackage } from './writePackage.ts';
import type { PackageFiles } from './packageFiles.ts';
import { unzip, zip } from './zip.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const text = (files: PackageFiles, path: string) => new TextDecoder().decode(files.get(path));

const finite = fc.double({ noNaN: true, noDefaultInfinity: true }).map((v) => (Object.is(v, -0) ? 0 : v));
const word = fc
  .string({ minLength: 1, maxLength: 12 })
  .map((s) => s.trim())
  .filter((s) => s !== '' && !/[\0\r\n]/.test(s));

function jobOf(values: number[], label: string, humidity: number): Job {
  return {
    ...newJob('QG-1', label),
    openedAt: '2026-05-02T08:10:00Z',
    timeZone: 'Europe/Lisbon',
    setups: [
      newSetup('A', label),
      {
        ...newSetup('B', 'part, "quoted"', 'A'),
        ...declared('fuel: 98; part fitted: fan'),
        state: { fuel: label, hood: 'shut' },
      },
    ],
    pulls: [
      {
        ...newPull('A·1', 'A', 1),
        startedAt: '2026-05-02T08:20:00.000Z',
        airC: 21.4,
        relativeHumidity: humidity,
        numberState: { kind: 'corrected', standard: 'sae-j607', factor: 1.0371 },
        channels: [
          { name: 'engine_rpm', values: Float64Array.from(values, (v) => v % 30_000 || 0) },
          { name: 'boost, odd_kpa', values: Float64Array.from(values, (v, i) => (i % 2 ? NaN : v)) },
        ],
      },
    ],
    weather: [{ at: '2026-05-02T08:00:00Z', pressureHpa: 1003.9, airC: 21, relativeHumidity: null }],
  };
}

describe('job packages', () => {
  test('a job goes out and comes back to the last digit (property)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(finite, { minLength: 2, maxLength: 20 }),
        word,
        fc.double({ min: 0, max: 1, noNaN: true }),
        async (values, label, humidity) => {
          const job = jobOf(values, label, Math.abs(humidity));
          const { job: back } = readPackage(await unzip(await zip(writePackage(job))));
          expect({ ...back, question: { ...back.question, text: '' } }).toEqual({
            ...job,
            question: { ...job.question, text: '' },
          });
        },
      ),
      { numRuns: 40 },
    );
  });

  test('unknown columns, resources and fields survive', () => {
    const files = writePackage(jobOf([2000, 3000], 'x', 0.5));
    files.set(
      'setups.csv',
      bytes(
        text(files, 'setups.csv')
          .split('\r\n')
          .map((l, i) => (l ? `${l},${i ? `note ${i}` : 'my_note'}` : l))
          .join('\n'),
      ),
    );
    files.set('notes/photo.bin', Uint8Array.from([1, 2, 255]));
    files.set('events.csv', bytes('hash,what\nabc,started\n'));
    const descriptor = JSON.parse(text(files, 'datapackage.json')) as Record<string, Record<string, unknown>>;
    descriptor.prandel!.future = { kept: true };
    (descriptor.prandel!.vehicle as Record<string, unknown>).colour = 'green';
    files.set('datapackage.json', bytes(JSON.stringify(descriptor)));
    const { job, extras } = readPackage(files);
    const out = writePackage(job, extras);
    const again = JSON.parse(text(out, 'datapackage.json')) as {
      prandel: { future: unknown; vehicle: { colour: string } };
      resources: { path: string; profile: string; schema: { fields: { name: string; unit?: string }[] } }[];
    };
    expect(again.prandel.future).toEqual({ kept: true });
    expect(again.prandel.vehicle.colour).toBe('green');
    expect(text(out, 'setups.csv')).toContain('note 2');
    expect([...out.get('notes/photo.bin')!]).toEqual([1, 2, 255]);
    expect(text(out, 'events.csv')).toBe('hash,what\nabc,started\n');
    // Frictionless Tabular Data Package: every resource names its profile and schema.
    for (const r of again.resources)
      expect(r).toMatchObject({ profile: 'tabular-data-resource', schema: { fields: expect.any(Array) as unknown } });
    expect(again.resources.find((r) => r.path.startsWith('channels/'))!.schema.fields[0]).toEqual({
      name: 'engine_rpm',
      type: 'number',
      unit: 'rpm',
    });
  });

  const lenient = (pulls: string, prandel: object = {}): PackageFiles =>
    new Map([
      [
        'day/datapackage.json',
        bytes(
          JSON.stringify({
            prandel: { formatVersion: 1, question: { baselineSetup: 'A', candidateSetups: ['B'] }, ...prandel },
          }),
        ),
      ],
      ['day/setups.csv', bytes('setup_id,label\nA,stock\nB,part\n')],
      ['day/pulls.csv', bytes(pulls)],
      ['day/a.csv', bytes('engine_rpm,wheel_power_w\n2000,30000\n3000,\n')],
    ]);

  test('measures are read as a list, as the one measure of older packages, and refused with their member', () => {
    const question = (more: object) => {
      const files = new Map(writePackage(newJob('QG-1', 'Does it help?')));
      const descriptor = JSON.parse(new TextDecoder().decode(files.get('datapackage.json'))) as {
        prandel: { question: { measures?: unknown } };
      };
      delete descriptor.prandel.question.measures;
      Object.assign(descriptor.prandel.question, more);
      files.set('datapackage.json', new TextEncoder().encode(JSON.stringify(descriptor)));
      return readPackage(files).job.question.measures;
    };
    expect(question({})).toEqual([{ id: 'windowMeanPower', meaningful: 1 }]);
    expect(question({ measure: 'peakPower', meaningfulGainPercent: 2 })).toEqual([{ id: 'peakPower', meaningful: 2 }]);
    expect(question({ measure: 'oilStartTemperature', meaningfulGainPercent: 4 })).toEqual([
      { id: 'start', channel: 'oil_c', meaningful: 4 },
    ]);
    const listed = [
      { id: 'peak', channel: 'charge_c', meaningful: 3 },
      { id: 'powerAt', rpm: 4000, meaningful: 1.5 },
      { id: 'mean', channel: 'inlet_vacuum_kpa', windowRpm: [3000, 5000], meaningful: 1 },
    ];
    expect(question({ measures: listed })).toEqual(listed);
    const timed = [{ id: 'rollOnTime', target: 240, meaningful: 5 }];
    expect(question({ measures: timed })).toEqual(timed);
    expect(() => question({ measures: [{ id: 'beauty' }] })).toThrow(/question\.measures "beauty" is none of/);
    expect(() => question({ measures: [{ id: 'peak' }] })).toThrow(/question\.measures: "peak" needs a channel/);
    expect(() => question({ measures: [...listed, ...listed] })).toThrow(/one to three/);
    expect(() => question({ measure: 'beauty' })).toThrow(/question\.measure "beauty"/);
    // What an older package called them is not written beside the list.
    const old = {
      ...newJob('QG-1', 'x'),
      question: { ...newJob('', '').question, measures: question({ measure: 'peakPower' }) },
    };
    const written = new TextDecoder().decode(writePackage(old).get('datapackage.json'));
    expect(written).not.toContain('meaningfulGainPercent');
  });

  test('the kind of a pull travels where one is no sweep, and an unknown kind is refused', () => {
    const job = jobOf([1, 2], 'x', 0.5);
    expect(text(writePackage(job), 'pulls.csv').split('\n')[0]).not.toContain('kind');
    const held: Job = { ...job, pulls: [...job.pulls, { ...newPull('A·2', 'A', 2), kind: 'roll-on' }] };
    const files = new Map(writePackage(held));
    expect(readPackage(files).job.pulls.map((p) => p.kind)).toEqual([undefined, 'roll-on']);
    files.set('pulls.csv', bytes(text(files, 'pulls.csv').replace('roll-on', 'stroll')));
    expect(() => readPackage(files)).toThrow(/kind "stroll" is none of sweep, roll-on, hold/);
  });

  test('a lenient reader: one folder at the top, no schemas, LF, undeclared channel files', () => {
    const { job } = readPackage(lenient('pull_id,setup_id,channels_file\np1,A,a.csv\n'));
    expect(job.pulls[0]).toMatchObject({
      id: 'p1',
      status: 'counted',
      round: 1,
      position: 1,
      numberState: { kind: 'uncorrected' },
    });
    expect(job.pulls[0]!.channels[1]!.values[1]).toBeNaN();
    expect(job.method).toMatchObject({ correction: 'sae-j1349', averagingWidthRpm: 200 });
  });

  test('declared states and typed changes travel where the column of changes cannot carry them, and only there', () => {
    const plain = jobOf([1, 2], 'x', 0.5);
    const header = (files: PackageFiles) => text(files, 'setups.csv').split('\r\n')[0]!;
    expect(header(writePackage(plain))).not.toContain('declares');
    expect(writePackage(plain).has('changes.csv')).toBe(false);
    const typed: Job = {
      ...plain,
      setups: plain.setups.map((s) =>
        s.id === 'B'
          ? {
              ...s,
              changes: [
                { kind: 'part-fitted', part: 'fan; and shroud', text: 'fan; and shroud' },
                { kind: 'tune', part: null, text: 'rev 4' },
              ],
              declares: ['tuneDigest', 'averagingRpm', 'hood'],
            }
          : s,
      ),
    };
    const files = writePackage(typed);
    expect(text(files, 'changes.csv')).toContain('B,tune,,rev 4');
    expect(text(files, 'setups.csv')).toContain('tune_digest hood averaging_rpm');
    const back = readPackage(files);
    expect(back.job.setups[1]!.changes).toEqual(typed.setups[1]!.changes);
    expect([...back.job.setups[1]!.declares].sort()).toEqual(['averagingRpm', 'hood', 'tuneDigest']);
    expect([...writePackage(back.job, back.extras)].map(([path]) => path)).toEqual([...files.keys()]);
    const wrong = new Map(files).set('setups.csv', bytes('setup_id,declares\r\nA,\r\nB,hood bonnet\r\n'));
    const stray = new Map(files).set('changes.csv', bytes('setup_id,kind,part,text\r\nX,tune,,rev 4\r\n'));
    expect(() => readPackage(stray)).toThrow(/changes.csv names setup "X", which setups.csv does not have/);
    expect(() => readPackage(wrong)).toThrow(/setups.csv, line 3: declares names "bonnet", which is no state/);
  });

  test.each<[string, PackageFiles, RegExp]>([
    ['a newer version', lenient('pull_id,setup_id\n', { formatVersion: 2 }), /newer version \(format 2\)/],
    [
      'humidity in per cent',
      lenient('pull_id,setup_id,relative_humidity\np,A,47\n'),
      /pulls.csv, line 2: relative_humidity 47 looks like per cent/,
    ],
    ['an unknown setup', lenient('pull_id,setup_id\np,Z\n'), /Pull p names setup "Z"/],
    ['an unknown status', lenient('pull_id,setup_id,status\np,A,maybe\n'), /line 2: status "maybe" is none of/],
    ['a missing channel file', lenient('pull_id,setup_id,channels_file\np,A,b.csv\n'), /"b.csv" is not in the package/],
    [
      'a path that climbs out',
      lenient('pull_id,setup_id,channels_file\np,A,../../etc/passwd\n'),
      /outside its own folder/,
    ],
    ['a pull twice', lenient('pull_id,setup_id\np,A\np,B\n'), /line 3: pull_id "p" occurs twice/],
    [
      'pressure in another unit',
      lenient('pull_id,setup_id,pressure_hpa\np,A,29.92\n'),
      /pressure_hpa: 29\.92 hPa is outside .* it looks like inHg/,
    ],
    ['a date of another age', lenient('pull_id,setup_id,started_at\np,A,0001-01-01T00:00:00Z\n'), /years 1990 to 2100/],
    [
      'a time zone of another planet',
      lenient('pull_id,setup_id\np,A\n', { job: { timeZone: 'Mars/Olympus' } }),
      /no time zone such as/,
    ],
    [
      'a window of the whole number line',
      lenient('pull_id,setup_id\np,A\n', {
        question: { baselineSetup: 'A', candidateSetups: ['B'], windowRpm: [1, 1e9] },
      }),
      /outside 0–30000 rpm/,
    ],
    [
      'a malformed day',
      lenient('pull_id,setup_id\np,A\n', { day: { fittings: [{ setup: 7 }] } }),
      /Day\.fittings\[0\]\.setup is no text/,
    ],
    [
      'a plan of endless pulls',
      lenient('pull_id,setup_id\np,A\n', {
        question: { baselineSetup: 'A', candidateSetups: ['B'], plan: [{ setup: 'A', counted: 1e9 }] },
      }),
      /no number from 0 to 200/,
    ],
    [
      'more pulls than a job holds',
      lenient(`pull_id,setup_id\n${Array.from({ length: 2001 }, (_, i) => `p${i},A`).join('\n')}\n`),
      /at most 2000 are read/,
    ],
    ['a factor missing', lenient('pull_id,setup_id,power_state\np,A,corrected:sae-j607\n'), /has no factor/],
    ['no descriptor', new Map([['a.txt', bytes('x')]]), /no datapackage.json/],
    ['broken JSON', new Map([['datapackage.json', bytes('{')]]), /not valid JSON/],
  ])('refuses %s', (_, files, message) => expect(() => readPackage(files)).toThrow(message));

  test('refuses a ZIP that expands without end, one that climbs out, and no ZIP at all', async () => {
    const bomb = await zip(new Map([['datapackage.json', new Uint8Array(201 * 1024 * 1024)]]));
    expect(bomb.length).toBeLessThan(1_000_000);
    await expect(unzip(bomb)).rejects.toThrow(/more than 200 MB/);
    const archive = new yazl.ZipFile();
    archive.addBuffer(Buffer.from('x'), 'aa/evil.txt');
    archive.end();
    const chunks: Buffer[] = [];
    for await (const chunk of archive.outputStream) chunks.push(chunk as Buffer);
    const climbing = Buffer.from(
      Buffer.concat(chunks).toString('latin1').replaceAll('aa/evil.txt', '../evil.txt'),
      'latin1',
    );
    await expect(unzip(climbing)).rejects.toThrow(/outside its own folder/);
    await expect(unzip(bytes('not a zip at all'))).rejects.toThrow(UnreadableError);
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 300 }), async (junk) => {
        await expect(unzip(junk)).rejects.toThrow(UnreadableError);
      }),
      { numRuns: 40 },
    );
  });
});
