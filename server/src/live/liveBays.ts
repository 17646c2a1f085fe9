import { ConflictException, Injectable, Logger, NotFoundException, type OnModuleDestroy } from '@nestjs/common';
import { and, eq, gt } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { loggable, sqlState, UNIQUE_VIOLATION } from '../database/faults.ts';
import { bays } from '../database/schema.ts';
import { daysAgo, UNDO_DAYS } from '../database/undo.ts';
import { asNobody } from '../people/actor.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { ProjectionsService } from '../projections/projections.service.ts';
import { changeBay, deletedBays, insertBay, readBays, type BayChange, type BayRow } from '../bays/bayStore.ts';
import { LiveBay } from './liveBay.ts';
import { SampleWriter } from './sampleWriter.ts';

const ASK_AGAIN_MS = 2000;
/** Who leads a bay is asked of the database at most so often. */
const LEADER_MS = 1000;
/** A server that was just killed gives up its bays within moments. */
const PATIENCE = 5;
const PATIENCE_MS = 200;
/** More bays than any shop has under one roof; each costs timers and connections to its instruments. Judgement. */
export const MOST_BAYS = 24;

/**
 * The bays that are live in this server; each is started once and listened to by any number of screens. Of several server processes
 * on one database one leads a bay, or its pulls would be recorded twice; another takes over when that one is gone.
 */
@Injectable()
export class LiveBays implements OnModuleDestroy {
  readonly #live = new Map<string, LiveBay>();
  readonly #log = new Logger('Bay');
  /** Why a bay that this process leads could not be started; it is tried again. */
  readonly #failed = new Map<string, string>();
  readonly #writer: SampleWriter;
  #watch: NodeJS.Timeout | null = null;
  #looking: Promise<void> = Promise.resolve();
  /** Bays whose lead is being taken. */
  readonly #leading = new Map<LiveBay, Promise<boolean | null>>();
  /** Where the leaders of other bays are reached; asked before anybody is known, so never once a request. */
  readonly #leaders = new Map<string, { askedMs: number; address: Promise<string | null> }>();
  /** Changes of bays that this process is in the middle of. */
  #changing = 0;

  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly projections: ProjectionsService,
  ) {
    this.#writer = new SampleWriter(database);
  }

  #bayOf(row: BayRow): LiveBay {
    return new LiveBay(row, this.database, this.store, this.projections, this.#writer);
  }

  /** Starts every bay of every shop that has instruments, and finishes what a killed server left open. A bay that fails keeps no other from starting. */
  async startAll(): Promise<void> {
    for (const shopId of await this.database.everyShop()) {
      const rows = await this.database.inShop(shopId, (tx) => readBays(tx));
      for (const row of rows) await this.start(row);
    }
    this.#keepLooking();
  }

  /** Starts a bay, or starts it anew after its settings changed. Led by another process, it waits for its turn. */
  start(row: BayRow): Promise<LiveBay> {
    return asNobody(() => this.#start(row));
  }

  async #start(row: BayRow): Promise<LiveBay> {
    await this.#live.get(row.id)?.stop();
    const bay = this.#bayOf(row);
    this.#live.set(row.id, bay);
    let led = await this.#lead(bay);
    for (let k = 0; led === false && k < PATIENCE; k += 1) {
      await new Promise((again) => setTimeout(again, PATIENCE_MS));
      led = await this.#lead(bay);
    }
    if (led === false) this.#log.warn(`${row.label} is led by another server process; this one waits for its turn.`);
    this.#keepLooking();
    return bay;
  }

  #keepLooking(): void {
    this.#watch ??= setInterval(() => {
      this.#looking = this.#looking.then(() => this.#look()).catch((error) => this.#log.error(loggable(error)));
    }, ASK_AGAIN_MS);
  }

  /** Takes the lead of a bay and starts it. @returns whether this process leads it; null: nobody knows, the database is away */
  #lead(bay: LiveBay): Promise<boolean | null> {
    // Who starts a bay and who looks after all of them may come in the same moment: it is started once.
    const running = this.#leading.get(bay);
    if (running) return running;
    const own = this.#takeLead(bay).finally(() => this.#leading.delete(bay));
    this.#leading.set(bay, own);
    return own;
  }

  async #takeLead(bay: LiveBay): Promise<boolean | null> {
    const held = await this.database.leads.take(leadOf(bay)).catch(() => null);
    if (held !== true || bay.started) return held;
    try {
      await bay.start();
      this.#failed.delete(bay.row.id);
    } catch (error) {
      if (!this.#failed.has(bay.row.id)) this.#log.error(`${bay.row.label} did not start: ${loggable(error)}`);
      this.#failed.set(
        bay.row.id,
        'It could not be started and is tried again every two seconds; the server’s log says why.',
      );
    }
    return held;
  }

  /** Takes over what nobody leads any more, and gives up what another process took while the database was away. */
  async #look(): Promise<void> {
    await this.#seeOthers().catch(() => undefined);
    for (const [id, bay] of this.#live) {
      // While the database does not answer nobody can take a bay over; who leads goes on.
      const held = await this.#lead(bay);
      if (held === false && bay.started) {
        await bay.stop();
        this.#live.set(id, this.#bayOf(bay.row));
      }
    }
  }

  /** Learns of bays that another process made, changed or deleted; who leads them is seen afterwards. */
  async #seeOthers(): Promise<void> {
    if (this.#changing > 0 || !this.database.leads.takeBaysChanged()) return;
    for (const shopId of await this.database.everyShop()) {
      const rows = await this.database.inShop(shopId, (tx) => readBays(tx));
      for (const row of rows) {
        const known = this.#live.get(row.id);
        if (!known || (!known.started && known.row.version !== row.version)) this.#live.set(row.id, this.#bayOf(row));
      }
      for (const bay of this.all(shopId)) if (!rows.some((row) => row.id === bay.row.id)) await this.#drop(bay);
    }
  }

  /** Carries out a change of bays; meanwhile nobody looks whether others changed some. */
  async #change<T>(work: () => Promise<T>): Promise<T> {
    this.#changing += 1;
    try {
      return await work();
    } finally {
      this.#changing -= 1;
    }
  }

  /** Why a bay records nothing, in words for the page of bays; null: it records. */
  faultOf(bay: LiveBay): string | null {
    return this.#failed.get(bay.row.id) ?? bay.notConfigured;
  }

  /** @throws NotFoundException when the shop has no such bay; ConflictException when another process leads it */
  of(shopId: string, bayId: string): LiveBay {
    const bay = this.#live.get(bayId);
    if (!bay || bay.row.shopId !== shopId) throw new NotFoundException('This shop has no such bay.');
    if (!bay.started && this.#failed.has(bayId))
      throw new ConflictException(`${bay.row.label} is not running. ${this.#failed.get(bayId)}`);
    if (!bay.started)
      throw new ConflictException(
        `${bay.row.label} is led by another server process on this database, which does not say where it is reached. Open it there, or stop that process.`,
      );
    return bay;
  }

  /** Where the process that leads a bay is reached, when this one does not lead it. */
  async leaderOf(bayId: string): Promise<string | null> {
    const bay = this.#live.get(bayId);
    if (!bay || bay.started || this.#failed.has(bayId)) return null;
    const known = this.#leaders.get(bayId);
    if (known && performance.now() - known.askedMs < LEADER_MS) return known.address;
    const address = this.database.leads.addressOf(leadOf(bay)).catch(() => null);
    this.#leaders.set(bayId, { askedMs: performance.now(), address });
    return address;
  }

  all(shopId: string): LiveBay[] {
    return [...this.#live.values()]
      .filter((bay) => bay.row.shopId === shopId)
      .sort((a, b) => (a.row.label < b.row.label ? -1 : 1));
  }

  /** Counts for the operator's monitor. */
  health(): { baysLed: number; baysNotLed: number; waitingSamples: number; quarantined: number } {
    const all = [...this.#live.values()];
    const led = all.filter((bay) => bay.started && this.faultOf(bay) === null);
    const sum = (of: (bay: LiveBay) => number) => all.reduce((total, bay) => total + of(bay), 0);
    return {
      baysLed: led.length,
      baysNotLed: all.length - led.length,
      waitingSamples: sum((bay) => bay.waitingSamples),
      quarantined: sum((bay) => bay.quarantined),
    };
  }

  /** The bay in which a job is, if it is in one. */
  with(shopId: string, jobId: string): LiveBay | null {
    return this.all(shopId).find((bay) => bay.jobRowId === jobId) ?? null;
  }

  /** Changes what is named of a bay, unless a job is on it. */
  edit(shopId: string, bayId: string, version: number | undefined, change: BayChange): Promise<void> {
    return this.#change(async () => {
      if (this.of(shopId, bayId).run)
        throw new ConflictException('A job is in this bay. Take it out before the bay’s settings are changed.');
      const [row] = await this.#named(change.label ?? 'of this name', () =>
        this.database.inShop(shopId, async (tx) => {
          await changeBay(tx, shopId, bayId, version, change);
          return readBays(tx, bayId);
        }),
      );
      if (row) await this.start(row);
    });
  }

  /** Adds a bay and starts it; one that cannot be started yet is stored all the same and says so. */
  add(shopId: string, bay: Pick<BayRow, 'label' | 'rollers' | 'instruments'>): Promise<{ id: string }> {
    return this.#change(async () => {
      if (this.all(shopId).length >= MOST_BAYS)
        throw new ConflictException(`A shop has at most ${MOST_BAYS} bays. Delete one that is not used any more.`);
      const [row] = await this.#named(bay.label, () =>
        this.database.inShop(shopId, async (tx) => readBays(tx, await insertBay(tx, shopId, bay))),
      );
      await this.start(row!);
      return { id: row!.id };
    });
  }

  /** Bays that can still be brought back. */
  deleted(shopId: string): Promise<{ id: string; label: string; deletedAt: string }[]> {
    return this.database.inShop(shopId, deletedBays);
  }

  bringBack(shopId: string, bayId: string): Promise<void> {
    return this.#change(async () => {
      return this.#change(async () => {
        if (this.all(shopId).length >= MOST_BAYS)
          throw new ConflictException(`A shop has at most ${MOST_BAYS} bays. Delete one that is not used any more.`);
        const [row] = await this.#named('of this name', () =>
          this.database.inShop(shopId, async (tx) => {
            const back = await tx
              .update(bays)
              .set({ deletedAt: null })
              .where(and(eq(bays.id, bayId), gt(bays.deletedAt, daysAgo(UNDO_DAYS))))
              .returning({ id: bays.id });
            return back.length > 0 ? readBays(tx, bayId) : [];
          }),
        );
        if (!row) throw new NotFoundException('There is no such bay to bring back.');
        await this.start(row);
      });
    });
  }

  async #named<T>(label: string, work: () => Promise<T>): Promise<T> {
    try {
      return await work();
    } catch (error) {
      if (sqlState(error) === UNIQUE_VIOLATION)
        throw new ConflictException(`There is a bay ${label} already. Choose another name.`);
      throw error;
    }
  }

  /** Takes a bay out of use: nothing is recorded on it any more. */
  retire(shopId: string, bayId: string): Promise<void> {
    return this.#change(async () => {
      const bay = this.all(shopId).find((b) => b.row.id === bayId);
      if (!bay) throw new NotFoundException('This shop has no such bay.');
      if (bay.run) throw new ConflictException('A job is in this bay. Take its car off the rollers first.');
      if (bay.pulling) throw new ConflictException('A pull is being recorded in this bay.');
      await this.database.inShop(shopId, (tx) =>
        tx.update(bays).set({ deletedAt: new Date() }).where(eq(bays.id, bayId)),
      );
      await this.#drop(bay);
    });
  }

  async #drop(bay: LiveBay): Promise<void> {
    this.#live.delete(bay.row.id);
    this.#failed.delete(bay.row.id);
    await bay.stop();
    await this.database.leads.release(leadOf(bay)).catch(() => undefined);
  }

  async onModuleDestroy(): Promise<void> {
    if (this.#watch) clearInterval(this.#watch);
    await this.#looking;
    for (const bay of this.#live.values()) await bay.stop();
  }
}

const leadOf = (bay: LiveBay) => `prandel bay ${bay.row.id}`;
