import { createHash } from 'node:crypto';
import { frameBytes, frameFrom, PreparedPulls, type Channel, type Job } from '@prandel/core';

/** Pulls to be prepared: those named with their samples, the others with the frames that stand for theirs. */
export interface FrameWork {
  readonly job: Pick<Job, 'pulls' | 'bay' | 'vehicle'>;
  readonly wanted: readonly string[];
  readonly known: readonly (readonly [string, Uint8Array])[];
}

export interface MadeFrame {
  readonly pull: string;
  readonly frame: Uint8Array<ArrayBuffer>;
  /** SHA-256 over all channels, names and float64 bytes in order. */
  readonly samplesSha256: string;
  /** How many channels the pull had. */
  readonly channels: number;
}

/** Prepares the pulls that are wanted. */
export function madeFrames({ job, wanted, known }: FrameWork): MadeFrame[] {
  const prepared = new PreparedPulls();
  prepared.take(
    known.flatMap(([id, bytes]) => {
      const frame = frameFrom(bytes);
      return frame ? [[id, frame] as const] : [];
    }),
  );
  prepared.of(job);
  return job.pulls
    .filter(({ id }) => wanted.includes(id))
    .map(({ id, channels }) => ({
      pull: id,
      frame: frameBytes(prepared.frames.get(id)!),
      samplesSha256: allSamplesDigest(channels),
      channels: channels.length,
    }));
}

function allSamplesDigest(channels: readonly Channel[]): string {
  const hash = createHash('sha256');
  for (const { name, values } of channels)
    hash
      .update(`${name}:${values.length};`)
      .update(new Uint8Array(values.buffer, values.byteOffset, values.byteLength));
  return hash.digest('hex');
}

/** A job whose prepared pulls stand for its samples. */
export interface FramedJob {
  readonly job: Job;
  readonly frames: readonly (readonly [string, Uint8Array])[];
}

export function preparedFrom({ job, frames }: FramedJob) {
  const prepared = new PreparedPulls();
  prepared.take(frames.map(([id, bytes]) => [id, frameFrom(bytes)!] as const));
  return prepared.of(job);
}
