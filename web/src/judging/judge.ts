import type { Job, Judgement } from '@prandel/core';
import type { SideAnswers, SideQuestion, WorkerAnswer, WorkerRequest } from './judge.worker.ts';

/** What comes of judging, as it comes: curves first, then verdicts, then everything. */
export interface Step {
  readonly judgement: Judgement;
  readonly milliseconds: number;
  readonly step: 'curves' | 'verdicts' | 'all';
}

interface Asked {
  readonly request: Extract<WorkerRequest, { judge: number }>;
  readonly onStep: (step: Step) => void;
  readonly onFailed: (error: Error) => void;
  readonly text: string;
  /** Frames were fetched for it once; twice would go in a circle. */
  refetched: boolean;
}

/** Judgements that are kept, the latest. */
const MOST_KEPT = 12;

let worker: Worker | null = null;
let count = 0;
const asked = new Map<number, Asked>();
/** Frames that were fetched or are on their way, by job. */
const frames = new Map<string, Promise<void>>();
const kept = new Map<string, Step>();

/** The one worker of the page: started while the page loads, shared by whatever is judged. */
export function warmJudge(): Worker {
  if (worker) return worker;
  worker = new Worker(new URL('./judge.worker.ts', import.meta.url), { type: 'module' });
  worker.addEventListener('message', ({ data }: MessageEvent<WorkerAnswer>) => hear(data));
  worker.addEventListener('error', ({ message }) => {
    worker = null;
    frames.clear();
    for (const [id, one] of asked) {
      asked.delete(id);
      one.onFailed(new Error(`The computation failed (${message}). Reload the page.`));
    }
  });
  return worker;
}

/** A whole judgement of this job, as it is, that is known already. */
export function knownJudgement(row: string, job: Job): Step | null {
  return kept.get(row + JSON.stringify(job)) ?? null;
}

const aside = new Map<number, (answer: SideAnswers[keyof SideAnswers]) => void>();

/** Asks something of the pulls of a job that was judged already, besides its verdicts. */
export async function askAside<K extends SideQuestion['kind']>(
  row: string,
  job: Job,
  asked: Extract<SideQuestion, { kind: K }>,
): Promise<SideAnswers[K]> {
  if (asked.kind !== 'plans') await fetchFrames(row);
  const id = (count += 1);
  return new Promise((done) => {
    aside.set(id, done as (answer: SideAnswers[keyof SideAnswers]) => void);
    warmJudge().postMessage({ answer: id, row, job, asked } satisfies WorkerRequest);
  });
}

/** Asks for what stands for a job's samples, ahead of the job itself. */
export function fetchFrames(row: string): Promise<void> {
  const known = frames.get(row);
  if (known) return known;
  const own = fetch(`/api/jobs/${row}/moments`).then(async (response) => {
    if (response.status === 422) throw new Error(((await response.json()) as { detail: string }).detail);
    if (!response.ok) throw new Error('The pulls of this job could not be loaded. Reload the page.');
    const document = await response.arrayBuffer();
    warmJudge().postMessage({ row, frames: document } satisfies WorkerRequest, [document]);
  });
  frames.set(row, own);
  own.catch(() => frames.delete(row));
  return own;
}

/**
 * Judges a job in the page's worker with the same core as the server.
 * @param place where it is shown: what is asked later at the same place supersedes what was asked before
 * @returns takes the question back
 */
export function judge(
  place: string,
  row: string,
  job: Job,
  onStep: (step: Step) => void,
  onFailed: (error: Error) => void,
): () => void {
  const id = (count += 1);
  const request = { judge: id, place, row, job };
  const one: Asked = { request, onStep, onFailed, text: row + JSON.stringify(job), refetched: false };
  asked.set(id, one);
  fetchFrames(row).then(
    () => asked.has(id) && warmJudge().postMessage(request satisfies WorkerRequest),
    (error: Error) => asked.delete(id) && onFailed(error),
  );
  return () => void asked.delete(id);
}

function hear(answer: WorkerAnswer): void {
  if ('answered' in answer) {
    aside.get(answer.answered)?.(answer.answer);
    aside.delete(answer.answered);
    return;
  }
  const one = asked.get(answer.judged);
  if (!one) return;
  if ('judgement' in answer) {
    const { judgement, milliseconds, step } = answer;
    if (step === 'all') {
      asked.delete(answer.judged);
      keep(one.text, { judgement, milliseconds, step });
    }
    return one.onStep({ judgement, milliseconds, step });
  }
  if ('wants' in answer && !one.refetched) {
    // The job changed since its frames were fetched: a pull came in, or the rollers' facts were corrected.
    one.refetched = true;
    frames.delete(one.request.row);
    fetchFrames(one.request.row).then(
      () => asked.has(answer.judged) && warmJudge().postMessage(one.request satisfies WorkerRequest),
      (error: Error) => asked.delete(answer.judged) && one.onFailed(error),
    );
    return;
  }
  asked.delete(answer.judged);
  if ('failed' in answer) one.onFailed(new Error(answer.failed));
  if ('wants' in answer) one.onFailed(new Error('The job changed while it was loaded. Reload the page.'));
}

function keep(text: string, step: Step): void {
  kept.delete(text);
  kept.set(text, step);
  for (const old of [...kept.keys()].slice(0, -MOST_KEPT)) kept.delete(old);
}
