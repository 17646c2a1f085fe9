import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { UnreadableError } from '../problem.ts';
import { mapPullFile } from './mapping.ts';
import { LARGEST_FILE_BYTES, readPullFile } from './readPullFile.ts';
import { summariseFile } from './summary.ts';
import { PIECE_BYTES } from '../text/byteSource.ts';
import { parseNumber } from '../text/number.ts';

const utf8 = (text: string) => new TextEncoder().encode(text);
const utf16 = (text: string, bom = true) => Uint8Array.from(Buffer.from((bom ? '\uFEFF' : '') + text, 'utf16le'));
const latin = (text: string) => Uint8Array.from(Buffer.from(text, 'latin1'));
const sweep = Array.from({ length: 60 }, (_, i) => 2000 + 80 * i);
/** Invented engine: 100 N·m flat, so that power is T·ω. */
const kw = (rpm: number) => (100 * rpm) / 9549.2966;
const rows = (cells: (rpm: number, i: number) => (string | number)[], delimiter = ',') =>
  sweep.map((rpm, i) => cells(rpm, i).join(delimiter)).join('\n');
const peak = (bytes: Uint8Array) => summariseFile('f.csv', bytes).pulls[0]!;
const problemsOf = (text: string | Uint8Array) =>
  summariseFile('f.csv', typeof text === 'string' ? utf8(text) : text)
    .problems.map((p) => `${p.line ?? '-'}: ${p.message}`)
    .join(' | ');

describe('CSV as the world writes it', () => {
  const plain = `RPM,Power (kW),Torque [Nm]\n${rows((n) => [n, kw(n).toFixed(4), 100])}`;

  test.each<[string, Uint8Array, object]>([
    ['plain', utf8(plain), { encoding: 'utf-8', delimiter: ',', decimal: '.', headerLine: 1 }],
    ['byte order mark and CRLF', utf8('\uFEFF' + plain.replaceAll('\n', '\r\n')), { encoding: 'utf-8', headerLine: 1 }],
    ['UTF-16 with a mark', utf16(plain), { encoding: 'utf-16le' }],
    ['UTF-16 without a mark', utf16(plain, false), { encoding: 'utf-16le' }],
    [
      'Windows-1252, semicolons, decimal comma, units row',
      latin(
        `Drehzahl;Leistung;Drehmoment;Temperatur k\xFChl\nU/min;kW;Nm;\xB0C\n${rows((n) => [n, kw(n).toFixed(4).replace('.', ','), '100,0', '88,5'], ';')}`,
      ),
      { encoding: 'windows-1252', delimiter: ';', decimal: ',', headerLine: 1 },
    ],
    [
      'tabs and comment lines above',
      utf8(
        `# bench export\n# car: invented\n\nEngine speed\tPower\tTorque\nrpm\tkW\tN.m\n${rows((n) => [n, kw(n).toFixed(4), 100], '\t')}`,
      ),
      { delimiter: '\t', headerLine: 4 },
    ],
    [
      'thousands separators',
      utf8(
        `rpm;kW;Nm\n${rows((n) => [`${Math.floor(n / 1000)} ${String(n % 1000).padStart(3, '0')}`, kw(n).toFixed(4), '100.0'], ';')}`,
      ),
      { delimiter: ';', decimal: '.' },
    ],
    [
      'horsepower and pound-feet',
      utf8(
        `rpm,Power (hp),Torque (lb-ft)\n${rows((n) => [n, (kw(n) / 0.74569987158).toFixed(5), (100 / 1.3558179483).toFixed(5)])}`,
      ),
      {},
    ],
    [
      'units nowhere: settled by P = T·ω',
      utf8(
        `RPM,Power,Torque\n${rows((n) => [n, (kw(n) / 0.74569987158).toFixed(5), (100 / 1.3558179483).toFixed(5)])}`,
      ),
      {},
    ],
  ])('%s', (_, bytes, expected) => {
    const summary = summariseFile('f.csv', bytes);
    expect(summary).toMatchObject({ ...expected, problems: [] });
    expect(summary.pulls).toHaveLength(1);
    expect(peak(bytes)).toMatchObject({ rows: 60, rpmFrom: 2000, rpmTo: 6720, peakPowerRpm: 6720 });
    expect(peak(bytes).peakPowerW! / (1000 * kw(6720))).toBeCloseTo(1, 3);
    expect(peak(bytes).peakTorqueNm).toBeCloseTo(100, 1);
  });

  test('clock times, milliseconds, missing cells and rpm that wavers', () => {
    const text =
      `Time,RPM,Power (kW),IAT_C\n${rows((n, i) => [`10:59:${String(57 + i * 0.05).slice(0, 5)}`, n + (i % 2 ? -30 : 0), kw(n).toFixed(3), i % 3 ? '' : 31.5])}`.replace(
        /10:59:(6\d)/g,
        (__, s) => `11:00:0${Number(s) - 60}`,
      );
    const file = readPullFile(utf8(text));
    expect(file.columns.map((c) => [c.role, c.unit])).toEqual([
      ['time', 'hh:mm:ss'],
      ['engineSpeed', 'rpm'],
      ['wheelPower', 'kW'],
      ['intakeAir', '°C'],
    ]);
    const [pull] = mapPullFile(file, file.columns);
    const time = pull!.channels.find((c) => c.name === 'time_s')!.values;
    expect(time[0]).toBe(0);
    expect(time[59]).toBeCloseTo(2.95, 1);
    expect(pull!.start.intakeStartC).toBe(31.5);
    expect(pull!.channels.find((c) => c.name === 'intake_c')!.values[1]).toBeNaN();
  });

  test('many pulls: by a column that names them, and by repeated header blocks', () => {
    const named = `run,rpm,kW\n${['a', 'b', 'c'].map((id) => rows((n) => [id, n, kw(n).toFixed(3)])).join('\n')}`;
    expect(summariseFile('f', utf8(named)).pulls.map((p) => [p.name, p.rows])).toEqual([
      ['a', 60],
      ['b', 60],
      ['c', 60],
    ]);
    const block = (k: number) => `Run ${k}\nrpm,kW\n${rows((n) => [n, kw(n).toFixed(3)])}`;
    expect(summariseFile('f', utf8([1, 2, 3].map(block).join('\n\n'))).pulls.map((p) => [p.name, p.rows])).toEqual([
      ['Run 1', 60],
      ['Run 2', 60],
      ['Run 3', 60],
    ]);
  });
});

describe('bad input is answered with what is wrong and where', () => {
  test.each<[string, string | Uint8Array, RegExp]>([
    ['empty', '', /file is empty/],
    ['blank', '  \n \n', /nothing but blanks/],
    ['binary', Uint8Array.from({ length: 4000 }, (_, i) => (i * 7919) % 256), /binary file/],
    ['one column', 'rpm\n2000\n3000\n4000', /one column/i],
    ['words only', 'a,b\nc,d\ne,f', /No rows of numbers/],
    ['rpm missing', `Boost (bar),Power (kW)\n${rows((_, i) => [(i % 7) / 10, 50])}`, /No column is engine speed/],
    ['power missing', `rpm,IAT_C\n${rows((n) => [n, 30])}`, /No column is wheel power/],
    ['negative rpm', `rpm,kW\n${rows((n, i) => [i === 4 ? -n : n, 50])}`, /^6: Negative engine speed/],
    ['zero rpm throughout', `rpm,kW\n${rows(() => [0, 50])}`, /No engine speed above zero/],
    ['all rows equal', `rpm,kW\n${rows(() => [3000, 50])}`, /all rows are equal/],
    [
      'unit nonsense',
      `rpm,Torque (Nm)\n${rows((n) => [n, 40000])}`,
      /^2: 40000 N·m is outside -10000–10000 N·m for wheel torque: is the unit right/,
    ],
    [
      'a word in a number column',
      `rpm,kW\n${rows((n, i) => [n, i === 2 ? 'abc' : 50])}`,
      /^4: "abc" in column "kW" is not a number/,
    ],
  ])('%s', (_, input, message) => {
    expect(problemsOf(input)).toMatch(message);
    expect(summariseFile('f', typeof input === 'string' ? utf8(input) : input).pulls).toEqual([]);
  });

  test('too many rows and too many bytes are refused before they hurt', () => {
    // Rows are counted while they are read, whatever ends a line.
    expect(() => readPullFile(utf8('rpm,kW\r' + '2000,50\r'.repeat(2_000_001)))).toThrow(
      /more than 2 million rows \(line 2000002\)/,
    );
    const huge = { size: LARGEST_FILE_BYTES + 1, read: () => utf8('rpm,kW') };
    expect(() => readPullFile(huge)).toThrow(/at most 200 MB/);
    const pulls = Array.from({ length: 201 }, (_, i) => `p${i},2000,50`).join('\n');
    expect(() => readPullFile(utf8(`run,rpm,kW\n${pulls}`))).toThrow(/more than 200 pulls/);
    expect(() =>
      readPullFile(utf8(`rpm,kW${',x'.repeat(400)}\n${rows((n) => [n, 50, ...Array<number>(400).fill(1)])}`)),
    ).toThrow(/402 columns; at most 256/);
    // A long name or a long number must neither hold the reader nor become a column.
    expect(() => readPullFile(utf8(`rpm,${'(a'.repeat(2000)}\n${rows((n) => [n, 50])}`))).toThrow(
      /at most 200 are read/,
    );
    expect(problemsOf(`rpm,kW\n${rows((n, i) => [n, i === 3 ? '1'.repeat(4000) : 50])}`)).toMatch(
      /^5: "1{40}" in column/,
    );
    expect(() => readPullFile(utf8(`rpm,kW\n2000,50\n2100,51\n"x,\n`))).toThrow(/quoted cell that begins in line 4/);
  });

  test('every cell is the double that its text says, whichever way it was read (property)', () => {
    const number = fc.oneof(
      fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
      fc.tuple(fc.integer(), fc.nat({ max: 999_999_999 })).map(([a, b]) => `${a}.${b}`),
      fc.stringMatching(/^-?[0-9]{1,25}(\.[0-9]{0,25})?$/),
      fc.constantFrom('', '-', '-0', '.5', '5.', '+7', '1e5', '00012', '1 234', 'nan'),
    );
    const ends = fc.constantFrom('\n', '\r\n', '\r');
    fc.assert(
      fc.property(fc.array(fc.tuple(number, number), { minLength: 3, maxLength: 30 }), ends, (cells, end) => {
        const text = `rpm,kW,x,y${end}${`1,2,3,4${end}`.repeat(2)}${cells.map(([a, b], i) => [2000 + i, 50, a, b].join(',')).join(end)}`;
        const [pull] = readPullFile(utf8(text)).pulls;
        for (const [i, row] of cells.entries())
          for (const [c, cell] of row.entries())
            expect(pull!.columns[2 + c]![2 + i]).toBe(parseNumber(cell, '.') ?? NaN);
      }),
      { numRuns: 200 },
    );
  });

  test('a file is read the same from pieces as in one, and lines keep their numbers', () => {
    const text = `Run 1;;\nrpm;kW;note\n${Array.from({ length: 90_000 }, (_, i) => `${2000 + (i % 3000)},5;${(i % 700) / 7};"a ""b"";\nc"`).join('\n')}`;
    const bytes = utf8(text);
    expect(bytes.length).toBeGreaterThan(PIECE_BYTES);
    const file = readPullFile(bytes);
    expect(file.pulls).toHaveLength(1);
    expect(file.pulls[0]!.columns[0]).toHaveLength(90_000);
    expect(file.pulls[0]!.columns[0]![89_999]).toBe(2000.5 + (89_999 % 3000));
    expect(file.pulls[0]!.lines[89_999]).toBe(3 + 2 * 89_999);
  });

  test('arbitrary bytes never crash the reader (property)', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 600 }), (bytes) => {
        try {
          const file = readPullFile(bytes);
          mapPullFile(file, file.columns);
        } catch (error) {
          expect(error).toBeInstanceOf(UnreadableError);
        }
      }),
      { numRuns: 150 },
    );
  });

  test('arbitrary tables never crash the reader (property)', () => {
    const cell = fc.oneof(
      fc.constantFrom('rpm', 'Power (kW)', 'Nm', '', '-', 'NaN', '"', '1.234,5', '12:30:01.5', '#'),
      fc.double().map(String),
      fc.string({ maxLength: 6 }),
    );
    fc.assert(
      fc.property(
        fc.array(fc.array(cell, { maxLength: 5 }), { maxLength: 30 }),
        fc.constantFrom(',', ';', '\t'),
        (table, delimiter) => {
          expect(Array.isArray(summariseFile('f', utf8(table.map((r) => r.join(delimiter)).join('\n'))).problems)).toBe(
            true,
          );
        },
      ),
      { numRuns: 150 },
    );
  });
});

describe('pulls side by side', () => {
  const both = (header: string, gap = '') =>
    `${header}\n${sweep
      .map((rpm, i) => {
        const second = i < 50 ? `${rpm + 40},${kw(rpm + 40).toFixed(4)}` : ',';
        return [rpm, kw(rpm).toFixed(4), ...(gap === '' ? [] : ['']), second].join(',');
      })
      .join('\n')}`;

  test.each([
    ['repeated names', 'RPM,Power (kW),RPM,Power (kW)', ''],
    ['numbered names', 'RPM 1,Power 1 (kW),RPM 2,Power 2 (kW)', ''],
    ['a blank column between them', 'RPM,Power (kW),,RPM,Power (kW)', 'gap'],
  ])('%s are two pulls, each with its own rows', (_, header, gap) => {
    const file = readPullFile(utf8(both(header, gap)));
    expect(file.columns.map((c) => c.role)).toEqual(['engineSpeed', 'wheelPower']);
    expect(file.pulls.map((p) => p.lines.length)).toEqual([60, 50]);
    expect(Array.from(file.pulls[0]!.columns[0]!)).toEqual(sweep);
    expect(Array.from(file.pulls[1]!.columns[0]!)).toEqual(sweep.slice(0, 50).map((rpm) => rpm + 40));
    expect(mapPullFile(file, file.columns)).toHaveLength(2);
  });

  test('the line above the header names them', () => {
    const file = readPullFile(utf8(both('before,,after,\nRPM,Power (kW),RPM,Power (kW)')));
    expect(file.pulls.map((p) => p.name)).toEqual(['before', 'after']);
  });

  test('four probes of one kind are channels of one pull', () => {
    const text = `RPM,Power (kW),EGT 1,EGT 2\n${rows((n) => [n, kw(n).toFixed(4), 700, 710])}`;
    expect(readPullFile(utf8(text)).pulls).toHaveLength(1);
  });
});
