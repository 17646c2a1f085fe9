import { expect, test } from '@jest/globals';
import { digestOf } from './TuneDigest.tsx';

test('the digest of a tune file is the SHA-256 of its bytes (FIPS 180-2, appendix B.1: "abc")', async () => {
  expect(await digestOf(new TextEncoder().encode('abc').buffer)).toBe('ba7816bf8f01');
});
