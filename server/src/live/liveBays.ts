import { ConflictException, Injectable, NotFoundException, type OnModuleDestroy } from '@nestjs/common';
import { eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { bays, installation } from '../database/schema.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { LiveBay, type BayRow } from './liveBay.ts';

/** The bays that are live in this server; each is started once and listened to by any number of screens. */
@Injectable()
export class LiveBays implements OnModuleDestroy {
  readonly #live = new Map<string, LiveBay>();

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

  /** Starts a bay, or starts it anew after its papers changed. */
  async start(row: BayRow): Promise<LiveBay> {
    await this.#live.get(row.id)?.stop();
    const bay = new LiveBay(row, this.database, this.store);
    this.#live.set(row.id, bay);
    await bay.start();
    return bay;
  }

  /** @throws NotFoundException when the shop has no such bay */
  of(shopId: string, bayId: string): LiveBay {
    const bay = this.#live.get(bayId);
    if (!bay || bay.row.shopId !== shopId) throw new NotFoundException('This shop has no such bay.');
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
    for (const bay of this.#live.values()) await bay.stop();
  }
}
