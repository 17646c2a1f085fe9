import Papa from 'papaparse';
import { UnreadableError } from '../problem.ts';

/** A CSV resource as records, with the line on which each begins and where it came from. */
export interface Records {
  readonly path: string;
  readonly header: readonly string[];
  readonly rows: readonly Readonly<Record<string, string>>[];
}

/** @throws UnreadableError naming the resource when it is not a table */
export function parseRecords(path: string, bytes: Uint8Array): Records {
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
    return cell === '' ? null : cell;
  }

  required(column: string): string {
    return this.text(column) ?? this.fail(`${column} is empty.`);
  }

  number(column: string, low = -Infinity, high = Infinity, hint = ''): number | null {
    const cell = this.text(column);
    if (cell === null) return null;
    const value = Number(cell);
    if (!Number.isFinite(value)) this.fail(`${column} "${cell}" is not a number.`);
    if (value < low || value > high)
      this.fail(`${column} ${cell} is outside ${low}–${high}${hint ? `; ${hint}` : ''}.`);
    return value;
  }

  flag(column: string): boolean {
    const cell = this.text(column)?.toLowerCase();
    return cell === 'true' || cell === '1' || cell === 'yes';
  }

  instant(column: string): string | null {
    const cell = this.text(column);
    if (cell !== null && Number.isNaN(Date.parse(cell)))
      this.fail(`${column} "${cell}" is not a date and time (ISO 8601).`);
    return cell;
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
