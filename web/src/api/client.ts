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

/** Asks the server; bodies are JSON unless they are form data. @throws Refusal */
export async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  const form = body instanceof FormData;
  const response = await fetch(`/api${path}`, {
    method,
    ...(body === undefined ? {} : { body: form ? body : JSON.stringify(body) }),
    ...(body === undefined || form ? {} : { headers: { 'Content-Type': 'application/json' } }),
  }).catch(() => {
    throw new Refusal(
      0,
      'The server does not answer. Check that Prandel runs and the network cable is in; nothing was lost.',
    );
  });
  if (!response.ok) {
    const answer = (await response.json().catch(() => ({}))) as {
      detail?: string;
      problems?: { line: number | null; message: string }[];
    };
    throw new Refusal(response.status, answer.detail ?? `The server answered ${response.status}.`, answer.problems);
  }
  return (response.status === 204 ? undefined : await response.json()) as T;
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
