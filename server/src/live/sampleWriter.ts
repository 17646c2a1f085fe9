import type { Database } from '../database/database.ts';
import { recordingChunks } from '../database/schema.ts';

type Chunk = Omit<typeof recordingChunks.$inferInsert, 'shopId'>;

interface Waiting {
  readonly chunk: Chunk;
  readonly done: () => void;
  readonly failed: (error: unknown) => void;
}

/**
 * Writes the samples of all bays of a shop: what comes while a transaction is under way goes into the next one together, so that
 * many bays cost few transactions and one bay waits for nobody.
 */
export class SampleWriter {
  /** By shop; there while a transaction is under way. */
  readonly #waiting = new Map<string, Waiting[]>();

  constructor(private readonly database: Database) {}

  /** Returns once the chunk is committed. Written again after a commit whose answer was lost, it changes nothing. @throws what kept this very chunk from being stored */
  write(shopId: string, chunk: Chunk): Promise<void> {
    return new Promise((done, failed) => {
      const under = this.#waiting.get(shopId);
      if (under) return void under.push({ chunk, done, failed });
      this.#waiting.set(shopId, []);
      void this.#writeAll(shopId, [{ chunk, done, failed }]);
    });
  }

  async #writeAll(shopId: string, first: readonly Waiting[]): Promise<void> {
    for (let batch = first; batch.length > 0; batch = this.#waiting.get(shopId)!.splice(0)) {
      try {
        await this.#insert(shopId, batch);
        for (const { done } of batch) done();
      } catch (error) {
        // One chunk that cannot be stored keeps no other from it.
        if (batch.length === 1) batch[0]!.failed(error);
        else for (const own of batch) await this.#insert(shopId, [own]).then(own.done, own.failed);
      }
    }
    this.#waiting.delete(shopId);
  }

  #insert(shopId: string, batch: readonly Waiting[]): Promise<void> {
    const rows = batch.map(({ chunk }) => ({ ...chunk, shopId }));
    return this.database.inShop(shopId, async (tx) => {
      await tx.insert(recordingChunks).values(rows).onConflictDoNothing();
    });
  }
}
