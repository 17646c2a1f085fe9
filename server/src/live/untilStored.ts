import { Logger } from '@nestjs/common';

const AGAIN_MS = 500;
/** Tries between two lines in the log. */
const LOG_EVERY = 60;

/**
 * Stores until it is stored: a full disk or a database that is away costs time, never a sample. What has not been written
 * waits in memory, and the sheet says so.
 */
export class UntilStored {
  readonly #log = new Logger('Bay');
  #trouble: string | null = null;
  #stopped = false;

  /** @param onTrouble called whenever something could not be stored yet */
  constructor(private readonly onTrouble: () => void) {}

  /** Why samples wait in memory; null while everything is stored. */
  get trouble(): string | null {
    return this.#trouble;
  }

  /** What cannot be stored from now on is given up: the process ends. */
  stop(): void {
    this.#stopped = true;
  }

  async run(work: () => Promise<void>): Promise<void> {
    let tries = 0;
    for (;;) {
      try {
        await work();
        if (tries > 0) this.#log.warn(`Stored after ${tries + 1} tries.`);
        this.#trouble = null;
        return;
      } catch (error) {
        if (this.#stopped) throw error;
        this.#trouble ??= (error as Error).message.split('\n')[0]!;
        if (tries % LOG_EVERY === 0) this.#log.warn(`Not stored yet, tried again: ${this.#trouble}`);
        tries += 1;
        this.onTrouble();
        await new Promise((again) => setTimeout(again, AGAIN_MS));
      }
    }
  }
}
