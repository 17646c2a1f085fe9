import type { Job } from '@prandel/core';
import { QueryClient } from '@tanstack/react-query';
import type { components } from './generated/schema.ts';

export type Schemas = components['schemas'];

/** A refused request: what the server says is wrong and where. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly problems: readonly { line: number | null; message: string }[] = [],
  ) {
    super(message);
  }
}

/** Whether the server refused for a reason of its own, so that nothing was stored; else nobody knows. */
export function refusedByServer(error: Error): boolean {
  return error instanceof Refusal && error.status >= 400 && error.status < 500;
}

interface ProblemAnswer {
  readonly detail?: string;
  readonly problems?: readonly { line: number | null; message: string }[];
}

function refusalOf(status: number, { detail, problems }: ProblemAnswer): Refusal {
  return new Refusal(status, detail ?? `The server answered ${status}.`, problems);
}

function noAnswer(): Refusal {
  return new Refusal(
    0,
    'The server does not answer. Check that Prandel runs and the network cable is in; look whether your last step is there before you repeat it.',
  );
}

/** Asks the server; bodies are JSON unless they are form data. @throws Refusal */
export async function ask<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  const form = body instanceof FormData;
  const response = await fetch(`/api${path}`, {
    method,
    ...(body === undefined ? {} : { body: form ? body : JSON.stringify(body) }),
    ...(body === undefined || form ? {} : { headers: { 'Content-Type': 'application/json' } }),
    ...(signal ? { signal } : {}),
  }).catch(() => {
    if (signal?.aborted) throw new Refusal(499, 'Cancelled; nothing of it was kept.');
    throw noAnswer();
  });
  if (!response.ok) throw refusalOf(response.status, (await response.json().catch(() => ({}))) as ProblemAnswer);
  return (response.status === 204 ? undefined : await response.json()) as T;
}

/**
 * Sends files and tells how much of them is on its way. Cancelled, the server keeps nothing of it. @throws Refusal
 */
export function send<T>(
  path: string,
  form: FormData,
  { signal, onSent }: { signal: AbortSignal; onSent: (share: number) => void },
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `/api${path}`);
    request.responseType = 'json';
    request.upload.onprogress = ({ loaded, total }) => onSent(total > 0 ? loaded / total : 0);
    request.onload = () => {
      const answer = (request.response ?? {}) as ProblemAnswer;
      if (request.status < 300) resolve(answer as T);
      else reject(refusalOf(request.status, answer));
    };
    request.onerror = () => reject(noAnswer());
    request.onabort = () => reject(new Refusal(499, 'Cancelled; nothing of it was kept.'));
    signal.addEventListener('abort', () => request.abort());
    request.send(form);
  });
}

/** A job as the server stores it, without samples. */
export interface StoredJob {
  readonly rowId: string;
  readonly version: number;
  readonly job: Job;
}

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => count < 2 && !(error instanceof Refusal && error.status >= 400),
      staleTime: 5000,
      refetchOnWindowFocus: true,
    },
  },
});
