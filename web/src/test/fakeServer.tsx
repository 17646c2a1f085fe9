import './browserGlobals.ts';
import { QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render } from '@testing-library/react';
import type { ReactElement } from 'react';
import { MemoryRouter, Route, Routes } from 'react-router';
import { queries, type Schemas } from '../api/client.ts';

/** What a page asked of the server. */
export interface Asked {
  readonly method: string;
  readonly path: string;
  readonly body: unknown;
}

/** Answers by "method path"; a function is given the request, an error is a refusal. */
export type Answers = Readonly<Record<string, unknown>>;

/** A refusal as the server words it. */
export class Refused {
  constructor(
    readonly status: number,
    readonly detail: string,
  ) {}
}

/** Stands in for the server: what is asked is kept, what is not known is refused. */
export function fakeServer(answers: Answers): Asked[] {
  const asked: Asked[] = [];
  const fetched = async (request: Request | string): Promise<Response> => {
    const url = new URL(typeof request === 'string' ? request : request.url, 'http://localhost');
    const method = typeof request === 'string' ? 'GET' : request.method;
    const text = typeof request === 'string' ? '' : await request.text();
    const own: Asked = { method, path: url.pathname + url.search, body: text ? (JSON.parse(text) as unknown) : null };
    asked.push(own);
    const known = answers[`${method} ${own.path}`] ?? answers[`${method} ${url.pathname}`];
    const answer: unknown = typeof known === 'function' ? (known as (a: Asked) => unknown)(own) : known;
    if (answer === undefined) return answered(404, { detail: `nobody answers ${method} ${own.path}` });
    if (answer instanceof Refused) return answered(answer.status, { detail: answer.detail });
    return answer === null ? answered(204, null) : answered(200, answer);
  };
  Object.assign(globalThis, { fetch: fetched });
  return asked;
}

/** As much of an answer as the client reads; jsdom has none of its own. */
function answered(status: number, body: unknown): Response {
  const text = body === null ? '' : JSON.stringify(body);
  const headers = { get: (name: string) => (name.toLowerCase() === 'content-type' ? 'application/json' : null) };
  const answer = {
    ...{ status, ok: status < 300, headers },
    text: () => Promise.resolve(text),
    json: () => Promise.resolve(body),
    clone: () => answer,
  };
  return answer as unknown as Response;
}

/** A page at an address, for somebody of a role. */
export function drawn(
  element: ReactElement,
  { at = '/', path = '*', role = 'technician' }: { at?: string; path?: string; role?: Schemas['Role'] } = {},
): HTMLElement {
  cleanup();
  queries.clear();
  // The pages' own: what they say is out of date is asked again.
  queries.setQueryData(['session'], { shop: 'Quillmoor Garage', name: 'Ines R.', email: 'x', role, units: {} });
  return render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[at]}>
        <Routes>
          <Route path={path} element={element} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  ).container;
}
