import { UnreadableError } from '../problem.ts';
import { PIECE_BYTES, type ByteSource } from './byteSource.ts';
import type { Encoding } from './decode.ts';
import type { Decimal } from './number.ts';

/** What is done with the lines of a table. */
export interface RowHandler {
  /**
   * A line that begins with two numbers: one value a cell, NaN for a blank one.
   * @param values overwritten by the next line
   * @param cells how many cells the line has; those beyond the width are not in `values`
   * @param more whether a cell beyond the width is not blank
   */
  row(values: Float64Array, cells: number, more: boolean, line: number): void;
  /** A cell of such a line that is no plain number: its value. */
  cell(text: string, column: number, line: number): number;
  /** Any other line, as text. */
  text(text: string, line: number): void;
}

export interface ScanOptions {
  readonly delimiter: string;
  readonly decimal: Decimal;
  readonly encoding: Exclude<Encoding, 'utf-16le' | 'utf-16be'>;
  /** Columns of the table. */
  readonly width: number;
  /** Where the first line begins, and which line of the file it is. */
  readonly from: number;
  readonly line: number;
  readonly onProgress?: ((share: number) => void) | undefined;
}

const [LF, CR, QUOTE, MINUS, ZERO, NINE, DOT, COMMA] = [10, 13, 34, 45, 48, 57, 46, 44];
/** Integers of so many digits, and powers of ten up to 22, are exact in a double: one division then rounds correctly (Clinger 1990). */
const EXACT_DIGITS = 15;
/** So many digits always fit 32 bits. */
const SMALL_DIGITS = 9;
const POWERS = Float64Array.from({ length: 23 }, (_, k) => Number(`1e${k}`));

/**
 * Reads the lines of a table straight from its bytes. Plain numbers, which are nearly all cells of a pull, become doubles without
 * ever being text; every value equals `Number(text)` of its cell. Whatever else a line holds is handed over as text.
 *
 * @throws UnreadableError for a line longer than two mebibytes
 */
export function scanRows(source: ByteSource, options: ScanOptions, handler: RowHandler): void {
  const { width, encoding, onProgress } = options;
  const delimiter = options.delimiter.charCodeAt(0);
  const decimal = options.decimal === ',' ? COMMA : DOT;
  const decoder = new TextDecoder(encoding);
  const values = new Float64Array(width);
  /** Column, start and end of the cells of a line that are no plain numbers. */
  const odd: number[] = [];
  let { line } = options;
  let at = options.from;
  while (at < source.size) {
    let bytes = source.read(at, at + PIECE_BYTES);
    const last = at + bytes.length >= source.size;
    let end = afterLastLine(bytes, last);
    if (last && end < bytes.length) {
      // The last line gets the end that it lacks, so that no cell is read beyond the piece: such reads are slow.
      const ended = new Uint8Array(bytes.length + 1);
      ended.set(bytes);
      ended[bytes.length] = LF;
      bytes = ended;
      end = bytes.length;
    }
    if (end === 0) {
      const message = `Line ${line} is longer than ${PIECE_BYTES} bytes: this is no table of numbers.`;
      throw new UnreadableError(message, [{ line, message }]);
    }
    let i = 0;
    while (i < end) {
      const start = i;
      let cells = 0;
      let more = false;
      let plain = false;
      odd.length = 0;
      for (;;) {
        const cellAt = i;
        let byte = bytes[i]!;
        let negative = false;
        // Both parts stay small integers, which is what makes this fast.
        let digits = 0;
        let fraction = 0;
        let above = 0;
        let below = 0;
        if (byte === MINUS) {
          negative = true;
          byte = bytes[++i]!;
        }
        while (byte >= ZERO && byte <= NINE) {
          above = (above * 10 + byte - ZERO) | 0;
          digits += 1;
          byte = bytes[++i]!;
        }
        const whole = digits;
        if (byte === decimal && decimal !== delimiter) {
          byte = bytes[++i]!;
          while (byte >= ZERO && byte <= NINE) {
            below = (below * 10 + byte - ZERO) | 0;
            fraction += 1;
            byte = bytes[++i]!;
          }
          digits += fraction;
        }
        const ends = byte === delimiter || byte === LF || byte === CR;
        // A line of numbers begins with two of them; others may be notes, headers or names.
        if (cells < 2 && whole === 0) break;
        let value = NaN;
        if (ends && digits > 0 && whole <= SMALL_DIGITS && fraction <= SMALL_DIGITS && digits <= EXACT_DIGITS) {
          value = fraction > 0 ? (above * POWERS[fraction]! + below) / POWERS[fraction]! : above;
          if (negative) value = -value;
        } else if (!ends || i > cellAt) {
          // A number that this is too short for, or no number at all.
          let quoted = false;
          while (bytes[i] !== delimiter && bytes[i] !== LF && bytes[i] !== CR) {
            quoted ||= bytes[i] === QUOTE;
            i += 1;
          }
          if (quoted) break;
          if (cells < width) odd.push(cells, cellAt, i);
        }
        if (cells < width) values[cells] = value;
        else more ||= i > cellAt;
        cells += 1;
        if (bytes[i] !== delimiter) {
          plain = cells >= 2;
          break;
        }
        i += 1;
      }
      if (plain) {
        for (let k = 0; k < odd.length; k += 3)
          values[odd[k]!] = handler.cell(decoder.decode(bytes.subarray(odd[k + 1], odd[k + 2])), odd[k]!, line);
        for (let c = cells; c < width; c += 1) values[c] = NaN;
        handler.row(values, cells, more, line);
      } else {
        while (bytes[i] !== LF && bytes[i] !== CR) i += 1;
        handler.text(decoder.decode(bytes.subarray(start, i)), line);
      }
      if (bytes[i] === CR && i + 1 < end && bytes[i + 1] === LF) i += 1;
      i += 1;
      line += 1;
    }
    at += end;
    onProgress?.(Math.min(1, at / source.size));
  }
}

/** Where the last whole line of a piece ends; a carriage return at its very end may still be followed by its line feed, but for the last piece. */
function afterLastLine(bytes: Uint8Array, last: boolean): number {
  for (let i = bytes.length - 1; i >= 0; i -= 1) {
    if (bytes[i] === LF) return i + 1;
    if (bytes[i] === CR && (last || i < bytes.length - 1)) return i + 1;
  }
  return 0;
}
