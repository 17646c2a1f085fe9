import type { CheckedFile } from './verify.worker.ts';

/** Checks a package or a report in a thread of this page; the bytes go nowhere else. */
export function checkBytes(bytes: ArrayBuffer): Promise<CheckedFile> {
  const worker = new Worker(new URL('./verify.worker.ts', import.meta.url), { type: 'module' });
  return new Promise<CheckedFile>((done) => {
    worker.addEventListener('message', ({ data }: MessageEvent<CheckedFile>) => done(data));
    worker.addEventListener('error', ({ message }) =>
      done({ problem: `It could not be checked: ${message || 'the computation failed'}` }),
    );
    worker.postMessage(bytes, [bytes]);
  }).finally(() => worker.terminate());
}
