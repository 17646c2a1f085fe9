import { UnreadableError } from '../problem.ts';
import { bytesSource, type ByteSource } from './byteSource.ts';
import type { Encoding } from './decode.ts';

/** Lines of numbers from which fixed width is told. */
const TELLING_LINES = 6;
const MOST_LINES = 400;
/** Lines that may be numbers. */
const FIRST_DIGIT = /^\s*[+-]?\d/;
const TELLING_BYTES = 1 << 16;
/** Longer files of this kind are no export of a pull. */
const LARGEST_BYTES = 50 * 1024 * 1024;

const NUMBER = String.raw`[+-]?\d+(?:[.,]\d+)*(?:[eE][+-]?\d+)?`;
/** Two or more numbers with nothing but blanks between them. */
const NUMBERS_AND_BLANKS = new RegExp(String.raw`^\s*${NUMBER}(?: +${NUMBER})+\s*$`);

/** Whether the numbers of a text stand in columns of blanks, with no separator between them. */
function isFixedWidth(head: string): boolean {
  const lines = head.split(/\r\n|\n|\r/, MOST_LINES).filter((line) => FIRST_DIGIT.test(line));
  const numeric = lines.filter((line) => NUMBERS_AND_BLANKS.test(line));
  return numeric.length >= TELLING_LINES && numeric.length > lines.length * 0.6;
}

/**
 * A text whose columns are told by blanks as one whose columns are told by tabs; its lines keep their numbers.
 * @returns null where the text is not of this kind
 * @throws UnreadableError for a file too long to be an export of a pull
 */
export function withTabs(source: ByteSource, encoding: Encoding): ByteSource | null {
  const decoder = new TextDecoder(encoding);
  const head = decoder.decode(source.read(0, TELLING_BYTES));
  if (!isFixedWidth(head)) return null;
  if (source.size > LARGEST_BYTES)
    throw new UnreadableError('Text in columns of blanks is read up to 50 MB. Export fewer pulls at a time.');
  const lines = new TextDecoder(encoding).decode(source.read(0, source.size)).split(/\r\n|\n|\r/);
  const width = usualWidth(lines);
  return bytesSource(new TextEncoder().encode(lines.map((line) => cells(line, width)).join('\n')));
}

function usualWidth(lines: readonly string[]): number {
  const counts = new Map<number, number>();
  for (const line of lines.filter((l) => NUMBERS_AND_BLANKS.test(l)).slice(0, 200)) {
    const n = line.trim().split(/\s+/).length;
    counts.set(n, (counts.get(n) ?? 0) + 1);
  }
  return [...counts].sort((a, b) => b[1] - a[1])[0]![0];
}

/** Names may hold single blanks; a line of `key: value` stays one cell. */
function cells(line: string, width: number): string {
  if (NUMBERS_AND_BLANKS.test(line)) return line.trim().split(/\s+/).join('\t');
  const wide = line.trim().split(/\s{2,}|\t/);
  if (wide.length === width || /[:=]/.test(line)) return wide.join('\t');
  const narrow = line.trim().split(/\s+/);
  return (narrow.length === width ? narrow : wide).join('\t');
}
