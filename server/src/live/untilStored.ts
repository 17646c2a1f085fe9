import { Logger } from '@nestjs/common';
import { lastingFault } from '../database/faults.ts';

const AGAIN_MS = 500;
/** What can never be stored is tried this often before it is given to quarantine. */
const LASTING_TRIES = 3;
/** Tries between two lines in the log. */
const LOG_EVERY = 60;

/**
 * Stores until it is stored: a full disk or a database that is away costs time, never a sample. What has not been written
 * waits in memory, and the sheet says so. What the database refuses for good does not hold up what comes after it.
 */
export class UntilStored {
  readonly #log = new Logger('Bay');
  #fault: string | null = null;
  #stopped = false;

  /** @param onFault called whenever something could not be stored yet */
  constructor(private readonly onFault: () => void) {}

  /** Why samples wait in memory; null while everything is stored. */
  get fault(): string | null {
    return this.#fault;
  }

  /** What cannot be stored from now on is given up: the process ends. */
  stop(): void {
    this.#stopped = true;
  }

  /**
   * @param otherwise what is stored instead when `work` can never be
   * @returns whether `work` itself was stored
   * @throws what `work` threw last when it can never be stored and nothing else was given
   */
  async run(work: () => Promise<void>, otherwise?: (why: string) => Promise<void>): Promise<boolean> {
    for (let tries = 1; ; tries += 1) {
      try {
        await work();
        if (tries > 1) this.#log.warn(`Stored after ${tries} tries.`);
        this.#fault = null;
        return true;
      } catch (error) {
        if (this.#stopped) throw error;
        const why = firstLine(error);
        if (lastingFault(error) && tries >= LASTING_TRIES) {
          this.#log.error(`Cannot be stored: ${why}`);
          this.#fault = null;
          if (!otherwise) throw error;
          await this.run(() => otherwise(why));
          return false;
        }
        this.#fault ??= why;
        if ((tries - 1) % LOG_EVERY === 0) this.#log.warn(`Not stored yet, tried again: ${why}`);
        this.onFault();
        await new Promise((again) => setTimeout(again, lastingFault(error) ? AGAIN_MS / 10 : AGAIN_MS));
      }
    }
  }
}

/** What went wrong, without the statement and its parameters, which the driver puts into its own message. */
function firstLine(error: unknown): string {
  const cause = error instanceof Error && error.cause instanceof Error ? error.cause : (error as Error);
  return cause.message.split('\n')[0]!;
}
