import pg from 'pg';

/** How the connection that holds the leads is called; behind it stands the address of its process. */
const LEADS = 'prandel leads';

/** PostgreSQL keeps so many bytes of a connection's name. */
const MOST_NAME_BYTES = 63;

/** Why other processes could not ask at an address, or null. */
function addressProblem(address: string): string | null {
  const url = URL.canParse(address) ? new URL(address) : null;
  if (url?.protocol !== 'http:' || url.pathname !== '/' || url.search !== '')
    return `PRANDEL_ADDRESS is "${address}"; write it as http://10.0.0.5:4870.`;
  const most = MOST_NAME_BYTES - LEADS.length - 1;
  return Buffer.byteLength(address) > most ? `PRANDEL_ADDRESS has more than ${most} characters: ${address}` : null;
}

/**
 * Of several server processes on one database one leads a thing: who holds its advisory lock. All locks of a process are held on
 * one connection, and live as long as it does: a killed process gives them up by itself.
 */
export class Leaderships {
  #client: Promise<pg.Client> | null = null;
  /** Where other processes reach this one; written on its connection, so that it is gone with the lead. */
  #address: string | null = null;
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

  /**
   * Says where this process is reached, for requests about what it leads. While the database is away it is said with the next connection.
   * @throws RangeError for what is no address that other processes could ask
   */
  async announce(address: string): Promise<void> {
    const wrong = addressProblem(address);
    if (wrong) throw new RangeError(wrong);
    this.#address = address;
    const client = await this.#client?.catch(() => null);
    await client?.query("SELECT set_config('application_name', $1, false)", [this.#name()]).catch(() => undefined);
  }

  /** Where the process that leads a thing is reached; null: nobody leads it, this process does, or it did not say. */
  async addressOf(name: string): Promise<string | null> {
    if (this.#held.has(name)) return null;
    const client = await this.#connected();
    const { rows } = await client.query<{ name: string | null }>(
      `SELECT a.application_name AS name FROM pg_locks l JOIN pg_stat_activity a ON a.pid = l.pid
       WHERE l.locktype = 'advisory' AND l.granted AND l.objsubid = 1 AND l.database = a.datid
         AND a.datname = current_database() AND ((l.classid::bigint << 32) | l.objid::bigint) = hashtextextended($1, 0)`,
      [name],
    );
    const address = rows[0]?.name?.startsWith(LEADS) ? rows[0].name.slice(LEADS.length).trim() : '';
    return address === '' ? null : address;
  }

  #name(): string {
    return `${LEADS} ${this.#address ?? ''}`.trim();
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
    const client = new pg.Client({ connectionString: this.url, keepAlive: true, application_name: this.#name() });
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
