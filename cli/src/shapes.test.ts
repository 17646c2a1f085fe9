import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Job } from '@prandel/core';
import { unzip, zip, type FileSummary } from '@prandel/formats';
import {
  demoJobs,
  foreignFile,
  foreignPeakKw,
  foreignPull,
  PLAIN_SHAPE,
  type ForeignPull,
  type Shape,
} from '@prandel/simulator';
import fc from 'fast-check';
import writeWorkbook from 'write-excel-file/node';
import { readCommand } from './read.ts';

// Every shape in which software of unknown make writes pulls must read to the same curves, moments and weather, without hand-editing.
const job: Job = demoJobs()[0]!;
const pulls: ForeignPull[] = job.pulls
  .filter((p) => p.setupId === 'A' && p.startedAt !== null)
  .slice(0, 3)
  .map((p) => foreignPull(job, p, 120));

let folder = '';
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shapes-'));
});
afterAll(() => rm(folder, { recursive: true }));

async function read(name: string, bytes: Uint8Array): Promise<FileSummary> {
  const path = join(folder, name);
  await writeFile(path, bytes);
  const lines: string[] = [];
  await readCommand([path], (line) => lines.push(line));
  return JSON.parse(lines[0]!) as FileSummary;
}

/** What no software writes, and what no reader could tell: the rest must be read. */
function sensible(shape: Shape): Shape {
  const several = shape.arrangement !== 'one';
  const beside = shape.arrangement.startsWith('side-by-side');
  return {
    ...shape,
    // A decimal comma between commas needs quotation marks, and cells between blanks hold none.
    decimal: shape.separator === ',' ? '.' : shape.decimal,
    units: shape.separator === 'blanks' && shape.units === 'in cells' ? 'in a row' : shape.units,
    // Blanks cannot show a missing cell, nor a name with blanks in it.
    ...(shape.separator === 'blanks' && several ? { arrangement: 'blocks' as const } : {}),
    ...(shape.separator === 'blanks' && shape.clock === 'time of day' ? { clock: 'elapsed' as const } : {}),
    // A speed axis is told by its ratio, and that stands in a line of its own.
    axis: shape.axis === 'road speed' && shape.about === 'none' ? 'rpm' : shape.axis,
    // Side by side, one time of day would stand in every pull.
    ...(beside ? { coastDown: false } : {}),
    results: shape.results && !several,
    about: shape.separator === 'blanks' && shape.about !== 'none' ? 'key: value' : shape.about,
  };
}

const shapes = fc
  .record<Shape>({
    arrangement: fc.constantFrom('one', 'blocks', 'named', 'side-by-side', 'side-by-side in the header'),
    separator: fc.constantFrom(',', ';', '\t', 'blanks'),
    decimal: fc.constantFrom('.', ','),
    about: fc.constantFrom('none', 'key: value', 'key;value', 'quoted'),
    aboutStands: fc.constantFrom('above', 'below'),
    units: fc.constantFrom('in the header', 'in a row', 'in cells'),
    axis: fc.constantFrom('rpm', 'rpm x1000', 'road speed'),
    gives: fc.constantFrom('power', 'torque', 'both'),
    clock: fc.constantFrom('none', 'elapsed', 'time of day'),
    language: fc.constantFrom('en', 'de'),
    results: fc.boolean(),
    coastDown: fc.boolean(),
    corrected: fc.boolean(),
    encoding: fc.constantFrom('utf-8', 'utf-16le', 'windows-1252'),
  })
  .map(sensible);

function check(shape: Shape, summary: FileSummary): void {
  expect(summary.problems).toEqual([]);
  const own = shape.arrangement === 'one' ? pulls.slice(0, 1) : pulls;
  const expected = {
    one: 'one',
    blocks: 'blocks',
    named: 'named',
    'side-by-side': 'side-by-side',
    'side-by-side in the header': 'side-by-side',
  }[shape.arrangement];
  expect([summary.arrangement, summary.pulls.length]).toEqual([expected, own.length]);
  summary.pulls.forEach((pull, k) => {
    const made = own[k]!;
    // SAE J1349, as printed beside it.
    const factor = shape.corrected ? 1.18 * (990 / dry(made)) * Math.sqrt((made.air.airC + 273) / 298) - 0.18 : 1;
    expect(pull.peakPowerW! / 1000 / factor).toBeCloseTo(foreignPeakKw(made), shape.gives === 'torque' ? 0 : 1);
    if (shape.arrangement !== 'one') expect(pull.name).toContain(made.name.split(' ').at(-1)!);
    if (shape.about !== 'none') {
      expect(pull.stated.airC?.value).toBeCloseTo(pulls[0]!.air.airC, 1);
      expect(pull.stated.pressureHpa?.value).toBeCloseTo(pulls[0]!.air.pressureHpa, 1);
      expect(pull.stated.relativeHumidity?.value).toBeCloseTo(pulls[0]!.air.relativeHumidity, 2);
      expect(pull.stated.state?.kind).toBe(shape.corrected ? 'corrected' : 'uncorrected');
      if (shape.corrected) expect(pull.stated.state).toMatchObject({ standard: 'sae-j1349' });
    }
    const dated = shape.about !== 'none';
    if (dated && (shape.arrangement === 'one' || shape.arrangement === 'blocks' || shape.clock === 'time of day'))
      expect(pull.recorded?.local).toBe(made.local);
  });
}

/** Pressure of the dry air, hPa: Magnus as in the handbook's air, rounded as it is printed. */
const dry = ({ air }: ForeignPull) =>
  air.pressureHpa - air.relativeHumidity * 6.1094 * Math.exp((17.625 * air.airC) / (air.airC + 243.04));

describe('shapes of files', () => {
  test('a hundred and fifty drawn at random', async () => {
    let n = 0;
    await fc.assert(
      fc.asyncProperty(shapes, async (shape) => {
        n += 1;
        const own = shape.arrangement === 'one' ? pulls.slice(0, 1) : pulls;
        check(shape, await read(`shape-${n}.txt`, foreignFile(own, shape)));
      }),
      { numRuns: 150 },
    );
    expect(n).toBeGreaterThanOrEqual(150);
  });

  test('a workbook: the sheet with the numbers, dates as dates, formulas as what they came to, merged cells', async () => {
    const made = pulls[0]!;
    const at = new Date(`${made.local}Z`);
    const head = [
      [{ value: 'Recorded' }, { value: at, type: Date, format: 'yyyy-mm-dd hh:mm:ss' }],
      [{ value: 'Air temperature', span: 2 }, null, { value: `${made.air.airC.toFixed(1)} °C` }],
      [{ value: 'Engine speed [rpm]' }, { value: 'Power [kW]' }],
    ];
    const rows = made.rpm.map((n, i) => [{ value: n }, { value: (made.torqueNm[i]! * n * Math.PI) / 3e4 }]);
    const sheets = [
      { sheet: 'notes', data: [[{ value: 'Notes of nobody' }]] },
      { sheet: 'pull', data: [...head, ...rows] },
    ];
    const file = await writeWorkbook(sheets as never).toBuffer();
    const summary = await read('pull.xlsx', file);
    expect(summary).toMatchObject({ written: 'workbook', arrangement: 'one', problems: [] });
    expect(summary.pulls[0]!.peakPowerW! / 1000).toBeCloseTo(foreignPeakKw(made), 2);
    expect(summary.pulls[0]!.recorded?.local).toBe(made.local);
  });

  test('cells with formulas give what they came to; a workbook that unpacks to hundreds of megabytes is refused before it does', async () => {
    const made = pulls[0]!;
    const rows = made.rpm.map((n, i) => [{ value: n }, { value: (made.torqueNm[i]! * n * Math.PI) / 3e4 }]);
    const head = [{ value: 'Engine speed [rpm]' }, { value: 'Power [kW]' }];
    const plain = await writeWorkbook([{ sheet: 'pull', data: [head, ...rows] }] as never).toBuffer();
    const parts = await unzip(plain);
    const name = [...parts.keys()].find((n) => n.startsWith('xl/worksheets/'))!;
    const sheet = Buffer.from(parts.get(name)!).toString();
    parts.set(name, Buffer.from(sheet.replaceAll(/(<c r="B[^>]*>)(<v>)/g, '$1<f>A2*2</f>$2')));
    const summary = await read('formulas.xlsx', await zip(parts));
    expect(summary.problems).toEqual([]);
    expect(summary.pulls[0]!.peakPowerW! / 1000).toBeCloseTo(foreignPeakKw(made), 2);
    parts.set(name, Buffer.alloc(70 * 1024 * 1024, ' '));
    const bomb = await read('bomb.xlsx', await zip(parts));
    expect([bomb.pulls, bomb.problems[0]!.message]).toEqual([
      [],
      'The workbook unpacks to more than 60 MB and was refused.',
    ]);
  });

  test('a speed axis without its ratio says what is missing', async () => {
    const { problems } = await read(
      'speed.csv',
      foreignFile(pulls.slice(0, 1), { ...PLAIN_SHAPE, axis: 'road speed', about: 'none' }),
    );
    expect(problems[0]!.message).toBe('The pull is over road speed: say how many rpm the engine turns at 1 km/h.');
  });
});
