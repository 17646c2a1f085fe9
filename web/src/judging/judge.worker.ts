import { judgePrepared, PreparedPulls, type Channel, type Job, type Judgement } from '@prandel/core';

/** What the page sends: a job with the frames of its channels once, then the job's papers as often as they change. */
export type WorkerRequest = { readonly frames: ArrayBuffer } | { readonly judge: number; readonly job: Job };
export type WorkerAnswer =
  | { readonly judged: number; readonly judgement: Judgement; readonly milliseconds: number }
  | { readonly judged: number; readonly failed: string };

const channels = new Map<string, Channel[]>();
const prepared = new PreparedPulls();

addEventListener('message', ({ data }: MessageEvent<WorkerRequest>) => {
  if ('frames' in data) {
    readFrames(data.frames);
    prepared.clear();
    return;
  }
  const started = performance.now();
  try {
    const job: Job = { ...data.job, pulls: data.job.pulls.map((p) => ({ ...p, channels: channels.get(p.id) ?? [] })) };
    const judgement = judgePrepared(job, prepared.of(job));
    postMessage({ judged: data.judge, judgement, milliseconds: performance.now() - started } satisfies WorkerAnswer);
  } catch (error) {
    postMessage({
      judged: data.judge,
      failed: error instanceof Error ? error.message : String(error),
    } satisfies WorkerAnswer);
  }
});

/** Reads the server's binary document: length, JSON index, float64 samples. */
function readFrames(frames: ArrayBuffer): void {
  channels.clear();
  const length = new DataView(frames).getUint32(0, true);
  const index = JSON.parse(new TextDecoder().decode(new Uint8Array(frames, 4, length))) as {
    pull: string;
    name: string;
    length: number;
  }[];
  let offset = 4 + length;
  for (const { pull, name, length: n } of index) {
    channels.set(pull, [...(channels.get(pull) ?? []), { name, values: new Float64Array(frames, offset, n) }]);
    offset += n * 8;
  }
}
