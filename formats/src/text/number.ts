import { LIMITS } from '@prandel/core';

/** Cells from which the decimal character is told. */
const TELLING_CELLS = 1000;

/** How a file writes numbers. */
export type Decimal = '.' | ',';

/**
 * Decides between decimal point and decimal comma from the cells of a table: whichever character is followed by
 * something other than exactly three digits, or stands last when both occur.
 */
export function guessDecimal(cells: Iterable<string>, delimiter: string): Decimal {
  let comma = 0;
  let point = 0;
  let seen = 0;
  for (const cell of cells) {
    const text = cell.length > LIMITS.numberCellCharacters ? '' : cell.trim();
    if (!/\d/.test(text) || text.includes(':')) continue;
    if (++seen > TELLING_CELLS) break;
    const lastComma = text.lastIndexOf(',');
    const lastPoint = text.lastIndexOf('.');
    if (lastComma >= 0 && lastPoint >= 0) {
      if (lastComma > lastPoint) comma += 2;
      else point += 2;
    } else if (lastComma >= 0 && !/^\D*\d{1,3}(,\d{3})+\D*$/.test(text)) comma += 1;
    else if (lastPoint >= 0 && !/^\D*[1-9]\d{0,2}(\.\d{3})+\D*$/.test(text)) point += 1;
  }
  if (comma === point) return delimiter === ';' && comma > 0 ? ',' : '.';
  return comma > point ? ',' : '.';
}

const MISSING = new Set(['', '-', '--', '---', 'nan', 'na', 'n/a', 'null', 'none', '#n/a', '?']);

/**
 * A cell as a number. Missing markers give NaN; a text that is no number gives undefined.
 * Thousands separators (the other of comma and point, blank, narrow blank, apostrophe) are dropped.
 */
export function parseNumber(cell: string, decimal: Decimal): number | undefined {
  if (cell.length > LIMITS.numberCellCharacters) return undefined;
  if (decimal === '.' && /^-?\d+(\.\d+)?$/.test(cell)) return Number(cell);
  const text = cell.trim();
  if (MISSING.has(text.toLowerCase())) return NaN;
  let plain = text.replace(/[\s\u00A0\u202F'’]/g, '').replace('\u2212', '-');
  plain = decimal === ',' ? plain.replace(/\./g, '').replace(',', '.') : plain.replace(/,/g, '');
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain) ? Number(plain) : undefined;
}

/** A cell that bears its unit, `102.3 kW`: the number and the words behind it; null for anything else. */
export function parseQuantity(cell: string, decimal: Decimal): { value: number; words: string } | null {
  if (cell.length > LIMITS.numberCellCharacters) return null;
  const found = /^\s*([+-]?[\d.,'’]*\d)(?:\s+(\S.{0,10})|([^\d\s.,:;+-][^\d:;]{0,8}))$/u.exec(cell);
  const value = found ? parseNumber(found[1]!, decimal) : undefined;
  return value === undefined || Number.isNaN(value) ? null : { value, words: (found![2] ?? found![3]!).trim() };
}

/** Seconds from hh:mm:ss.fff, mm:ss.fff or a timestamp with a date; undefined when it is none. */
export function parseClock(cell: string): number | undefined {
  if (cell.length > LIMITS.numberCellCharacters) return undefined;
  const text = cell.trim().replace(',', '.');
  const clock = /^(?:(\d{1,3}):)?(\d{1,2}):(\d{1,2}(?:\.\d+)?)$/.exec(text);
  if (clock) return Number(clock[1] ?? 0) * 3600 + Number(clock[2]) * 60 + Number(clock[3]);
  if (/^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}/.test(text)) {
    // As the clock on the wall says it: a zone behind it moves all rows alike.
    const wall = Date.parse(`${text.replace(' ', 'T').replace(/(Z|[+-]\d{2}:?\d{2})$/, '')}Z`);
    return Number.isNaN(wall) ? undefined : wall / 1000;
  }
  return undefined;
}
