import { beforeAll, describe, expect, test } from '@jest/globals';
import { newJob, newPull, newSetup, USUAL_DAY, type JobDay, type Job } from '@prandel/core';
import fc from 'fast-check';
import { brokenRow, linked, type EvidenceRow } from '../evidence/chain.ts';
import { readEvents } from '../evidence/readEvents.ts';
import { UnreadableError } from '../problem.ts';
import { readPackage } from './readPackage.ts';
import { writePackage } from './writePackage.ts';
import type { PackageFiles } from './packageFiles.ts';
import { unzip, zip } from './zip.ts';

const day: JobDay = {
  ...USUAL_DAY,
  customer: 'Bram T.',
  claim: 'four kilowatts, "at least"',
  intake: { Tyres: '195/50, 230 kPa', Oil: '0W-30; fresh' },
  modelCard: { ...USUAL_DAY.modelCard, label: 'Tarn Vireo 1.8', gear: '4', safeRpm: [1800, 7100] },
  plan: { ...USUAL_DAY.plan, startAt: '2026-05-02T08:00:00.000Z', forecastC: [12, 15.5] },
  abortLimits: [{ channel: 'charge_c', warn: 75, stop: 85, side: 'above' }],
  fittings: [
    {
      setup: 'B',
      who: 'Ines R.',
      startedAt: '2026-05-02T09:00:00.000Z',
      stoppedAt: '2026-05-02T09:45:00.000Z',
      changed: 'part fitted: pump',
      disturbed: 'belt cover, "two clips"',
      parts: 'pump\nbracket',
      cost: 340,
      notes: '',
    },
  ],
  cannotBeUndone: null,
};
const job: Job = {
  ...newJob('QG-1', 'Does it help?'),
  question: { ...newJob('', '').question, text: 'Does it help?' },
  setups: [newSetup('A', 'as arrived'), newSetup('B', 'pump', 'A')],
  method: { ...newJob('', '').method, name: 'Claims for print', gates: { intakeC: 2 }, schools: { hood: 'open' } },
  day,
  pulls: ['A', 'B'].flatMap((setup) =>
    [1, 2, 3].map((k) => ({
      ...newPull(`${setup}-${k}`, setup, k),
      startedAt: `2026-05-02T0${setup === 'A' ? 8 : 9}:5${k}:00.000Z`,
      ...(k === 2 ? { heldS: { intakeC: 95, interval: 120 } } : {}),
      ...(k === 3
        ? { marks: ['Gate overridden (No time left): Oil: 1.0 °C too warm', 'set aside after seeing the result'] }
        : {}),
      channels: [
        { name: 'engine_rpm', values: Float64Array.from({ length: 40 }, (_, i) => 2000 + 100 * i) },
        { name: 'wheel_power_w', values: Float64Array.from({ length: 40 }, (_, i) => 40_000 + 900 * i) },
      ],
    })),
  ),
};
const log = ['Opened the job.', 'Overrode the gate, because: "no time"', 'Set B-3 aside'].reduce<EvidenceRow[]>(
  (rows, what, i) => [
    ...rows,
    linked(rows.at(-1) ?? null, {
      at: `2026-05-02T08:0${i}:00.000Z`,
      person: 'Ines R.',
      kind: 'edit',
      what,
      detail: '',
    }),
  ],
  [],
);

let whole: PackageFiles;
let zipped: Uint8Array;
beforeAll(async () => {
  whole = writePackage(job, undefined, log);
  zipped = await zip(whole);
});

describe('what a day in the bay leaves in the package', () => {
  test('papers of the day, method, marks and evidence come back to the letter', async () => {
    const files = await unzip(zipped);
    const { job: back } = readPackage(files);
    expect(back.day).toEqual(day);
    expect(back.method).toEqual(job.method);
    expect(back.pulls.map((p) => p.marks)).toEqual(job.pulls.map((p) => p.marks));
    expect(back.pulls.map((p) => p.heldS)).toEqual(job.pulls.map((p) => p.heldS));
    const text = new TextDecoder().decode(files.get('pulls.csv'));
    for (const cell of ['interval', 'interval:', 'interval:-4', 'two words:3', '9:9']) {
      const odd = new TextEncoder().encode(text.replace('intakeC:95 interval:120', cell));
      expect(() => readPackage(new Map(files).set('pulls.csv', odd))).toThrow(
        /held_s ".*" is not a gate and its seconds/,
      );
    }
    for (const [cell, why] of [
      ['interval:1 oilC:2 interval:3', /names a gate twice/],
      [Array.from({ length: 41 }, (_, k) => `g${k}:1`).join(' '), /names 41 gates; at most 40/],
    ] as const) {
      const odd = new TextEncoder().encode(text.replace('intakeC:95 interval:120', cell));
      expect(() => readPackage(new Map(files).set('pulls.csv', odd))).toThrow(why);
    }
    const events = readEvents(files.get('events.csv')!);
    expect(events).toEqual(log);
    expect(brokenRow(events)).toBeNull();
    // Writing what was read gives the same bytes: nothing is lost, invented or reordered.
    const again = writePackage(back, readPackage(files).extras, events);
    for (const [path, bytes] of whole) expect(Buffer.from(again.get(path)!).equals(Buffer.from(bytes))).toBe(true);
  });

  test('every resource is declared with a schema whose fields are the columns of its file (Frictionless Data Package v1)', () => {
    const descriptor = JSON.parse(new TextDecoder().decode(whole.get('datapackage.json'))) as {
      profile: string;
      resources: {
        name: string;
        path: string;
        profile: string;
        schema: { fields: { name: string; type: string }[] };
      }[];
    };
    expect(descriptor.profile).toBe('tabular-data-package');
    expect(descriptor.resources.map((r) => r.path).sort()).toEqual(
      [...whole.keys()].filter((p) => p !== 'datapackage.json').sort(),
    );
    expect(new Set(descriptor.resources.map((r) => r.name)).size).toBe(descriptor.resources.length);
    for (const { name, path, profile, schema } of descriptor.resources) {
      expect(name).toMatch(/^[a-z0-9._-]+$/);
      expect(profile).toBe('tabular-data-resource');
      const header = new TextDecoder().decode(whole.get(path)).split('\r\n')[0]!.split(',');
      expect(schema.fields.map((f) => f.name)).toEqual(header);
    }
  });

  test('papers of the day that are half there are filled with the usual', () => {
    const descriptor = JSON.parse(new TextDecoder().decode(whole.get('datapackage.json'))) as {
      prandel: { day: object };
    };
    descriptor.prandel.day = {
      customer: 'Oda L.',
      modelCard: { sensors: { oil: false } },
      intake: { Tyres: 5, Oil: 'x' },
    };
    const files = new Map(whole).set('datapackage.json', new TextEncoder().encode(JSON.stringify(descriptor)));
    expect(readPackage(files).job.day).toEqual({
      ...USUAL_DAY,
      customer: 'Oda L.',
      intake: { Oil: 'x' },
      modelCard: { ...USUAL_DAY.modelCard, sensors: { intake: true, coolant: true, oil: false } },
    });
  });
});

describe('damaged packages', () => {
  const orReason = (work: () => unknown) => {
    try {
      work();
    } catch (error) {
      expect(error).toBeInstanceOf(UnreadableError);
      expect((error as Error).message.length).toBeGreaterThan(10);
    }
  };

  test('bytes flipped, cut or doubled anywhere are read or refused in words, never worse (property)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.nat(),
        fc.integer({ min: 1, max: 255 }),
        fc.constantFrom('flip', 'cut', 'double'),
        async (place, mask, how) => {
          const at = place % zipped.length;
          const bytes =
            how === 'cut'
              ? zipped.slice(0, at)
              : how === 'double'
                ? Uint8Array.from([...zipped.slice(0, at), ...zipped.slice(Math.floor(at / 2))])
                : zipped.map((b, i) => (i === at ? b ^ mask : b));
          let files: PackageFiles | null = null;
          try {
            files = await unzip(bytes);
          } catch (error) {
            expect(error).toBeInstanceOf(UnreadableError);
          }
          if (files) orReason(() => readPackage(files));
        },
      ),
      { numRuns: 150 },
    );
  });

  test('any cell of any table replaced by any text: a number that is believed is the number that stands there (property)', () => {
    const tables = ['setups.csv', 'pulls.csv'];
    fc.assert(
      fc.property(
        fc.constantFrom(...tables),
        fc.nat(),
        fc.nat(),
        fc.oneof(fc.string(), fc.constantFrom('-1', '1e999', 'NaN', '∞', '0x10', ' ')),
        (path, row, column, text) => {
          const lines = new TextDecoder().decode(whole.get(path)).trimEnd().split('\r\n');
          const r = 1 + (row % (lines.length - 1));
          const header = lines[0]!.split(',');
          const c = column % header.length;
          // Only rows without quoted cells are cut at their commas.
          fc.pre(!lines[r]!.includes('"'));
          const cells = lines[r]!.split(',');
          cells[c] = /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
          lines[r] = cells.join(',');
          const files = new Map(whole).set(path, new TextEncoder().encode(lines.join('\r\n')));
          orReason(() => {
            const { job: back } = readPackage(files);
            expect(back.pulls).toHaveLength(job.pulls.length);
            for (const pull of back.pulls)
              for (const value of Object.values(pull))
                if (typeof value === 'number') expect(Number.isFinite(value)).toBe(true);
            if (path === 'pulls.csv' && header[c] === 'air_c' && text.trim() !== '') {
              expect(back.pulls[r - 1]!.airC).toBe(Number(text));
            }
          });
        },
      ),
      { numRuns: 300 },
    );
  });

  test('what a bay learned is taken whole or refused by its name, never believed half', () => {
    const even = (n: number) => Array.from({ length: n }, () => 1 / n);
    const rows = (value: number) => Array.from({ length: 5 }, () => Array.from({ length: 7 }, () => value));
    const medians = { scatter: 0.3, mount: 0.1, drift: 0.2 };
    const power = { scatter: even(16), mountDrift: rows(1 / 35), medians };
    const bears = (prior: unknown) => {
      const files: PackageFiles = new Map(writePackage(job));
      const descriptor = JSON.parse(new TextDecoder().decode(files.get('datapackage.json'))) as {
        prandel: { bay: Record<string, unknown> };
      };
      descriptor.prandel.bay.prior = prior;
      files.set('datapackage.json', new TextEncoder().encode(JSON.stringify(descriptor)));
      return () => readPackage(files).job.bay.prior;
    };
    const prior = { jobs: 6, returnChecks: 4, learned: { power } };
    expect(bears(prior)()).toEqual(prior);
    expect(bears(null)()).toBeNull();
    const wrong: unknown[] = [
      'calm',
      [],
      { ...prior, jobs: -1 },
      { ...prior, returnChecks: 0.5 },
      { ...prior, learned: { noise: power } },
      { ...prior, learned: { power: { ...power, scatter: even(15) } } },
      { ...prior, learned: { power: { ...power, scatter: [...even(15), -1] } } },
      { ...prior, learned: { power: { ...power, mountDrift: rows(1) } } },
      { ...prior, learned: { power: { ...power, medians: { ...medians, drift: 0 } } } },
    ];
    for (const own of wrong) expect(bears(own)).toThrow(/bay\.prior is not what a bay learned/);
  });

  test('a file taken away is named', () => {
    for (const path of [
      'datapackage.json',
      'setups.csv',
      'pulls.csv',
      [...whole.keys()].find((p) => p.startsWith('channels/'))!,
    ]) {
      const files = new Map([...whole].filter(([p]) => p !== path));
      expect(() => readPackage(files)).toThrow(new RegExp(path.replace(/.*\//, '').replaceAll('.', '\\.')));
    }
  });
});
