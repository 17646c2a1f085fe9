import { createHash } from 'node:crypto';
import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { BayServer } from './bayServer.ts';
import type { SentFiles } from './sentFiles.ts';

/** A file is sent once it has not changed for this long: its writer is done with it. */
const QUIET_MS = 2000;
/** How often a server is tried again that did not answer. */
const RETRY_MS = [2000, 5000, 10_000, 30_000];
const LARGEST_BYTES = 50 * 1024 * 1024;
/** What systems and editors leave in folders, and files that are still being made under another name. */
const LITTER = /(^|[\\/])(\.|~)|\.(tmp|part|crdownload|lock)$|^(thumbs\.db|desktop\.ini)$/i;
/** A file that another program holds is tried again. */
const HELD = new Set(['EBUSY', 'EACCES', 'EPERM', 'EAGAIN', 'ETXTBSY']);

interface Seen {
  readonly size: number;
  readonly changedMs: number;
  /** Since when it looks like this, on this computer's clock. */
  readonly sinceMs: number;
  /** It was sent as it is now, or is left alone. */
  readonly done: boolean;
}

export interface WatcherOptions {
  readonly folder: string;
  readonly server: BayServer;
  readonly sent: SentFiles;
  readonly say: (line: string) => void;
  readonly now?: () => number;
  readonly read?: (path: string) => Promise<Uint8Array>;
}

/**
 * Sends the files of a folder to a bay: a new or changed one once it has stopped growing for two seconds, never twice, and as soon as the
 * server can be reached. What waits is the file itself; nothing is moved, changed or deleted in the folder.
 */
export class FolderWatcher {
  readonly #seen = new Map<string, Seen>();
  readonly #held = new Set<string>();
  #failures = 0;
  #tryAgainMs = 0;
  #told = '';

  constructor(private readonly options: WatcherOptions) {}

  #now(): number {
    return (this.options.now ?? Date.now)();
  }

  /** Leaves alone what lies in the folder already. @returns how many files that are */
  async leaveOld(): Promise<number> {
    const found = await this.#list();
    for (const [path, { size, changedMs }] of found)
      this.#seen.set(path, { size, changedMs, sinceMs: this.#now(), done: true });
    return found.size;
  }

  /** Files that wait to be sent. */
  get waiting(): number {
    return [...this.#seen.values()].filter((s) => !s.done).length;
  }

  /** Looks at the folder once, and sends what is ready. */
  async look(): Promise<void> {
    const now = this.#now();
    const found = await this.#list();
    // A share that is away for a moment looks empty; its old files are not new ones when it is back.
    if (found.size > 0) for (const path of this.#seen.keys()) if (!found.has(path)) this.#seen.delete(path);
    for (const [path, { size, changedMs }] of found) {
      const before = this.#seen.get(path);
      if (before?.size !== size || before.changedMs !== changedMs)
        this.#seen.set(path, { size, changedMs, sinceMs: now, done: false });
    }
    if (now < this.#tryAgainMs) return;
    // In the order in which they were written: each is the next pull of its round.
    const ready = [...this.#seen]
      .filter(([, s]) => !s.done && now - s.sinceMs >= QUIET_MS)
      .sort((a, b) => a[1].changedMs - b[1].changedMs || a[0].localeCompare(b[0], 'en', { numeric: true }));
    for (const [path, seen] of ready) if (!(await this.#send(path, seen))) break;
  }

  /** @returns whether the next file may be tried */
  async #send(path: string, seen: Seen): Promise<boolean> {
    const { server, sent, say } = this.options;
    const name = basename(path);
    const done = () => void this.#seen.set(path, { ...seen, done: true });
    if (seen.size > LARGEST_BYTES) {
      say(`${name}: ${(seen.size / 1048576).toFixed(0)} MB are more than a pull has; import it as a day.`);
      done();
      return true;
    }
    let bytes: Uint8Array;
    try {
      bytes = await (this.options.read ?? readFile)(path);
    } catch (error) {
      const { code = '' } = error as NodeJS.ErrnoException;
      // One that is gone again is no longer found.
      if (HELD.has(code) && !this.#held.has(path)) {
        this.#held.add(path);
        say(`${name}: held by another program; tried again.`);
      }
      return true;
    }
    this.#held.delete(path);
    // It grew again while it was read.
    if (bytes.byteLength !== seen.size) return true;
    const digest = createHash('sha256').update(bytes).digest('hex');
    if (sent.has(digest)) {
      done();
      return true;
    }
    const answer = await server.send(name, bytes, new Date(seen.changedMs).toISOString());
    if (answer.kind === 'away') return this.#away(answer.why);
    this.#failures = 0;
    this.#told = '';
    say(`${name}: ${answer.words}`);
    if (answer.kind === 'taken') await sent.add(digest, name);
    done();
    return true;
  }

  #away(why: string): boolean {
    this.#tryAgainMs = this.#now() + RETRY_MS[Math.min(this.#failures, RETRY_MS.length - 1)]!;
    this.#failures += 1;
    const line = `${why} ${this.waiting} ${this.waiting === 1 ? 'file waits' : 'files wait'} in the folder.`;
    if (line !== this.#told) this.options.say(line);
    this.#told = line;
    return false;
  }

  async #list(): Promise<Map<string, { size: number; changedMs: number }>> {
    const { folder } = this.options;
    const found = new Map<string, { size: number; changedMs: number }>();
    for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
      if (!entry.isFile() || LITTER.test(entry.name)) continue;
      const path = join(entry.parentPath, entry.name);
      const info = await stat(path).catch(() => null);
      if (info?.isFile() && info.size > 0) found.set(path, { size: info.size, changedMs: Math.round(info.mtimeMs) });
    }
    return found;
  }
}
