import { LIMITS } from '@prandel/core';
import { UnreadableError, type Problem } from '../problem.ts';
import { bytesSource, type ByteSource } from '../text/byteSource.ts';
import { asUtf8, blank, encodingOf, type Encoding } from '../text/decode.ts';
import { guessDecimal, type Decimal } from '../text/number.ts';
import { withTabs } from '../text/fixedWidth.ts';
import { readTable, type TextTable } from '../text/table.ts';
import type { ColumnRole } from './columnRole.ts';
import { fieldsOf, type Field } from './fields.ts';
import { findLayout, guessColumns } from './layout.ts';
import { readBody } from './readBody.ts';
import { refineGuesses } from './refineGuesses.ts';
import { apart, columnGroups } from './sideBySide.ts';

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
  readonly lines: ArrayLike<number>;
  /** What lines above its own header say, where a file holds several pulls in blocks. */
  readonly fields: readonly Field[];
}

/** How the cells of a file are told apart. */
export type Written = 'separated' | 'columns-of-blanks' | 'workbook';
/** How several pulls stand in a file. */
export type Arrangement = 'one' | 'blocks' | 'named' | 'side-by-side';

/** A file as the reader understands it before any mapping. */
export interface PullFile {
  readonly encoding: Encoding;
  readonly delimiter: TextTable['delimiter'];
  readonly decimal: Decimal;
  readonly headerLine: number | null;
  /** Lines above the header, in order. */
  readonly preamble: readonly string[];
  /** What lines above the numbers and below them say. */
  readonly fields: readonly Field[];
  readonly written: Written;
  readonly arrangement: Arrangement;
  readonly columns: readonly ColumnGuess[];
  readonly pulls: readonly PullTable[];
  readonly problems: readonly Problem[];
}

/** The head of a file, in which encoding, delimiter, header and units are looked for; a longer one is tried when it holds no numbers. */
const HEADS_BYTES = [1 << 12, 1 << 14, 1 << 18, 1 << 23];
/** Rows of numbers that a head must hold before it is believed. */
const TELLING_ROWS = 16;

/**
 * Reads one or many pulls from a CSV of unknown make.
 * @throws UnreadableError with every problem that keeps the whole file out
 */
export function readPullFile(
  given: Uint8Array | ByteSource,
  { onProgress, written = 'separated' }: { onProgress?: (share: number) => void; written?: Written } = {},
): PullFile {
  const original = given instanceof Uint8Array ? bytesSource(given) : given;
  if (original.size > LARGEST_FILE_BYTES)
    throw new UnreadableError(
      `The file has ${(original.size / 1048576).toFixed(0)} MB; at most 200 MB can be read. Export one pull at a time.`,
    );
  const encoding = encodingOf(original);
  const wide = encoding === 'utf-16le' || encoding === 'utf-16be';
  const narrowed = wide ? asUtf8(original, encoding) : original;
  const tabbed = written === 'separated' ? withTabs(narrowed, wide ? 'utf-8' : encoding) : null;
  const source = tabbed ?? narrowed;
  const narrow = wide || tabbed ? 'utf-8' : encoding;
  const { table, decimal, layout } = readHead(source, narrow);
  const guesses = guessColumns(table, layout, decimal);
  const line = table.lines[layout.firstData]!;
  const above = layout.header === null ? [] : (table.rows[layout.header - 1] ?? []);
  const body = readBody(source, guesses, {
    delimiter: table.delimiter,
    decimal,
    encoding: narrow,
    width: guesses.length,
    from: offsetOfLine(source, line),
    line,
    header: layout.header === null ? null : table.rows[layout.header]!,
    aboveHeader: above,
    onProgress,
  });
  const groups = columnGroups(guesses, above);
  const pulls = groups ? body.pulls.flatMap((pull) => apart(pull, groups)) : body.pulls;
  if (pulls.length > LIMITS.pullsPerFile)
    throw new UnreadableError(
      `The file holds ${pulls.length} pulls side by side and below each other; at most ${LIMITS.pullsPerFile} can be read.`,
    );
  const named = guesses.some((c) => c.role === 'pullName');
  const columns = refineGuesses(groups?.columns ?? guesses, pulls);
  return {
    encoding,
    delimiter: table.delimiter,
    decimal,
    headerLine: layout.header === null ? null : table.lines[layout.header]!,
    preamble: table.rows
      .slice(0, layout.header ?? 0)
      .slice(0, 40)
      .map((row) => row.join(table.delimiter).trim().slice(0, 400)),
    fields: [...fieldsOf(table.rows.slice(0, layout.header ?? 0)), ...body.footer],
    written: tabbed ? 'columns-of-blanks' : written,
    arrangement: groups ? 'side-by-side' : pulls.length < 2 ? 'one' : named ? 'named' : 'blocks',
    columns,
    pulls,
    problems: body.problems,
  };
}

/** The head of the file as a table with its layout. @throws UnreadableError when there are no rows of numbers */
function readHead(source: ByteSource, encoding: Encoding) {
  for (const size of HEADS_BYTES) {
    const bytes = source.read(0, size);
    const whole = bytes.length >= source.size;
    const text = new TextDecoder(encoding).decode(bytes);
    if (whole && text.trim() === '') throw blank();
    const last = size === HEADS_BYTES.at(-1);
    try {
      const table = readTable(whole ? text : withoutLastLine(text));
      const decimal = guessDecimal(cellsOf(table), table.delimiter);
      const layout = findLayout(table, decimal);
      const enough = whole || last || (layout && table.rows.length - layout.firstData >= TELLING_ROWS);
      if (layout && enough) return { table, decimal, layout };
    } catch (error) {
      // Comments may be longer than the first head.
      if (whole || last) throw error;
    }
    if (whole || last) break;
  }
  throw new UnreadableError('No rows of numbers were found under any header.');
}

function withoutLastLine(text: string): string {
  return text.slice(0, Math.max(text.lastIndexOf('\n'), text.lastIndexOf('\r')) + 1);
}

/** Where a line begins, in bytes; lines are counted from 1. */
function offsetOfLine(source: ByteSource, line: number): number {
  const bytes = source.read(0, HEADS_BYTES.at(-1)!);
  let at = 0;
  for (let n = 1; n < line; n += 1) {
    while (bytes[at] !== 10 && bytes[at] !== 13) at += 1;
    at += bytes[at] === 13 && bytes[at + 1] === 10 ? 2 : 1;
  }
  return at;
}

/** A header signature under which a mapping is remembered. */
export function headerSignature(file: Pick<PullFile, 'columns'>): string {
  return file.columns.map((c) => `${c.name.trim().toLowerCase()}`).join('|');
}

function* cellsOf(table: TextTable): Iterable<string> {
  for (const row of table.rows) yield* row;
}
