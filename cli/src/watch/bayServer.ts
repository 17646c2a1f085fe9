import { takenWords } from '@prandel/presentation';

/** What came of sending a file. */
export type SendAnswer =
  /** The server has it: as a pull, or in its tray. */
  | { readonly kind: 'taken'; readonly words: string }
  /** The server will never take it. */
  | { readonly kind: 'refused'; readonly words: string }
  /** Nobody answered, or not now; it is tried again. */
  | { readonly kind: 'away'; readonly why: string };

const ANSWER_MS = 60_000;
/** The bay is busy, the server starts or has no room: later it may take the file. */
const LATER = new Set([401, 403, 404, 408, 409, 423, 429, 500, 502, 503, 504, 507]);

/** A bay on a server, reached with a token that brings files to it. */
export class BayServer {
  #bayId: string | null = null;

  constructor(
    private readonly url: string,
    private readonly bay: string,
    private readonly token: string,
    private readonly folder: string,
  ) {}

  /** Sends one file. */
  async send(name: string, bytes: Uint8Array, changedAt: string): Promise<SendAnswer> {
    try {
      const id = await this.#id();
      if (typeof id !== 'string') return id;
      const form = new FormData();
      form.append('folder', this.folder);
      form.append('changedAt', changedAt);
      form.append('file', new Blob([Uint8Array.from(bytes)]), name);
      const response = await this.#ask(`/api/bays/${id}/files`, { method: 'POST', body: form });
      if (!response.ok) return await this.#problem(response);
      return { kind: 'taken', words: takenWords((await response.json()) as Parameters<typeof takenWords>[0]) };
    } catch (error) {
      return { kind: 'away', why: `${this.url} does not answer (${reasonOf(error)}).` };
    }
  }

  /** Says that the folder is being watched. @returns why that did not work, or null */
  async beat(): Promise<string | null> {
    try {
      const id = await this.#id();
      if (typeof id !== 'string') return id.why;
      const body = JSON.stringify({ folder: this.folder });
      const headers = { 'content-type': 'application/json' };
      const response = await this.#ask(`/api/bays/${id}/watching`, { method: 'POST', body, headers });
      if (response.ok) return null;
      const problem = await this.#problem(response);
      return 'why' in problem ? problem.why : problem.words;
    } catch (error) {
      return `${this.url} does not answer (${reasonOf(error)}).`;
    }
  }

  async #id(): Promise<string | { readonly kind: 'away'; readonly why: string }> {
    if (this.#bayId !== null) return this.#bayId;
    const response = await this.#ask('/api/bays', {});
    if (!response.ok) {
      const problem = await this.#problem(response);
      return { kind: 'away', why: 'why' in problem ? problem.why : problem.words };
    }
    const bays = (await response.json()) as { id: string; label: string }[];
    const found = bays.find(({ label }) => label.toLowerCase() === this.bay.toLowerCase());
    const known = bays.map(({ label }) => label).join(', ');
    if (!found)
      return { kind: 'away', why: `There is no bay "${this.bay}" on ${this.url}. It has: ${known || 'none'}.` };
    this.#bayId = found.id;
    return found.id;
  }

  #ask(path: string, { headers, ...init }: RequestInit): Promise<Response> {
    return fetch(this.url + path, {
      ...init,
      headers: { ...headers, authorization: `Bearer ${this.token}` },
      signal: AbortSignal.timeout(ANSWER_MS),
    });
  }

  async #problem(response: Response): Promise<Extract<SendAnswer, { kind: 'refused' | 'away' }>> {
    const text = await response.text();
    let detail = `it answered ${response.status}`;
    try {
      detail = (JSON.parse(text) as { detail?: string }).detail ?? detail;
    } catch {
      // No document of this server: a proxy answers in words of its own.
    }
    if (response.status === 401)
      return { kind: 'away', why: 'The access token is not known there: it was withdrawn, or is another server’s.' };
    return LATER.has(response.status)
      ? { kind: 'away', why: detail }
      : { kind: 'refused', words: `not taken: ${detail}` };
  }
}

function reasonOf(error: unknown): string {
  const { cause } = error as { cause?: { code?: string } };
  return cause?.code ?? (error instanceof Error ? error.message : String(error));
}
