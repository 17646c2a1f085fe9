import pg from 'pg';

/**
 * One of several server processes on one database leads a thing: who holds its advisory lock. The lock lives as long as the
 * connection it was taken on, so that a killed process gives it up by itself.
 */
export class Leadership {
  #client: pg.Client | null = null;

  constructor(
    private readonly url: string,
    readonly name: string,
  ) {}

  /** Takes the lead, or says that another process has it. @throws when the database does not answer */
  async take(): Promise<boolean> {
    if (this.#client) return true;
    const client = new pg.Client({ connectionString: this.url, keepAlive: true });
    client.on('error', () => {
      if (this.#client === client) this.#client = null;
    });
    await client.connect();
    const { rows } = await client.query<{ held: boolean }>(
      'SELECT pg_try_advisory_lock(hashtextextended($1, 0)) AS held',
      [this.name],
    );
    if (!rows[0]?.held) {
      await client.end();
      return false;
    }
    this.#client = client;
    return true;
  }

  async release(): Promise<void> {
    const client = this.#client;
    this.#client = null;
    await client?.end().catch(() => undefined);
  }
}
