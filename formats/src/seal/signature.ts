import { ed25519 } from '@noble/curves/ed25519.js';
import { plainSha256 } from './sha256.ts';

/** Bytes of base64 text; null for what is none. */
export function fromBase64(text: string): Uint8Array | null {
  try {
    return Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
  } catch {
    return null;
  }
}

/**
 * Whether a signature is that of a message under a public key, both base64: Ed25519 (RFC 8032, section 5.1.7). What is no key or
 * no signature does not hold.
 */
export function signatureHolds(message: Uint8Array, signature: string, publicKey: string): boolean {
  const [own, key] = [fromBase64(signature), fromBase64(publicKey)];
  if (own?.length !== 64 || key?.length !== 32) return false;
  try {
    return ed25519.verify(own, message, key, { zip215: false });
  } catch {
    return false;
  }
}

/**
 * A key as people compare it: the SHA-256 of its 32 bytes as 16 groups of 4 hexadecimal digits.
 * @example fingerprint('AAAA…') // '66687aadf862bd77 …' in groups of four
 */
export function fingerprint(publicKey: string): string {
  const key = fromBase64(publicKey) ?? new Uint8Array();
  return plainSha256([key]).match(/.{4}/g)!.join(' ');
}

/** The first four groups, for a printed sheet. */
export const shortFingerprint = (publicKey: string): string => fingerprint(publicKey).slice(0, 19);

/** What the old key signs when a shop changes its key; canonical JSON of this is the message. */
export interface KeyChange {
  readonly keyChange: 1;
  readonly shop: string;
  readonly at: string;
  readonly oldKey: string;
  readonly newKey: string;
}
