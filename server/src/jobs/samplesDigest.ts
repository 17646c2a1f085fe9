import { createHash } from 'node:crypto';
import { TELLING_CHANNELS, type Channel } from '@prandel/core';

/**
 * SHA-256 over the channels of speed, power and torque; null without any. Two pulls of one digest are one pull under two names.
 */
export function samplesDigest(list: readonly Channel[]): string | null {
  const telling = list.filter(({ name }) => TELLING_CHANNELS.includes(name));
  if (telling.length === 0) return null;
  const hash = createHash('sha256');
  for (const { name, values } of telling.toSorted((a, b) => (a.name < b.name ? -1 : 1)))
    hash.update(`${name}:${values.length};`).update(bytesOf(values));
  return hash.digest('hex');
}

/** Little-endian float64 bytes; every platform this runs on is little-endian. */
export function bytesOf(values: Float64Array): Buffer {
  return Buffer.from(values.buffer, values.byteOffset, values.byteLength);
}
