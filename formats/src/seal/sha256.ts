import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';

/** SHA-256 of pieces one after another, as 64 hexadecimal digits (FIPS 180-4). */
export type Sha256 = (pieces: Iterable<Uint8Array>) => string;

/** Runs everywhere, in a browser without TLS too; whoever has a faster one passes it to the functions that take a `Sha256`. */
export const plainSha256: Sha256 = (pieces) => {
  const hash = sha256.create();
  for (const piece of pieces) hash.update(piece);
  return bytesToHex(hash.digest());
};

/** SHA-256 of one text in UTF-8. @example sha256Text('abc').slice(0, 8) // 'ba7816bf' */
export const sha256Text = (text: string): string => plainSha256([new TextEncoder().encode(text)]);
