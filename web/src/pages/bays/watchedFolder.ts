import { takenWords } from '@prandel/presentation';

/** A file is sent once it has not changed for this long: its writer is done with it. */
const QUIET_MS = 2000;
const LITTER = /^[.~]|\.(tmp|part|crdownload|lock)$|^(thumbs\.db|desktop\.ini)$/i;
const MOST_KEPT = 5000;

/** A folder that this browser may read. */
export interface ReadableFolder {
  readonly name: string;
  values(): AsyncIterable<{ readonly kind: 'file' | 'directory'; readonly name: string; getFile?(): Promise<File> }>;
}

/** What came of sending a file. */
export type Sent = Parameters<typeof takenWords>[0];

interface Seen {
  readonly size: number;
  readonly changedMs: number;
  readonly sinceMs: number;
  readonly done: boolean;
}

export interface WatchOptions {
  readonly folder: ReadableFolder;
  /** Sends a file; it throws where the server cannot be reached or will not take it now. */
  readonly send: (file: File, changedAt: string) => Promise<Sent>;
  /** Digests of what was sent before, and where they are kept. */
  readonly sent: Set<string>;
  readonly keep: (digests: readonly string[]) => void;
  readonly say: (line: string) => void;
  readonly now?: () => number;
}

/** Sends the files of a folder as `./prandel watch` does, from a page of the browser: once they are still, never twice. */
export class WatchedFolder {
  readonly #seen = new Map<string, Seen>();

  constructor(private readonly options: WatchOptions) {}

  #now = () => (this.options.now ?? Date.now)();

  /** Leaves alone what lies there already. */
  async leaveOld(): Promise<number> {
    for (const { file } of await this.#list())
      this.#seen.set(file.name, { ...shapeOf(file), sinceMs: this.#now(), done: true });
    return this.#seen.size;
  }

  get waiting(): number {
    return [...this.#seen.values()].filter((s) => !s.done).length;
  }

  /** Looks once, and sends what is ready. */
  async look(): Promise<void> {
    const now = this.#now();
    const found = await this.#list();
    const ready: { file: File; seen: Seen }[] = [];
    for (const { file } of found) {
      const before = this.#seen.get(file.name);
      const own = shapeOf(file);
      if (before?.size !== own.size || before.changedMs !== own.changedMs)
        this.#seen.set(file.name, { ...own, sinceMs: now, done: false });
      const seen = this.#seen.get(file.name)!;
      if (!seen.done && now - seen.sinceMs >= QUIET_MS) ready.push({ file, seen });
    }
    ready.sort((a, b) => a.seen.changedMs - b.seen.changedMs);
    for (const { file, seen } of ready) {
      const digest = await digestOf(file);
      if (!this.options.sent.has(digest)) {
        const answer = await this.options.send(file, new Date(seen.changedMs).toISOString());
        this.options.sent.add(digest);
        this.options.keep([...this.options.sent].slice(-MOST_KEPT));
        this.options.say(`${file.name}: ${takenWords(answer)}`);
      }
      this.#seen.set(file.name, { ...seen, done: true });
    }
  }

  async #list(): Promise<{ file: File }[]> {
    const found: { file: File }[] = [];
    for await (const entry of this.options.folder.values()) {
      if (entry.kind !== 'file' || LITTER.test(entry.name)) continue;
      // A file that another program holds, or that is gone again, is looked at the next time.
      const file = await entry.getFile?.().catch(() => null);
      if (file && file.size > 0) found.push({ file });
    }
    return found;
  }
}

const shapeOf = (file: File) => ({ size: file.size, changedMs: file.lastModified });

async function digestOf(file: File): Promise<string> {
  const bytes = new Uint8Array(await crypto.subtle.digest('SHA-256', await file.arrayBuffer()));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('');
}
