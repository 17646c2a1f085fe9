import type { Problem } from '../problem.ts';
import { UnreadableError } from '../problem.ts';
import { decodeText, type Encoding } from '../text/decode.ts';
import { guessDecimal, parseClock, parseNumber, type Decimal } from '../text/number.ts';
import { readTable, type TextTable } from '../text/table.ts';
import { COLUMN_ROLES, guessRole, splitHeader, unitFromWord, type ColumnRole } from './columnRole.ts';
import { refineGuesses } from './refineGuesses.ts';

/** Larger files are refused. */
export const LARGEST_FILE_BYTES = 200 * 1024 * 1024;

/** How a column is understood; a person may correct role and unit. */
export interface ColumnGuess {
  readonly name: string;
  readonly role: ColumnRole;
  /** Name of a core unit, `hh:mm:ss` for clock times, or null where there is none. */
  readonly unit: string | null;
  readonly confidence: number;
}

/** One pull of a file: a numeric column per header, NaN for a missing cell, and the line of each row. */
export interface PullTable {
  readonly name: string;
  readonly columns: readonly Float64Array[];
  readonly lines: readonly number[];
}

/** A file as the reader understands it before any mapping. */
export interface PullFile {
  readonly encoding: Encoding;
  readonly delimiter: TextTable['delimiter'];
  readonly decimal: Decimal;
  readonly headerLine: number | null;
  /** Lines above the header, in order. */
  readonly preamble: readonly string[];
  readonly columns: readonly ColumnGuess[];
  readonly pulls: readonly PullTable[];
  readonly problems: readonly Problem[];
}

/**
 * Reads one or many pulls from a CSV of unknown make.
 * @throws UnreadableError with every problem that keeps the whole file out
 */
export function readPullFile(bytes: Uint8Array): PullFile {
  if (bytes.length > LARGEST_FILE_BYTES)
    throw new UnreadableError(
      `The file has ${(bytes.length / 1048576).toFixed(0)} MB; at most 200 MB can be read. Export one pull at a time.`,
    );
  const { text, encoding } = decodeText(bytes);
  const table = readTable(text);
  const decimal = guessDecimal(cellsOf(table), table.delimiter);
  const layout = findLayout(table, decimal);
  const guesses = guessColumns(table, layout, decimal);
  const body = readBody(table, layout, guesses, decimal);
  const columns = refineGuesses(guesses, body.pulls);
  return {
    encoding,
    delimiter: table.delimiter,
    decimal,
    headerLine: layout.header === null ? null : table.lines[layout.header]!,
    preamble: table.rows
      .slice(0, layout.header ?? 0)
      .map((row) => row.join(table.delimiter).trim())
      .slice(0, 40),
    columns,
    pulls: body.pulls,
    problems: body.problems,
  };
}

/** A header signature under which a mapping is remembered. */
export function headerSignature(file: Pick<PullFile, 'columns'>): string {
  return file.columns.map((c) => `${c.name.trim().toLowerCase()}`).join('|');
}

function* cellsOf(table: TextTable): Iterable<string> {
  for (const row of table.rows) yield* row;
}

interface Layout {
  readonly header: number | null;
  readonly units: number | null;
  readonly firstData: number;
  readonly width: number;
}

const isValue = (cell: string, decimal: Decimal) => {
  const number = parseNumber(cell, decimal);
  return (number !== undefined && !Number.isNaN(number)) || parseClock(cell) !== undefined;
};

function isDataRow(row: readonly string[], decimal: Decimal): boolean {
  const filled = row.filter((cell) => cell.trim() !== '');
  const values = filled.filter((cell) => isValue(cell, decimal)).length;
  return values >= 2 && values >= filled.length * 0.6;
}

/** Finds the first stretch of data rows, the header above it and a units row between. */
function findLayout({ rows }: TextTable, decimal: Decimal): Layout {
  const firstData = rows.findIndex(
    (row, i) => isDataRow(row, decimal) && (i + 1 >= rows.length || isDataRow(rows[i + 1]!, decimal)),
  );
  if (firstData < 0) throw new UnreadableError('No rows of numbers were found under any header.');
  const width = rows[firstData]!.length;
  const wordy = (i: number) =>
    i >= 0 &&
    rows[i]!.length >= Math.max(2, width - 1) &&
    rows[i]!.filter((c) => c.trim() !== '').length >= 2 &&
    !isDataRow(rows[i]!, decimal);
  const above = firstData - 1;
  if (!wordy(above)) return { header: null, units: null, firstData, width };
  const cells = rows[above]!.map((c) => c.trim().replace(/^[([{]|[)\]}]$/g, '')).filter((c) => c !== '');
  const unitLike = cells.filter((c) => unitFromWord(c) !== null || /^[-–]$/.test(c)).length >= cells.length * 0.6;
  if (unitLike && wordy(above - 1)) return { header: above - 1, units: above, firstData, width };
  return { header: above, units: null, firstData, width };
}

function guessColumns(
  { rows }: TextTable,
  { header, units, firstData, width }: Layout,
  decimal: Decimal,
): ColumnGuess[] {
  return Array.from({ length: Math.max(width, header === null ? 0 : rows[header]!.length) }, (_, i) => {
    const raw = header === null ? `column ${i + 1}` : (rows[header]![i] ?? '').trim() || `column ${i + 1}`;
    const split = splitHeader(raw);
    const unitCell =
      units === null ? null : unitFromWord((rows[units]![i] ?? '').trim().replace(/^[([{]|[)\]}]$/g, ''));
    const unit = unitCell ?? split.unit;
    const guess = guessRole(split.name, unit);
    const sample = rows[firstData]![i] ?? '';
    const clock = parseNumber(sample, decimal) === undefined && parseClock(sample) !== undefined;
    if (clock) return { name: raw, role: 'time', unit: 'hh:mm:ss', confidence: 0.9 };
    return {
      name: raw,
      role: guess.role,
      unit: unit ?? assumedUnit(guess.role),
      confidence: unit || guess.role === 'pullName' ? guess.confidence : guess.confidence * 0.7,
    };
  });
}

/** What a role is usually written in when nobody says so; the mapper shows the low confidence. */
function assumedUnit(role: ColumnRole): string | null {
  const usual: Partial<Record<ColumnRole, string>> = {
    wheelPower: 'kW',
    throttle: '%',
    humidity: '%',
    stationPressure: 'hPa',
  };
  return usual[role] ?? COLUMN_ROLES[role].unit;
}

/** Reads all rows below the header into pulls, splitting at repeated headers and at the column that names the pull. */
function readBody(
  table: TextTable,
  layout: Layout,
  columns: readonly ColumnGuess[],
  decimal: Decimal,
): { pulls: PullTable[]; problems: Problem[] } {
  const { rows, lines } = table;
  const problems: Problem[] = [];
  const nameColumn = columns.findIndex((c) => c.role === 'pullName');
  const headerText = layout.header === null ? null : rows[layout.header]!.join('\u0001').toLowerCase();
  const blocks = new Map<string, { columns: number[][]; lines: number[] }>();
  let block = 1;
  let blockName: string | null = layout.header === null ? null : nameAbove(rows, layout.header);
  for (let r = layout.firstData; r < rows.length; r += 1) {
    const row = rows[r]!;
    if (headerText !== null && !startsNumeric(row) && row.join('\u0001').toLowerCase() === headerText) {
      block += 1;
      blockName = nameAbove(rows, r);
      continue;
    }
    if (!startsNumeric(row) && (row.every((cell) => cell.trim() === '') || isNote(row, table, r, decimal))) continue;
    if (row.length > columns.length && row.slice(columns.length).some((cell) => cell.trim() !== '')) {
      problems.push({
        line: lines[r]!,
        message: `${row.length} cells where the header has ${columns.length}: a separator too many, or a decimal comma in a comma-separated file.`,
      });
      continue;
    }
    // Pulls of one name in different blocks stay apart; a column that names the pull gathers its rows.
    const name =
      nameColumn >= 0
        ? (row[nameColumn] ?? '').trim() || `pull ${block}`
        : `${blockName ?? `pull ${block}`}\u0000${block}`;
    let target = blocks.get(name);
    if (!target) {
      target = { columns: columns.map(() => []), lines: [] };
      blocks.set(name, target);
    }
    target.lines.push(lines[r]!);
    columns.forEach((column, i) =>
      target.columns[i]!.push(cellValue(row[i] ?? '', column, decimal, lines[r]!, problems)),
    );
  }
  const pulls = [...blocks].map(([name, { columns: values, lines: at }]) => ({
    name: name.split('\u0000')[0]!,
    columns: values.map((v) => Float64Array.from(v)),
    lines: at,
  }));
  return { pulls, problems: summarised(problems) };
}

const startsNumeric = (row: readonly string[]) => row.length > 1 && /^-?\d/.test(row[0]!) && /^-?\d/.test(row[1]!);

/** Comments, units rows of later blocks and footers between or below the data. */
function isNote(row: readonly string[], table: TextTable, r: number, decimal: Decimal): boolean {
  if (/^\s*(#|\/\/|%|;)/.test(row[0] ?? '')) return true;
  return (
    !row.some((cell) => isValue(cell, decimal)) ||
    (row.filter((c) => c.trim() !== '').length === 1 && row.length < (table.rows[r - 1]?.length ?? 0))
  );
}

/** "Run 2" or "Pull: baseline 1" in the line above a repeated header. */
function nameAbove(rows: readonly (readonly string[])[], header: number): string | null {
  const cells = (rows[header - 1] ?? []).map((c) => c.trim()).filter((c) => c !== '');
  const text = cells.join(' ').replace(/^[#/%;\s]+/, '');
  return /^(pull|run|sweep|test|pass|lauf)\b/i.test(text) && text.length < 80 ? text : null;
}

function cellValue(cell: string, column: ColumnGuess, decimal: Decimal, line: number, problems: Problem[]): number {
  if (column.role === 'pullName') return NaN;
  const value = column.unit === 'hh:mm:ss' ? parseClock(cell) : parseNumber(cell, decimal);
  if (value !== undefined) return value;
  if (column.role !== 'other' && column.role !== 'ignore')
    problems.push({ line, message: `"${cell.trim().slice(0, 40)}" in column "${column.name}" is not a number.` });
  return NaN;
}

/** At most twenty problems, with a count of the rest. */
function summarised(problems: Problem[]): Problem[] {
  if (problems.length <= 20) return problems;
  return [
    ...problems.slice(0, 20),
    { line: null, message: `… and ${problems.length - 20} more problems of this kind.` },
  ];
}
