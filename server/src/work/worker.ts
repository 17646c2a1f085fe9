import type { MessagePort } from 'node:worker_threads';
import { UnreadableError } from '@prandel/formats';
import { WORK, type WorkName } from './work.ts';
import type { WorkRefusal } from './workPool.ts';

/** Entry of a thread of the pool: does one piece of work. What a person can mend comes back as a refusal, not as an error. */
export default async function work({
  name,
  input,
  progress,
}: {
  name: WorkName;
  input: unknown;
  progress: MessagePort | null;
}): Promise<unknown> {
  try {
    return await WORK[name](input as never, (share) => progress?.postMessage(share));
  } catch (error) {
    if (!(error instanceof UnreadableError)) throw error;
    return { refused: error.message, problems: error.problems } satisfies WorkRefusal;
  }
}
