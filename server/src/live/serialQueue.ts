import { Logger } from '@nestjs/common';
import { databaseAway, loggable } from '../database/faults.ts';

/** Work of one bay, one piece after the other, in the order in which it was asked for. */
export class SerialQueue {
  readonly #log = new Logger('Bay');
  #last: Promise<unknown> = Promise.resolve();
  #stopped = false;

  /** Resolves or rejects with the work; a piece whose turn comes after the stop is not done. */
  take<T>(work: () => Promise<T>): Promise<T> {
    const next = this.#last.then(() => (this.#stopped ? (undefined as T) : work()));
    this.#last = next.catch((error: Error) => {
      // A database that is away is told of elsewhere, once and not with every look.
      if (!databaseAway(error)) this.#log.error(loggable(error));
    });
    return next;
  }

  /** Work that nobody waits for: what goes wrong is in the log, and never ends the process. */
  later(work: () => Promise<void>, afterwards: () => void = () => undefined): void {
    this.take(work)
      .catch(() => undefined)
      .finally(afterwards);
  }

  /** No further piece is begun. */
  stop(): void {
    this.#stopped = true;
  }

  /** When everything that was asked for so far is done. */
  async done(): Promise<void> {
    await this.#last;
  }
}
