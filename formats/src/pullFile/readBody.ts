import { LIMITS } from '@prandel/core';
import { UnreadableError, type Problem } from '../problem.ts';
import type { ByteSource } from '../text/byteSource.ts';
import { cellsOfLine, QuotedLines } from '../text/lines.ts';
import { parseClock, parseNumber, parseQuantity, type Decimal } from '../text/number.ts';
import { scanRows, type RowHandler, type ScanOptions } from '../text/rowScanner.ts';
import { unitFromWord } from './columnRole.ts';
import { fieldsOf, type Field } from './fields.ts';
import { GrowingColumns } from './growingColumns.ts';
import { blockName, isValue } from './layout.ts';
import type { ColumnGuess, PullTable } from './readPullFile.ts';

/** Values that a file may hold in all: they stand in memory as doubles. */
const MOST_VALUES = 40_000_000;
const SHOWN_PROBLEMS = 20;
/** Lines between two pulls, or below the last, that are looked at. */
const MOST_NOTES = 60;

export interface BodyOptions extends ScanOptions {
  /** Cells of the header, by which a repeated one is told; null without a header. */
  readonly header: readonly string[] | null;
  /** Cells of the line above the header. */
  readonly aboveHeader: readonly string[];
}

/**
 * Reads all rows below the header into pulls, splitting at repeated headers and at the column that names the pull.
 * @throws UnreadableError for more rows, pulls or values than can be read
 */
export function readBody(
  source: ByteSource,
  columns: readonly ColumnGuess[],
  options: BodyOptions,
): { pulls: PullTable[]; footer: Field[]; problems: Problem[] } {
  const reader = new BodyReader(columns, options);
  scanRows(source, options, reader);
  return reader.finish();
}

class BodyReader implements RowHandler {
  readonly #columns: readonly ColumnGuess[];
  readonly #decimal: Decimal;
  readonly #delimiter: string;
  readonly #headerText: string | null;
  readonly #nameColumn: number;
  readonly #quoted: QuotedLines;
  readonly #pulls = new Map<string, GrowingColumns>();
  readonly #problems: Problem[] = [];
  #problemCount = 0;
  #block = 1;
  #blockName: string | null;
  #before: readonly string[] = [];
  /** Lines that are no numbers, since the last row of numbers. */
  #notes: (readonly string[])[] = [];
  #fields: readonly Field[] = [];
  readonly #fieldsOf = new Map<string, readonly Field[]>();
  #name = '';
  #target: { key: string; columns: GrowingColumns } | null = null;
  #values = 0;

  constructor(columns: readonly ColumnGuess[], { decimal, delimiter, header, aboveHeader }: BodyOptions) {
    this.#columns = columns;
    this.#decimal = decimal;
    this.#delimiter = delimiter;
    this.#headerText = header && header.join('\u0001').toLowerCase();
    this.#blockName = header && blockName(aboveHeader);
    this.#nameColumn = columns.findIndex((c) => c.role === 'pullName');
    this.#quoted = new QuotedLines(delimiter);
  }

  row(values: Float64Array, cells: number, more: boolean, line: number): void {
    if (this.#quoted.open)
      return this.#whole(Array.from(values.subarray(0, cells), String).join(this.#delimiter), line);
    if (more) return this.#tooWide(cells, line);
    for (let i = cells; i < this.#columns.length; i += 1)
      if (this.#columns[i]!.unit === 'hh:mm:ss') values[i] = this.#valueOf('', i, line);
    this.#add(values, line);
  }

  cell(text: string, column: number, line: number): number {
    if (this.#quoted.open) return NaN;
    if (column === this.#nameColumn) this.#name = text.trim();
    return this.#valueOf(text, column, line);
  }

  text(text: string, line: number): void {
    if (text === '' && !this.#quoted.open) return;
    this.#whole(text, line);
  }

  #whole(text: string, line: number): void {
    const row = this.#quoted.push(text, line);
    if (row) this.#cells(cellsOfLine(row.text, this.#delimiter), row.line);
  }

  #cells(row: readonly string[], line: number): void {
    const before = this.#before;
    this.#before = row;
    if (this.#headerText !== null && row.join('\u0001').toLowerCase() === this.#headerText) {
      this.#block += 1;
      this.#blockName = blockName(before);
      this.#fields = fieldsOf(this.#notes);
      this.#notes = [];
      this.#target = null;
      return;
    }
    if (!startsNumeric(row) && (row.every((cell) => cell.trim() === '') || this.#isNote(row, before))) {
      if (this.#notes.length < MOST_NOTES) this.#notes.push(row);
      return;
    }
    const width = this.#columns.length;
    if (row.length > width && row.slice(width).some((cell) => cell.trim() !== ''))
      return this.#tooWide(row.length, line);
    if (this.#nameColumn >= 0) this.#name = (row[this.#nameColumn] ?? '').trim();
    this.#add(
      Float64Array.from({ length: width }, (_, i) => this.#valueOf(row[i] ?? '', i, line)),
      line,
    );
  }

  #tooWide(cells: number, line: number): void {
    this.#say(
      line,
      `${cells} cells where the header has ${this.#columns.length}: a separator too many, or a decimal comma in a comma-separated file.`,
    );
  }

  #add(values: Float64Array, line: number): void {
    // Pulls of one name in different blocks stay apart; a column that names the pull gathers its rows.
    if (this.#nameColumn >= 0) {
      const key = this.#name || this.#number(values) || `pull ${this.#block}`;
      this.#name = '';
      if (this.#target?.key !== key) this.#target = { key, columns: this.#pull(key) };
    } else if (!this.#target) {
      const key = `${this.#blockName ?? `pull ${this.#block}`}\u0000${this.#block}`;
      this.#target = { key, columns: this.#pull(key) };
    }
    const { columns } = this.#target;
    columns.push(values, line);
    this.#values += this.#columns.length;
    if (columns.rows > LIMITS.rowsPerPull)
      throw new UnreadableError(
        `A pull has more than ${LIMITS.rowsPerPull / 1e6} million rows (line ${line}). Export at a lower rate.`,
      );
    if (this.#values > MOST_VALUES)
      throw new UnreadableError(
        `The file holds more than ${MOST_VALUES / 1e6} million values (line ${line}). Export fewer channels, or one pull at a time.`,
      );
  }

  /** The name of a pull whose column holds plain numbers. */
  #number(values: Float64Array): string | null {
    const value = values[this.#nameColumn]!;
    return Number.isNaN(value) ? null : String(value);
  }

  #pull(key: string): GrowingColumns {
    const known = this.#pulls.get(key);
    if (known) return known;
    if (this.#pulls.size >= LIMITS.pullsPerFile)
      throw new UnreadableError(
        `The file holds more than ${LIMITS.pullsPerFile} pulls. Is a column of readings taken for the name of the pull? Export fewer pulls at a time.`,
      );
    const columns = new GrowingColumns(this.#columns.length);
    this.#pulls.set(key, columns);
    this.#fieldsOf.set(key, this.#fields);
    return columns;
  }

  /** Comments, units rows of later blocks and footers between or below the data. */
  #isNote(row: readonly string[], before: readonly string[]): boolean {
    if (/^\s*(#|\/\/|%|;)/.test(row[0] ?? '')) return true;
    if (
      (this.#nameColumn !== 0 || row.length < this.#columns.length) &&
      (saysSomething(row) || blockName(row) !== null)
    )
      return true;
    return (
      !row.some((cell) => isValue(cell, this.#decimal)) ||
      (row.filter((c) => c.trim() !== '').length === 1 && row.length < Math.max(before.length, this.#columns.length))
    );
  }

  #valueOf(cell: string, column: number, line: number): number {
    const { role, unit, name } = this.#columns[column]!;
    const value = unit === 'hh:mm:ss' && cell.trim() !== '' ? parseClock(cell) : parseNumber(cell, this.#decimal);
    if (value !== undefined) return value;
    const quantity = role === 'pullName' ? null : parseQuantity(cell, this.#decimal);
    const own = quantity && unitFromWord(quantity.words);
    if (quantity && own !== null && (own === unit || role === 'other' || role === 'ignore')) return quantity.value;
    if (role !== 'other' && role !== 'ignore' && role !== 'pullName')
      this.#say(line, `"${cell.trim().slice(0, 40)}" in column "${name}" is not a number.`);
    return NaN;
  }

  /** At most twenty problems are kept, with a count of the rest. */
  #say(line: number, message: string): void {
    this.#problemCount += 1;
    if (this.#problems.length < SHOWN_PROBLEMS) this.#problems.push({ line, message });
  }

  finish(): { pulls: PullTable[]; footer: Field[]; problems: Problem[] } {
    this.#quoted.end();
    const pulls = [...this.#pulls].map(([key, columns]) => ({
      ...{ name: key.split('\u0000')[0]!, fields: this.#fieldsOf.get(key) ?? [] },
      ...columns.finish(),
    }));
    const rest = this.#problemCount - this.#problems.length;
    const problems =
      rest > 0
        ? [...this.#problems, { line: null, message: `… and ${rest} more problems of this kind.` }]
        : this.#problems;
    return { pulls, footer: fieldsOf(this.#notes), problems };
  }
}

const startsNumeric = (row: readonly string[]) => row.length > 1 && /^-?\d/.test(row[0]!) && /^-?\d/.test(row[1]!);

/** Whether a line that begins with a word says one thing, as lines above the numbers do: `Air temperature;24.5`, `Run 2: 14:35`. */
const saysSomething = (row: readonly string[]) =>
  /^\W*\p{L}/u.test(row[0] ?? '') && (/[:=]/.test(row[0]!) || WEATHER_KEY.test(row[0]!)) && fieldsOf([row]).length > 0;
const WEATHER_KEY =
  /temp|press|druck|humid|feucht|correct|korrektur|factor|faktor|standard|date|datum|time|zeit|gear|gang|car|vehicle|fahrzeug/i;
