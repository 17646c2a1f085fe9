import type { Job } from '@prandel/core';

/**
 * The channels of a job as one binary document: a 4-byte little-endian length, that many bytes of JSON index
 * `[{ pull, name, length }]`, padding to a multiple of eight, then the samples as little-endian float64 in that order.
 */
export function channelFrames(job: Job): Buffer {
  const index = job.pulls.flatMap((p) =>
    p.channels.map((c) => ({ pull: p.id, name: c.name, length: c.values.length })),
  );
  const text = Buffer.from(JSON.stringify(index));
  const head = Buffer.alloc(Math.ceil((4 + text.length) / 8) * 8, 0x20);
  head.writeUInt32LE(head.length - 4, 0);
  text.copy(head, 4);
  return Buffer.concat([
    head,
    ...job.pulls.flatMap((p) =>
      p.channels.map((c) => Buffer.from(c.values.buffer, c.values.byteOffset, c.values.byteLength)),
    ),
  ]);
}
