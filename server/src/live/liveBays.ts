import { ConflictException, Injectable, Logger, NotFoundException, type OnModuleDestroy } from '@nestjs/common';
import { eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import type { Leadership } from '../database/leadership.ts';
import { bays, installation } from '../database/schema.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { LiveBay, type BayRow } from './liveBay.ts';

const ASK_AGAIN_MS = 2000;
/** A server that was just killed gives up its bays within moments. */
const PATIENCE = 5;
const PATIENCE_MS = 200;

/**
 * The bays that are live in this server; each is started once and listened to by any number of screens. Of several server processes
 * on one database one leads a bay, or its pulls would be recorded twice; another takes over when that one is gone.
 */
@Injectable()
export class LiveBays implements OnModuleDestroy {
  readonly #live = new Map<string, LiveBay>();
  readonly #leads = new Map<string, Leadership>();
  #watch: NodeJS.Timeout | null = null;
  #looking: Promise<void> = Promise.resolve();

  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
  ) {}

  /** Starts every bay that has instruments, and finishes what a killed server left open. */
  async startAll(): Promise<void> {
    const [first] = await this.database.withToken('', (tx) => tx.select().from(installation).limit(1));
    if (!first) return;
    const rows = await this.database.inShop(first.shopId, (tx) => tx.select().from(bays));
    for (const row of rows) await this.start(row);
  }

  /** Starts a bay, or starts it anew after its papers changed. Led by another process, it waits for its turn. */
  async start(row: BayRow): Promise<LiveBay> {
    await this.#live.get(row.id)?.stop();
    const bay = new LiveBay(row, this.database, this.store);
    this.#live.set(row.id, bay);
    const lead = this.#leads.get(row.id) ?? this.database.leadership(`prandel bay ${row.id}`);
    this.#leads.set(row.id, lead);
    let held = await lead.take();
    for (let k = 0; !held && k < PATIENCE; k += 1) {
      await new Promise((again) => setTimeout(again, PATIENCE_MS));
      held = await lead.take();
    }
    if (held) await bay.start();
    else new Logger('Bay').warn(`${row.label} is led by another server process; this one waits for its turn.`);
    this.#watch ??= setInterval(() => {
      this.#looking = this.#looking.then(() => this.#look());
    }, ASK_AGAIN_MS);
    return bay;
  }

  /** Takes over what nobody leads any more, and gives up what another process took while the database was away. */
  async #look(): Promise<void> {
    for (const [id, bay] of this.#live) {
      // While the database does not answer nobody can take a bay over; who leads goes on.
      const held = await this.#leads
        .get(id)!
        .take()
        .catch(() => null);
      if (held === true && !bay.started) await bay.start();
      if (held === false && bay.started) {
        await bay.stop();
        this.#live.set(id, new LiveBay(bay.row, this.database, this.store));
      }
    }
  }

  /** @throws NotFoundException when the shop has no such bay; ConflictException when another process leads it */
  of(shopId: string, bayId: string): LiveBay {
    const bay = this.#live.get(bayId);
    if (!bay || bay.row.shopId !== shopId) throw new NotFoundException('This shop has no such bay.');
    if (!bay.started)
      throw new ConflictException(
        `${bay.row.label} is led by another server process on this database. Open it there, or stop that process.`,
      );
    return bay;
  }

  all(shopId: string): LiveBay[] {
    return [...this.#live.values()]
      .filter((bay) => bay.row.shopId === shopId)
      .sort((a, b) => (a.row.label < b.row.label ? -1 : 1));
  }

  /** The bay in which a job is, if it is in one. */
  with(shopId: string, jobId: string): LiveBay | null {
    return this.all(shopId).find((bay) => bay.jobRowId === jobId) ?? null;
  }

  /** Changes a bay's papers unless a job is in it. */
  async edit(shopId: string, bayId: string, change: Partial<Omit<BayRow, 'id' | 'shopId'>>): Promise<void> {
    if (this.of(shopId, bayId).run)
      throw new ConflictException('A job is in this bay. Take it out before the bay’s papers are changed.');
    const [row] = await this.database.inShop(shopId, (tx) =>
      tx.update(bays).set(change).where(eq(bays.id, bayId)).returning(),
    );
    if (row) await this.start(row);
  }

  async onModuleDestroy(): Promise<void> {
    if (this.#watch) clearInterval(this.#watch);
    await this.#looking;
    for (const bay of this.#live.values()) await bay.stop();
    for (const lead of this.#leads.values()) await lead.release();
  }
}
