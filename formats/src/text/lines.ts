import Papa from 'papaparse';
import { UnreadableError } from '../problem.ts';

/** A quoted cell that runs over more lines than this never ends. */
const MOST_QUOTED_LINES = 1000;

/** Cells of one line; a line with quotes is read as RFC 4180 says. */
export function cellsOfLine(line: string, delimiter: string): string[] {
  if (!line.includes('"')) return line.split(delimiter);
  return Papa.parse<string[]>(line, { delimiter, newline: '\n' }).data[0] ?? [''];
}

/** Whether a line ends inside a quoted cell, so that the next line belongs to it. */
export function endsInQuotes(line: string, delimiter: string): boolean {
  if (!line.includes('"')) return false;
  let at = 0;
  while (at < line.length) {
    if (line[at] === '"') {
      let end = line.indexOf('"', at + 1);
      while (end >= 0 && line[end + 1] === '"') end = line.indexOf('"', end + 2);
      if (end < 0) return true;
      at = end + 1;
    }
    const next = line.indexOf(delimiter, at);
    if (next < 0) return false;
    at = next + 1;
  }
  return false;
}

/** Joins lines of which a quoted cell makes one row. */
export class QuotedLines {
  #open: { text: string; line: number; lines: number } | null = null;

  constructor(private readonly delimiter: string) {}

  get open(): boolean {
    return this.#open !== null;
  }

  /**
   * @returns the whole row and the line on which it begins; null while it goes on
   * @throws UnreadableError for a quoted cell that never ends
   */
  push(text: string, line: number): { text: string; line: number } | null {
    const at = this.#open;
    const whole = at ? { text: `${at.text}\n${text}`, line: at.line, lines: at.lines + 1 } : { text, line, lines: 1 };
    if (!endsInQuotes(whole.text, this.delimiter)) {
      this.#open = null;
      return whole;
    }
    if (whole.lines > MOST_QUOTED_LINES) throw this.#endless(whole.line);
    this.#open = whole;
    return null;
  }

  /** At the end of the file. @throws UnreadableError when a quoted cell is still open */
  end(): void {
    if (this.#open) throw this.#endless(this.#open.line);
  }

  #endless(line: number): UnreadableError {
    const message = `The quoted cell that begins in line ${line} never ends: a quotation mark is missing.`;
    return new UnreadableError(message, [{ line, message }]);
  }
}
