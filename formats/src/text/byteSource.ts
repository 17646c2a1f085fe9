/** Bytes that can be read from anywhere, in memory or on disk, so that a large file never stands in memory whole. */
export interface ByteSource {
  readonly size: number;
  /** Bytes from `from` up to `to`; the answer may be overwritten by the next call. */
  read(from: number, to: number): Uint8Array;
}

export function bytesSource(bytes: Uint8Array): ByteSource {
  return { size: bytes.length, read: (from, to) => bytes.subarray(from, Math.min(to, bytes.length)) };
}

export const PIECE_BYTES = 1 << 21;

/** The bytes of a source piece by piece. */
export function* piecesOf(source: ByteSource): Generator<Uint8Array> {
  for (let at = 0; at < source.size; at += PIECE_BYTES) yield source.read(at, at + PIECE_BYTES);
}
