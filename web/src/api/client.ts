import type { Bay, BayLearned, InstrumentStatus, Job, LiveSheet } from '@prandel/core';
import { QueryClient } from '@tanstack/react-query';
import createClient, { type MaybeOptionalInit } from 'openapi-fetch';
import type { HttpMethod, PathsWithMethod, SuccessResponse } from 'openapi-typescript-helpers';
import type { components, paths } from './generated/schema.ts';

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

/** What follows the path: nothing is needed where nothing is required. */
type InitParam<I> = object extends I ? [(I & { [key: string]: unknown })?] : [I & { [key: string]: unknown }];
type Method = Extract<HttpMethod, 'get' | 'post' | 'put' | 'patch' | 'delete'>;
type PathOf<M extends Method> = PathsWithMethod<paths, M>;
type Init<M extends Method, P extends PathOf<M>> = MaybeOptionalInit<paths[P], M>;

/** Answers that are values of types of `core/`: the document names them and does not write them down again. */
interface CoreAnswers {
  'get /api/jobs/{id}': StoredJob;
  'get /api/bays': BayListed[];
  'get /api/bays/{id}/sheet': LiveSheet;
  'get /api/bays/{id}/history': BayLearned;
}
type Written<O> = O extends { responses: infer R extends Record<string | number, unknown> }
  ? SuccessResponse<R>
  : never;
type Answer<M extends Method, P extends PathOf<M>> = `${M} ${P & string}` extends keyof CoreAnswers
  ? CoreAnswers[`${M} ${P & string}`]
  : M extends keyof paths[P]
    ? Written<paths[P][M]>
    : never;

/** What the client tells of an answer. */
interface Answered {
  readonly data?: unknown;
  readonly error?: unknown;
  readonly response: Response;
}

const client = createClient<paths>({
  // Looked up at each call, so that a test can put another in its place.
  fetch: (request) => fetch(request),
});

/** Asks the server, as its document has it: method, path with its parameters, body and answer. @throws Refusal */
export async function ask<M extends Method, P extends PathOf<M>>(
  method: M,
  path: P,
  ...init: InitParam<Init<M, P>>
): Promise<Answer<M, P>> {
  const given = init[0] as { signal?: AbortSignal } | undefined;
  // What this function's own types have checked is not checked a second time.
  const request = client.request as unknown as (method: string, path: string, init?: unknown) => Promise<Answered>;
  const { data, error, response } = await request(method, path, init[0]).catch((error: unknown) => {
    if (given?.signal?.aborted) throw new Refusal(499, 'Cancelled; nothing of it was kept.');
    if (error instanceof TypeError) throw noAnswer();
    throw error;
  });
  if (!response.ok) throw refusalOf(response.status, typeof error === 'object' && error ? error : {});
  return data as Answer<M, P>;
}

/** Brings a form with files. @throws Refusal */
export async function bring<T>(path: string, form: FormData): Promise<T> {
  const response = await fetch(path, { method: 'POST', body: form }).catch(() => {
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
    request.open('POST', path);
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

/** A bay as the list of bays tells it. */
export interface BayListed {
  readonly id: string;
  readonly label: string;
  readonly version: number;
  readonly rollers: Bay;
  readonly instruments: Readonly<Record<InstrumentStatus['kind'], { host: string; port: number } | null>> & {
    readonly registers: Schemas['RegisterMapDto'];
  };
  readonly status: readonly InstrumentStatus[];
  readonly job: string | null;
  /** Why it records nothing, in words; null: it records. */
  readonly fault: string | null;
  /** Another server process on the same database leads it. */
  readonly ledElsewhere: boolean;
}

/** A job as the server stores it, without samples. */
export interface StoredJob {
  readonly rowId: string;
  readonly version: number;
  /** Since when nothing of it can be changed; null: it is open. */
  readonly sealedAt: string | null;
  readonly job: Job;
  /** What it belongs to; the bay under this roof, or null for another shop's rollers. */
  readonly links: { readonly bayId: string | null; readonly vehicleId: string | null };
}

/** What the page of a shared link shows. */
export type SharedAnswer = Schemas['SharedAnswer'];
/** Everything that jobs say of a part. */
export type PartShelf = Schemas['PartShelfAnswer'];
/** How a bay stands against itself. */
export type BayCharts = Schemas['BayChartsAnswer'];

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => count < 2 && !(error instanceof Refusal && error.status >= 400),
      staleTime: 5000,
      refetchOnWindowFocus: true,
    },
  },
});
