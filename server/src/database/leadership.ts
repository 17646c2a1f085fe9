import pg from 'pg';

/**
 * Of several server processes on one database one leads a thing: who holds its advisory lock. All locks of a process are held on
 * one connection, and live as long as it does: a killed process gives them up by itself.
 */
export class Leaderships {
  #client: Promise<pg.Client> | null = null;
  readonly #held = new Set<string>();

  /** Whether bays may have been made, changed or deleted by another process since this was asked. */
  #baysChanged = true;

  constructor(private readonly url: string) {}

  /** Tells once that bays may have changed; what happened while nobody listened counts too. */
  takeBaysChanged(): boolean {
    const changed = this.#baysChanged;
    this.#baysChanged = false;
    return changed;
  }

  /** Takes the lead of a thing, or says that another process has it. @throws when the database does not answer */
  async take(name: string): Promise<boolean> {
    if (this.#held.has(name)) return true;
    const client = await this.#connected();
    const { rows } = await client.query<{ held: boolean }>(
      'SELECT pg_try_advisory_lock(hashtextextended($1, 0)) AS held',
      [name],
    );
    if (rows[0]?.held !== true) return false;
    this.#held.add(name);
    return true;
  }

  async release(name: string): Promise<void> {
    if (!this.#held.delete(name)) return;
    const client = await this.#connected();
    await client.query('SELECT pg_advisory_unlock(hashtextextended($1, 0))', [name]);
  }

  async close(): Promise<void> {
    const client = await this.#client?.catch(() => null);
    this.#forget();
    await client?.end().catch(() => undefined);
  }

  #connected(): Promise<pg.Client> {
    this.#client ??= this.#connect();
    return this.#client;
  }

  async #connect(): Promise<pg.Client> {
    const client = new pg.Client({ connectionString: this.url, keepAlive: true, application_name: 'prandel leads' });
    // With the connection all locks are gone, and another process may have taken them.
    client.on('error', () => this.#forget());
    client.on('end', () => this.#forget());
    try {
      await client.connect();
      client.on('notification', () => (this.#baysChanged = true));
      await client.query('LISTEN prandel_bays');
      this.#baysChanged = true;
    } catch (error) {
      this.#forget();
      void client.end().catch(() => undefined);
      throw error;
    }
    return client;
  }

  #forget(): void {
    this.#client = null;
    this.#held.clear();
  }
}
