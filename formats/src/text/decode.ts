import { isAscii } from 'node:buffer';
import { UnreadableError } from '../problem.ts';
import { bytesSource, piecesOf, type ByteSource } from './byteSource.ts';

export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';

const HEAD_BYTES = 8000;

/**
 * Bytes to text: a byte order mark decides, else zero bytes at every second place mean UTF-16, else strict UTF-8,
 * else Windows-1252.
 * @throws UnreadableError for an empty or a binary file
 */
export function decodeText(bytes: Uint8Array): { text: string; encoding: Encoding } {
  const encoding = encodingOf(bytesSource(bytes));
  const text = new TextDecoder(encoding).decode(bytes);
  if (text.trim() === '') throw blank();
  return { text, encoding };
}

/**
 * The encoding of a text file, see `decodeText`.
 * @throws UnreadableError for an empty or a binary file
 */
export function encodingOf(source: ByteSource): Encoding {
  if (source.size === 0) throw new UnreadableError('The file is empty.');
  const head = source.read(0, HEAD_BYTES).slice();
  const encoding = guessEncoding(head, source);
  const text = new TextDecoder(encoding).decode(head).slice(0, 4000);
  // Control characters other than tab, line feed, form feed and carriage return do not occur in text.
  const odd = text.match(/[^\t\n\f\r -\uFFFC\uFFFE\uFFFF]/g)?.length ?? 0;
  if (odd > text.length / 50)
    throw new UnreadableError('This is a binary file, not text. Export the pull as CSV first.');
  return encoding;
}

export function blank(): UnreadableError {
  return new UnreadableError('The file holds nothing but blanks.');
}

/** A source of UTF-16 as UTF-8, in which every delimiter and digit is one byte. */
export function asUtf8(source: ByteSource, encoding: 'utf-16le' | 'utf-16be'): ByteSource {
  const decoder = new TextDecoder(encoding);
  const encoder = new TextEncoder();
  const pieces: Uint8Array[] = [];
  for (const piece of piecesOf(source)) pieces.push(encoder.encode(decoder.decode(piece, { stream: true })));
  pieces.push(encoder.encode(decoder.decode()));
  const all = new Uint8Array(pieces.reduce((size, piece) => size + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    all.set(piece, at);
    at += piece.length;
  }
  return bytesSource(all);
}

function guessEncoding(head: Uint8Array, source: ByteSource): Encoding {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  const first = head.subarray(0, 2000);
  const zeros = (parity: number) => {
    let count = 0;
    for (let i = parity; i < first.length; i += 2) if (first[i] === 0) count += 1;
    return count / (first.length / 2);
  };
  if (first.length >= 4 && zeros(1) > 0.7 && zeros(0) < 0.2) return 'utf-16le';
  if (first.length >= 4 && zeros(0) > 0.7 && zeros(1) < 0.2) return 'utf-16be';
  return isUtf8(source) ? 'utf-8' : 'windows-1252';
}

function isUtf8(source: ByteSource): boolean {
  let plain = true;
  for (const piece of piecesOf(source)) plain &&= isAscii(piece);
  if (plain) return true;
  const decoder = new TextDecoder('utf-8', { fatal: true });
  try {
    for (const piece of piecesOf(source)) decoder.decode(piece, { stream: true });
    decoder.decode();
    return true;
  } catch {
    return false;
  }
}
