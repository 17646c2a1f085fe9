import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';

const MOST_KEPT = 50_000;

/** Digests of files that the server has, kept on disk so that none is sent twice. */
export class SentFiles {
  readonly #digests: Map<string, string>;

  private constructor(
    private readonly path: string,
    digests: Map<string, string>,
    /** Nothing was kept for this folder before. */
    readonly fresh: boolean,
  ) {
    this.#digests = digests;
  }

  /** @throws SyntaxError when the file is damaged: to begin anew would send everything again */
  static async open(path: string): Promise<SentFiles> {
    const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return null;
      throw error;
    });
    const kept = text === null ? {} : (JSON.parse(text) as Record<string, string>);
    return new SentFiles(path, new Map(Object.entries(kept)), text === null);
  }

  has(digest: string): boolean {
    return this.#digests.has(digest);
  }

  async add(digest: string, name: string): Promise<void> {
    this.#digests.set(digest, name);
    await this.save();
  }

  async save(): Promise<void> {
    const kept = [...this.#digests].slice(-MOST_KEPT);
    await mkdir(dirname(this.path), { recursive: true, mode: 0o700 });
    const making = `${this.path}.new`;
    await writeFile(making, JSON.stringify(Object.fromEntries(kept)), { mode: 0o600 });
    await rename(making, this.path);
  }
}
