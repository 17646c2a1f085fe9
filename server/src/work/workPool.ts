import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import { MessageChannel, type Transferable } from 'node:worker_threads';
import { Injectable, UnprocessableEntityException, type OnModuleDestroy } from '@nestjs/common';
import { UnreadableError, type Problem } from '@prandel/formats';
import { Piscina } from 'piscina';
import { FairQueue } from './fairQueue.ts';
import type { Work, WorkName } from './work.ts';

const WORKER = fileURLToPath(new URL('../../dist/bundle/worker.js', import.meta.url));
/** One thread is left to the live loop and the database. */
const THREADS = Math.max(1, availableParallelism() - 1);
const HEAP_MB = 512;
const IDLE_MS = 30_000;

/** What a piece of work is done with, and what of it goes over to the thread instead of being copied. */
export interface WorkInput<T> {
  readonly input: T;
  readonly transfer?: readonly Transferable[];
}

/** How one piece of work is run. */
export interface WorkOptions {
  readonly timeoutS: number;
  readonly signal?: AbortSignal;
  /** Share done, 0 to 1. */
  readonly onProgress?: (share: number) => void;
}

interface Waiting {
  readonly start: () => void;
}

/** What a worker reports when the work cannot be done for a reason that a person can mend. */
export interface WorkRefusal {
  readonly refused: string;
  readonly problems: readonly Problem[];
}

/**
 * Heavy work off the event loop: reading, judging, reports and packages run in threads with limits of memory and time, and the shops
 * take turns. A thread that runs out of either ends alone.
 */
@Injectable()
export class WorkPool implements OnModuleDestroy {
  #pool: Piscina | null = null;
  #running = 0;
  readonly #waiting = new FairQueue<Waiting>();

  /**
   * @param prepare makes the input when the turn has come, so that what waits holds no samples in memory
   * @throws UnreadableError when the input cannot be read; UnprocessableEntityException when it takes too long or too much memory;
   *   the signal's reason when it was cancelled
   */
  async run<N extends WorkName>(
    shopId: string,
    name: N,
    prepare: () => WorkInput<Parameters<Work[N]>[0]> | Promise<WorkInput<Parameters<Work[N]>[0]>>,
    { timeoutS, signal, onProgress }: WorkOptions,
  ): Promise<Awaited<ReturnType<Work[N]>>> {
    await this.#turn(shopId, signal);
    const timeout = new AbortController();
    let timer: NodeJS.Timeout | undefined;
    const channel = onProgress ? new MessageChannel() : null;
    channel?.port1.on('message', (share: number) => onProgress!(share));
    try {
      const { input, transfer } = await prepare();
      timer = setTimeout(() => timeout.abort(), timeoutS * 1000);
      const answer: unknown = await this.#threads().run(
        { name, input, progress: channel?.port2 ?? null },
        {
          signal: signal ? AbortSignal.any([signal, timeout.signal]) : timeout.signal,
          transferList: [...(transfer ?? []), ...(channel ? [channel.port2] : [])] as never,
        },
      );
      if (isRefusal(answer)) throw new UnreadableError(answer.refused, answer.problems);
      return answer as Awaited<ReturnType<Work[N]>>;
    } catch (error) {
      if (signal?.aborted) throw signal.reason as Error;
      if (timeout.signal.aborted)
        throw new UnprocessableEntityException(
          `This took longer than ${timeoutS} s and was stopped. Split the file, or export at a lower rate.`,
        );
      if ((error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY')
        throw new UnprocessableEntityException(
          'This needs more memory than one piece of work may have, and was stopped. Split the file, or export fewer channels.',
        );
      throw error;
    } finally {
      clearTimeout(timer);
      channel?.port1.close();
      this.#running -= 1;
      this.#waiting.shift()?.start();
    }
  }

  /** Starts a thread before there is work for it: its modules take a second to load, and code that has run before runs faster. */
  warm(): void {
    void this.#threads()
      .run({ name: 'warmUp', input: null, progress: null })
      .catch(() => undefined);
  }

  #threads(): Piscina {
    this.#pool ??= new Piscina({
      filename: WORKER,
      minThreads: 1,
      maxThreads: THREADS,
      idleTimeout: IDLE_MS,
      // Workers sleep on their port: work takes milliseconds at least, and progress has to get through.
      atomics: 'disabled',
      resourceLimits: { maxOldGenerationSizeMb: HEAP_MB },
    });
    return this.#pool;
  }

  async #turn(shopId: string, signal: AbortSignal | undefined): Promise<void> {
    signal?.throwIfAborted();
    if (this.#running < THREADS) {
      this.#running += 1;
      return;
    }
    await new Promise<void>((resolve, reject) => {
      const stop = () => {
        if (this.#waiting.remove(shopId, waiting)) reject(signal!.reason as Error);
      };
      const waiting: Waiting = {
        start: () => {
          signal?.removeEventListener('abort', stop);
          this.#running += 1;
          resolve();
        },
      };
      this.#waiting.push(shopId, waiting);
      signal?.addEventListener('abort', stop, { once: true });
    });
  }

  async onModuleDestroy(): Promise<void> {
    await this.#pool?.destroy();
  }
}

function isRefusal(answer: unknown): answer is WorkRefusal {
  return typeof answer === 'object' && answer !== null && 'refused' in answer;
}
