import { UnreadableError } from '../problem.ts';
import { cellsOfLine, QuotedLines } from './lines.ts';

/** Rows of cells with the line of the file on which each begins (from 1). */
export interface TextTable {
  readonly delimiter: ',' | ';' | '\t';
  readonly rows: readonly (readonly string[])[];
  readonly lines: readonly number[];
}

const DELIMITERS = [';', '\t', ','] as const;
/** Characters from which the delimiter is told. */
const TELLING_CHARACTERS = 60_000;

/**
 * Splits text into rows by the delimiter that makes most lines agree on their number of cells; blank lines are left out.
 * @throws UnreadableError when no delimiter gives two columns
 */
export function readTable(text: string): TextTable {
  const delimiter = guessDelimiter(text);
  if (!delimiter)
    throw new UnreadableError(
      'Only one column was found. A pull needs at least rpm and power, torque or roller speed, separated by comma, semicolon or tab.',
    );
  const rows: string[][] = [];
  const lines: number[] = [];
  const quoted = new QuotedLines(delimiter);
  for (const [i, part] of linesOf(text).entries()) {
    if (part === '' && !quoted.open) continue;
    const row = quoted.push(part, i + 1);
    if (!row) continue;
    rows.push(cellsOfLine(row.text, delimiter));
    lines.push(row.line);
  }
  return { delimiter, rows, lines };
}

function linesOf(text: string): string[] {
  return text.split(/\r\n|\n|\r/);
}

function guessDelimiter(text: string): TextTable['delimiter'] | null {
  // The table may begin far below its comments; look at lines from the middle of a first stretch.
  const lines = linesOf(text.slice(0, TELLING_CHARACTERS)).filter((l) => l.trim() !== '');
  let best: TextTable['delimiter'] | null = null;
  let bestScore = 0;
  for (const delimiter of DELIMITERS) {
    const counts = new Map<number, number>();
    for (const l of lines) {
      const n = cellsOfLine(l, delimiter).length;
      if (n > 1) counts.set(n, (counts.get(n) ?? 0) + 1);
    }
    const agreeing = [...counts.values()].reduce((most, n) => Math.max(most, n), 0);
    // Decimal commas split a semicolon file into agreeing cells too; the order of DELIMITERS settles ties.
    if (agreeing > bestScore * 1.05) {
      bestScore = agreeing;
      best = delimiter;
    }
  }
  return bestScore >= Math.max(1, lines.length * 0.3) ? best : null;
}
