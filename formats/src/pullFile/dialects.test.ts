import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { summariseFile } from './summary.ts';

/** How one shop's software writes a pull; every combination must read to the same curve. */
interface Dialect {
  readonly delimiter: ',' | ';' | '\t';
  readonly decimal: '.' | ',';
  readonly lineEnd: '\n' | '\r\n' | '\r';
  readonly encoding: 'utf-8' | 'utf-8 with mark' | 'utf-16le' | 'windows-1252';
  readonly power: 'kW' | 'hp' | 'PS';
  readonly torque: 'Nm' | 'lb-ft' | 'none';
  readonly header: 'in brackets' | 'in parentheses' | 'units row';
  readonly above: number;
  readonly blankCells: boolean;
  readonly quotes: boolean;
  readonly order: readonly number[];
}

const dialects: fc.Arbitrary<Dialect> = fc
  .record({
    delimiter: fc.constantFrom<Dialect['delimiter'][]>(',', ';', '\t'),
    decimal: fc.constantFrom<Dialect['decimal'][]>('.', ','),
    lineEnd: fc.constantFrom<Dialect['lineEnd'][]>('\n', '\r\n', '\r'),
    encoding: fc.constantFrom<Dialect['encoding'][]>('utf-8', 'utf-8 with mark', 'utf-16le', 'windows-1252'),
    power: fc.constantFrom<Dialect['power'][]>('kW', 'hp', 'PS'),
    torque: fc.constantFrom<Dialect['torque'][]>('Nm', 'lb-ft', 'none'),
    header: fc.constantFrom<Dialect['header'][]>('in brackets', 'in parentheses', 'units row'),
    above: fc.integer({ min: 0, max: 4 }),
    blankCells: fc.boolean(),
    quotes: fc.boolean(),
    order: fc.shuffledSubarray([0, 1, 2, 3], { minLength: 4, maxLength: 4 }),
  })
  // A decimal comma between commas needs quotation marks, as every writer of such files knows.
  .map((d) => (d.delimiter === ',' && d.decimal === ',' ? { ...d, quotes: true } : d));

// NIST SP 811: 1 mechanical horsepower 745.69987158 W, 1 PS 735.49875 W, 1 lbf·ft 1.3558179483 N·m.
const WATTS = { kW: 1000, hp: 745.69987158, PS: 735.49875 };
const NEWTON_METRES = { Nm: 1, 'lb-ft': 1.3558179483, none: 1 };

const RPM = Array.from({ length: 70 }, (_, i) => 1800 + 75 * i);
/** Invented engine with its peak inside the range. */
const torqueAt = (rpm: number) => 168 - 36 * ((rpm - 4200) / 2000) ** 2;
const powerAt = (rpm: number) => (torqueAt(rpm) * rpm * Math.PI) / 30;

function written(d: Dialect): Uint8Array {
  const number = (value: number, digits: number) => value.toFixed(digits).replace('.', d.decimal);
  const cell = (text: string) => (d.quotes ? `"${text}"` : text);
  const units = ['rpm', d.power, d.torque, '°C'];
  const names = ['Engine speed', 'Power', 'Torque', 'Coolant temp'];
  const columns = d.order.filter((c) => c !== 2 || d.torque !== 'none');
  const titles = columns.map((c) =>
    d.header === 'units row'
      ? names[c]!
      : d.header === 'in brackets'
        ? `${names[c]} [${units[c]}]`
        : `${names[c]} (${units[c]})`,
  );
  const lines = Array.from({ length: d.above }, (_, i) => `# line ${i + 1} of the shop's own`);
  lines.push(titles.map(cell).join(d.delimiter));
  if (d.header === 'units row') lines.push(columns.map((c) => cell(units[c]!)).join(d.delimiter));
  RPM.forEach((rpm, i) => {
    const values = [
      String(rpm),
      number(powerAt(rpm) / WATTS[d.power], 5),
      number(torqueAt(rpm) / NEWTON_METRES[d.torque], 5),
      d.blankCells && i % 7 === 3 ? '' : number(88 + i / 50, 2),
    ];
    lines.push(columns.map((c) => (values[c] === '' ? '' : cell(values[c]!))).join(d.delimiter));
  });
  const text = lines.join(d.lineEnd) + d.lineEnd;
  switch (d.encoding) {
    case 'utf-8':
      return new TextEncoder().encode(text);
    case 'utf-8 with mark':
      return new TextEncoder().encode('\uFEFF' + text);
    case 'utf-16le':
      return Uint8Array.from(Buffer.from('\uFEFF' + text, 'utf16le'));
    case 'windows-1252':
      return Uint8Array.from(Buffer.from(text, 'latin1'));
  }
}

const peakRpm = RPM.reduce((best, rpm) => (powerAt(rpm) > powerAt(best) ? rpm : best));
const peakTorqueRpm = RPM.reduce((best, rpm) => (torqueAt(rpm) > torqueAt(best) ? rpm : best));

describe('the same pull in any dialect', () => {
  test('reads to the same peak, at the same engine speed, without a problem (property)', () => {
    fc.assert(
      fc.property(dialects, (d) => {
        const { pulls, problems, delimiter, columns } = summariseFile('pull.csv', written(d));
        expect(problems).toEqual([]);
        expect(delimiter).toBe(d.delimiter);
        expect(pulls).toHaveLength(1);
        const [pull] = pulls;
        expect(pull).toMatchObject({ rows: RPM.length, rpmFrom: RPM[0], rpmTo: RPM.at(-1) });
        // Five decimals of a horsepower are under a hundredth of a watt.
        expect(Math.abs(pull!.peakPowerW! - powerAt(peakRpm))).toBeLessThan(0.02);
        expect(pull!.peakPowerRpm).toBe(peakRpm);
        expect(Math.abs(pull!.peakTorqueNm! - torqueAt(peakTorqueRpm))).toBeLessThan(0.001);
        expect(pull!.peakTorqueRpm).toBe(peakTorqueRpm);
        for (const [name, unit] of [
          ['Power', d.power],
          ['Coolant temp', '°C'],
        ] as const)
          expect(columns.find((c) => c.name.startsWith(name))?.unit).toBe(unit);
      }),
      { numRuns: 250 },
    );
  });

  test('one word where a number belongs is told with its line, whatever the dialect (property)', () => {
    fc.assert(
      fc.property(dialects, fc.integer({ min: 5, max: 60 }), (d, row) => {
        const plain = { ...d, encoding: 'utf-8', torque: 'none', blankCells: false } as const;
        const lines = new TextDecoder().decode(written(plain)).split(plain.lineEnd);
        const first = plain.above + (plain.header === 'units row' ? 2 : 1);
        const place = plain.order.filter((c) => c !== 2).indexOf(1);
        const cells = lines[first + row]!.split(plain.quotes ? `"${plain.delimiter}"` : plain.delimiter);
        cells[place] = cells[place]!.replace(/[\d.,]+/, 'oops');
        lines[first + row] = cells.join(plain.quotes ? `"${plain.delimiter}"` : plain.delimiter);
        const { problems, pulls } = summariseFile('pull.csv', new TextEncoder().encode(lines.join(plain.lineEnd)));
        expect(pulls).toEqual([]);
        expect(problems.map((p) => [p.line, p.message.includes('"oops"')])).toContainEqual([first + row + 1, true]);
      }),
      { numRuns: 120 },
    );
  });
});
