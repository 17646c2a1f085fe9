import { UnreadableError } from '../problem.ts';

export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';

/**
 * Bytes to text: a byte order mark decides, else zero bytes at every second place mean UTF-16, else strict UTF-8,
 * else Windows-1252.
 * @throws UnreadableError for an empty or a binary file
 */
export function decodeText(bytes: Uint8Array): { text: string; encoding: Encoding } {
  if (bytes.length === 0) throw new UnreadableError('The file is empty.');
  const encoding = guessEncoding(bytes);
  const text = new TextDecoder(encoding).decode(bytes);
  if (text.trim() === '') throw new UnreadableError('The file holds nothing but blanks.');
  const head = text.slice(0, 4000);
  // Control characters other than tab, line feed, form feed and carriage return do not occur in text.
  const odd = [...head].filter((c) => c < ' ' && !'\t\n\f\r'.includes(c)).length + head.split('\uFFFD').length - 1;
  if (odd > head.length / 50)
    throw new UnreadableError('This is a binary file, not text. Export the pull as CSV first.');
  return { text, encoding };
}

function guessEncoding(bytes: Uint8Array): Encoding {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  const head = bytes.subarray(0, 2000);
  const zeros = (parity: number) => head.filter((b, i) => i % 2 === parity && b === 0).length / (head.length / 2);
  if (head.length >= 4 && zeros(1) > 0.7 && zeros(0) < 0.2) return 'utf-16le';
  if (head.length >= 4 && zeros(0) > 0.7 && zeros(1) < 0.2) return 'utf-16be';
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}
