import { LIMITS, type UnitName } from '@prandel/core';
import { UnreadableError } from '../problem.ts';
import { parseClock, parseNumber, parseQuantity, type Decimal } from '../text/number.ts';
import type { TextTable } from '../text/table.ts';
import { COLUMN_ROLES, guessRole, splitHeader, unitFromWord, type ColumnRole } from './columnRole.ts';
import type { ColumnGuess } from './readPullFile.ts';

/** Columns beyond this are no export of a pull. */
const MOST_COLUMNS = 256;

/** Where the header, the units and the numbers of a file stand; indices into the rows of its head. */
export interface Layout {
  readonly header: number | null;
  readonly units: number | null;
  readonly firstData: number;
  readonly width: number;
}

export function isValue(cell: string, decimal: Decimal): boolean {
  const number = parseNumber(cell, decimal);
  if (number !== undefined) return !Number.isNaN(number);
  return parseClock(cell) !== undefined || unitOfCell(cell, decimal) !== null;
}

/** The unit that a cell such as `102.3 kW` bears, or null. */
export function unitOfCell(cell: string, decimal: Decimal): UnitName | null {
  const quantity = parseQuantity(cell, decimal);
  return quantity && unitFromWord(quantity.words);
}

function isDataRow(row: readonly string[], decimal: Decimal): boolean {
  const filled = row.filter((cell) => cell.trim() !== '');
  const values = filled.filter((cell) => isValue(cell, decimal)).length;
  return values >= 2 && values >= filled.length * 0.6;
}

/** Rows of numbers of which a table of results has fewer than a pull. */
const PULL_ROWS = 8;

/**
 * Finds the numbers of the first pull, the header above them and a units row between; null when there are no numbers. Tables of
 * results or settings may stand above: the first stretch of rows that can be a pull and is as long as one counts, else the first that can be.
 */
export function findLayout(table: TextTable, decimal: Decimal): Layout | null {
  const found = stretches(table, decimal).map(({ from, rows }) => ({ rows, layout: layoutAt(table, from, decimal) }));
  const pulls = found.filter(({ layout }) => looksLikePull(table, layout, decimal));
  const best =
    pulls.find(({ rows }) => rows >= PULL_ROWS) ?? pulls[0] ?? found.find(({ rows }) => rows >= PULL_ROWS) ?? found[0];
  return best?.layout ?? null;
}

/** Where rows of numbers begin, and how many follow; a single one at the end counts as well. */
function stretches({ rows }: TextTable, decimal: Decimal): { from: number; rows: number }[] {
  const found: { from: number; rows: number }[] = [];
  for (let i = 0; i < rows.length; i += 1) {
    if (!isDataRow(rows[i]!, decimal)) continue;
    const from = i;
    while (i + 1 < rows.length && isDataRow(rows[i + 1]!, decimal)) i += 1;
    if (i > from || i + 1 >= rows.length) found.push({ from, rows: i + 1 - from });
    if (found.length >= 12) break;
  }
  return found;
}

function looksLikePull(table: TextTable, layout: Layout, decimal: Decimal): boolean {
  const columns = columnsAt(table, layout, decimal);
  const has = (...roles: ColumnRole[]) => columns.some(({ role }) => roles.includes(role));
  return has('engineSpeed', 'rollerSpeed', 'roadSpeed') && has('wheelPower', 'wheelTorque', 'time', 'throttle');
}

function layoutAt({ rows }: TextTable, firstData: number, decimal: Decimal): Layout {
  const width = rows[firstData]!.length;
  const wordy = (i: number) =>
    i >= 0 &&
    rows[i]!.length >= Math.max(2, width - 1) &&
    rows[i]!.filter((c) => c.trim() !== '').length >= 2 &&
    !isDataRow(rows[i]!, decimal);
  const above = firstData - 1;
  if (!wordy(above)) return { header: null, units: null, firstData, width };
  const cells = rows[above]!.map((c) => withoutBrackets(c)).filter((c) => c !== '');
  const unitLike = cells.filter((c) => unitFromWord(c) !== null || c === '-' || c === '–').length >= cells.length * 0.6;
  if (unitLike && wordy(above - 1)) return { header: above - 1, units: above, firstData, width };
  return { header: above, units: null, firstData, width };
}

function withoutBrackets(cell: string): string {
  return cell.trim().replace(/^[([{]|[)\]}]$/g, '');
}

/** @throws UnreadableError for more columns, or for longer names, than any pull has */
export function guessColumns(table: TextTable, layout: Layout, decimal: Decimal): ColumnGuess[] {
  const { rows, lines } = table;
  const { header, firstData, width } = layout;
  const count = Math.max(width, header === null ? 0 : rows[header]!.length);
  const line = lines[header ?? firstData]!;
  if (count > MOST_COLUMNS)
    throw wrong(line, `The file has ${count} columns; at most ${MOST_COLUMNS} can be read. Export fewer channels.`);
  const long = header === null ? undefined : rows[header]!.find((c) => c.length > LIMITS.headerCellCharacters);
  if (long !== undefined)
    throw wrong(
      line,
      `A column name has ${long.length} characters; at most ${LIMITS.headerCellCharacters} are read: is this the header?`,
    );
  return columnsAt(table, layout, decimal);
}

function columnsAt({ rows }: TextTable, { header, units, firstData, width }: Layout, decimal: Decimal): ColumnGuess[] {
  const count = Math.max(width, header === null ? 0 : rows[header]!.length);
  return Array.from({ length: count }, (_, i) => {
    const raw = header === null ? `column ${i + 1}` : (rows[header]![i] ?? '').trim() || `column ${i + 1}`;
    const split = splitHeader(raw);
    const unitCell = units === null ? null : unitFromWord(withoutBrackets(rows[units]![i] ?? ''));
    const sample = rows[firstData]![i] ?? '';
    const unit = unitCell ?? split.unit ?? unitOfCell(sample, decimal);
    const guess = guessRole(split.name, unit);
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

function wrong(line: number, message: string): UnreadableError {
  return new UnreadableError(message, [{ line, message }]);
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

/** "Run 2" or "Pull: baseline 1" in the line above a repeated header. */
export function blockName(above: readonly string[]): string | null {
  const cells = above.map((c) => c.trim()).filter((c) => c !== '');
  const text = cells.join(' ').replace(/^[#/%;\s]+/, '');
  return text.length < 80 && /^(pull|run|sweep|test|pass|lauf)\b/i.test(text) ? text : null;
}
