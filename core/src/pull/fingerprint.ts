import type { Channel } from '../job/job.ts';

/** Channels by which a pull is told from another, however its other columns were mapped. */
export const TELLING_CHANNELS: readonly string[] = [
  'engine_rpm',
  'roller_rad_s',
  'wheel_power_w',
  'wheel_torque_nm',
  'brake_nm',
];

/**
 * A short text that two pulls share when their speed, power and torque are the same sample by sample: two multiplicative hashes of
 * 32 bits over the bits of the samples. No seal: whoever wants two recordings to collide can make them.
 * @returns null without any such channel
 * @example fingerprintOf([{ name: 'engine_rpm', values: Float64Array.of(1000, 2000) }]) === fingerprintOf([]) // false
 */
export function fingerprintOf(channels: readonly Channel[]): string | null {
  const telling = channels
    .filter(({ name }) => TELLING_CHANNELS.includes(name))
    .sort((a, b) => (a.name < b.name ? -1 : 1));
  if (telling.length === 0) return null;
  let [a, b] = [0x811c9dc5, 0x9e3779b9];
  for (const { values } of telling) {
    const aligned = values.byteOffset % 4 === 0 ? values : values.slice();
    const words = new Uint32Array(aligned.buffer, aligned.byteOffset, 2 * aligned.length);
    for (let i = 0; i < words.length; i += 1) {
      const word = words[i]!;
      a = Math.imul(a ^ word, 0x01000193);
      b = Math.imul(b ^ (word + i), 0x85ebca6b);
      b ^= b >>> 13;
    }
  }
  const sizes = telling.map(({ name, values }) => `${name}:${values.length}`).join(',');
  return `${sizes};${(a >>> 0).toString(16)}${(b >>> 0).toString(16).padStart(8, '0')}`;
}
