import Papa from 'papaparse';
import { implausible, implausibleInstant, implausibleText, LIMITS, type PlausibleQuantity } from '@prandel/core';
import { UnreadableError } from '../problem.ts';

/** A CSV resource as records, with the line on which each begins and where it came from. */
export interface Records {
  readonly path: string;
  readonly header: readonly string[];
  readonly rows: readonly Readonly<Record<string, string>>[];
}

/** @throws UnreadableError naming the resource when it is not a table */
export function parseRecords(path: string, bytes: Uint8Array, most: number): Records {
  const text = new TextDecoder('utf-8').decode(bytes).replace(/^\uFEFF/, '');
  const { data, meta, errors } = Papa.parse<Record<string, string>>(text, {
    header: true,
    delimiter: ',',
    skipEmptyLines: true,
    transformHeader: (name) => name.trim(),
  });
  const broken = errors.find((e) => e.type === 'Quotes' || e.code === 'TooManyFields');
  if (broken) throw new UnreadableError(`${path}, line ${(broken.row ?? 0) + 2}: ${broken.message}.`);
  if (!meta.fields || meta.fields.length === 0) throw new UnreadableError(`${path} has no header row.`);
  if (data.length > most) throw new UnreadableError(`${path} has ${data.length} rows; at most ${most} are read.`);
  const long = meta.fields.find((name) => name.length > LIMITS.headerCellCharacters);
  if (long) throw new UnreadableError(`${path} has a column name of ${long.length} characters.`);
  return { path, header: meta.fields, rows: data };
}

/** Reads typed cells of one record and names the place in every error. */
export class RecordReader {
  constructor(
    private readonly records: Records,
    private readonly index: number,
  ) {}

  get line(): number {
    return this.index + 2;
  }

  fail(message: string): never {
    throw new UnreadableError(`${this.records.path}, line ${this.line}: ${message}`, [
      { line: this.line, message: `${this.records.path}: ${message}` },
    ]);
  }

  text(column: string): string | null {
    const cell = this.records.rows[this.index]![column]?.trim() ?? '';
    const wrong = implausibleText(cell);
    if (wrong) this.fail(`${column} holds ${wrong}.`);
    return cell === '' ? null : cell;
  }

  /** Whether the table has the column at all. */
  has(column: string): boolean {
    return this.records.header.includes(column);
  }

  required(column: string): string {
    return this.text(column) ?? this.fail(`${column} is empty.`);
  }

  /** A name under which the row is kept. */
  key(column: string): string {
    const id = this.required(column);
    if (id.length > 120 || id === '__proto__') this.fail(`${column} "${id.slice(0, 40)}" cannot be a name.`);
    return id;
  }

  number(column: string, low = -Infinity, high = Infinity, hint = ''): number | null {
    const cell = this.text(column);
    if (cell === null) return null;
    const value = cell.length > LIMITS.numberCellCharacters ? NaN : Number(cell);
    if (!Number.isFinite(value)) this.fail(`${column} "${cell.slice(0, 40)}" is not a number.`);
    if (value < low || value > high)
      this.fail(`${column} ${cell} is outside ${low}–${high}${hint ? `; ${hint}` : ''}.`);
    return value;
  }

  /** A number that can be what it is said to be. */
  plausible(column: string, quantity: PlausibleQuantity): number | null {
    const value = this.number(column);
    const wrong = value === null ? null : implausible(quantity, value);
    return wrong ? this.fail(`${column}: ${wrong}.`) : value;
  }

  flag(column: string): boolean {
    const cell = this.text(column)?.toLowerCase();
    return cell === 'true' || cell === '1' || cell === 'yes';
  }

  instant(column: string): string | null {
    const cell = this.text(column);
    const wrong = cell === null ? null : implausibleInstant(cell);
    return wrong ? this.fail(`${column}: ${wrong}.`) : cell;
  }

  /** Cells of columns that this version does not know. */
  unknown(known: readonly string[]): Record<string, string> {
    return Object.fromEntries(
      this.records.header
        .filter((name) => !known.includes(name))
        .map((name) => [name, this.records.rows[this.index]![name] ?? '']),
    );
  }
}

/** Writes records as RFC 4180 CSV with CRLF. */
export function formatRecords(
  header: readonly string[],
  rows: readonly Readonly<Record<string, string | number | boolean | null | undefined>>[],
): string {
  const cells = rows.map((row) => header.map((name) => cellText(row[name])));
  return Papa.unparse({ fields: [...header], data: cells }, { newline: '\r\n' }) + '\r\n';
}

function cellText(value: string | number | boolean | null | undefined): string {
  if (value === null || value === undefined || (typeof value === 'number' && Number.isNaN(value))) return '';
  return String(value);
}
