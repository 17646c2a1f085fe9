import { judgePrepared, judgingProblem, PreparedPulls, type Channel, type Job, type Judgement } from '@prandel/core';

/** What the page sends: a job with the frames of its channels once, then the job's papers as often as they change. */
export type WorkerRequest = { readonly frames: ArrayBuffer } | { readonly judge: number; readonly job: Job };
export type WorkerAnswer =
  | {
      readonly judged: number;
      readonly judgement: Judgement;
      readonly milliseconds: number;
      /** Bands and ribbon follow. */
      readonly partial: boolean;
    }
  | { readonly judged: number; readonly failed: string };

/** From so many counted pulls on the verdicts go ahead of bands and ribbon. */
const VERDICTS_FIRST = 20;

const channels = new Map<string, Channel[]>();
const prepared = new PreparedPulls();

addEventListener('message', ({ data }: MessageEvent<WorkerRequest>) => {
  if ('frames' in data) {
    readFrames(data.frames);
    prepared.clear();
    return;
  }
  const started = performance.now();
  const tell = (judgement: Judgement, partial: boolean) =>
    postMessage({
      ...{ judged: data.judge, judgement, partial },
      milliseconds: performance.now() - started,
    } satisfies WorkerAnswer);
  try {
    const job: Job = { ...data.job, pulls: data.job.pulls.map((p) => ({ ...p, channels: channels.get(p.id) ?? [] })) };
    const problem = judgingProblem(job);
    if (problem) throw new Error(`This job cannot be judged. ${problem.text}`);
    const ready = prepared.of(job);
    if (job.pulls.filter((p) => p.status === 'counted').length >= VERDICTS_FIRST)
      tell(judgePrepared(job, ready, 'verdict'), true);
    tell(judgePrepared(job, ready), false);
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
