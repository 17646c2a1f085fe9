import Papa from 'papaparse';
import { UnreadableError } from '../problem.ts';

/** Rows of cells with the line of the file on which each begins (from 1). */
export interface TextTable {
  readonly delimiter: ',' | ';' | '\t';
  readonly rows: readonly (readonly string[])[];
  readonly lines: readonly number[];
}

/** More rows than this are refused: an hour at 1 kHz has 3.6 million. */
export const MOST_ROWS = 5_000_000;
const DELIMITERS = [';', '\t', ','] as const;

/**
 * Splits text into rows by the delimiter that makes most lines agree on their number of cells.
 * @throws UnreadableError when no delimiter gives two columns, or for more than 5 million rows
 */
export function readTable(text: string): TextTable {
  const delimiter = guessDelimiter(text);
  if (!delimiter)
    throw new UnreadableError(
      'Only one column was found. A pull needs at least rpm and power, torque or roller speed, separated by comma, semicolon or tab.',
    );
  refuseTooManyRows(text);
  const rows: string[][] = [];
  const lines: number[] = [];
  const quoted = text.includes('"');
  let line = 1;
  for (const row of Papa.parse<string[]>(text, { delimiter }).data) {
    if (row.length > 1 || (row[0] ?? '') !== '') {
      rows.push(row);
      lines.push(line);
    }
    line += 1;
    if (quoted) for (const cell of row) line += cell.split('\n').length - 1;
  }
  return { delimiter, rows, lines };
}

function refuseTooManyRows(text: string): void {
  let count = 0;
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) count += 1;
  if (count > MOST_ROWS)
    throw new UnreadableError(
      `The file has ${count} rows; more than ${MOST_ROWS / 1e6} million cannot be read. Export at a lower rate or one pull at a time.`,
    );
}

function guessDelimiter(text: string): TextTable['delimiter'] | null {
  // The table may begin far below its comments; look at lines from the middle of a first stretch.
  const lines = text
    .slice(0, 60_000)
    .split(/\r\n|\n|\r/)
    .filter((l) => l.trim() !== '');
  let best: TextTable['delimiter'] | null = null;
  let bestScore = 0;
  for (const delimiter of DELIMITERS) {
    const counts = new Map<number, number>();
    for (const l of lines) {
      const n = Papa.parse<string[]>(l, { delimiter }).data[0]?.length ?? 1;
      if (n > 1) counts.set(n, (counts.get(n) ?? 0) + 1);
    }
    const agreeing = Math.max(0, ...counts.values());
    // Decimal commas split a semicolon file into agreeing cells too; the order of DELIMITERS settles ties.
    if (agreeing > bestScore * 1.05) {
      bestScore = agreeing;
      best = delimiter;
    }
  }
  return bestScore >= Math.max(1, lines.length * 0.3) ? best : null;
}
