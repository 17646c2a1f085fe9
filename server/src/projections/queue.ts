import { Injectable, Logger, type OnApplicationShutdown } from '@nestjs/common';
import PgBoss from 'pg-boss';
import { loggable } from '../database/faults.ts';

/** Schema of the queue's own tables. */
export const QUEUE_SCHEMA = 'work_queue';
const QUEUE = 'projections';
const TOGETHER = 8;
const LOOK_EVERY_S = 1;

/** What is to be worked out again: a job's projection, or its baseline's peak under another method. */
export interface ProjectionWork {
  readonly shopId: string;
  readonly jobId: string;
  readonly peak?: { readonly correction: string; readonly averagingWidthRpm: number };
}

/** Makes the tables of the queue; by the owner of the database, before any server starts. */
export async function prepareQueue(connectionString: string): Promise<void> {
  const boss = new PgBoss({ connectionString, schema: QUEUE_SCHEMA, supervise: false, schedule: false, max: 1 });
  boss.on('error', () => undefined);
  await boss.start();
  try {
    // One piece of work a job waits at a time, however often it is asked for.
    await boss.createQueue(QUEUE, { name: QUEUE, policy: 'short', retryLimit: 3, retryDelay: 2, expireInSeconds: 300 });
  } finally {
    await boss.stop({ graceful: false, wait: true });
  }
}

/** Work that waits in the database, for whichever server process takes it. */
@Injectable()
export class ProjectionQueue implements OnApplicationShutdown {
  #boss: Promise<PgBoss> | null = null;
  #worker: string | null = null;
  readonly #log = new Logger('Projections');

  /** Asks for work; asked for again before it is begun, it is done once. Never fails the caller: what is missing is found again. */
  async ask(work: readonly ProjectionWork[]): Promise<void> {
    if (work.length === 0) return;
    try {
      const boss = await this.#started();
      await boss.insert(
        work.map((data) => ({ name: QUEUE, data, singletonKey: keyOf(data), retryLimit: 3, retryDelay: 2 })),
      );
      if (this.#worker) boss.notifyWorker(this.#worker);
    } catch (error) {
      this.#log.warn(`Not queued; it is asked for again with the next look: ${loggable(error).split('\n')[0]}`);
    }
  }

  /** Takes work from now on. */
  async work(handle: (work: ProjectionWork) => Promise<void>): Promise<void> {
    const boss = await this.#started();
    this.#worker = await boss.work<ProjectionWork>(
      QUEUE,
      { batchSize: TOGETHER, pollingIntervalSeconds: LOOK_EVERY_S },
      async (batch) => {
        await Promise.all(batch.map(({ data }) => handle(data)));
      },
    );
  }

  #started(): Promise<PgBoss> {
    this.#boss ??= this.#start().catch((error: unknown) => {
      this.#boss = null;
      throw error;
    });
    return this.#boss;
  }

  async #start(): Promise<PgBoss> {
    const boss = new PgBoss({
      connectionString: process.env.DATABASE_URL!,
      schema: QUEUE_SCHEMA,
      migrate: false,
      schedule: false,
      max: 2,
      application_name: 'prandel queue',
    });
    boss.on('error', (error) => this.#log.warn(loggable(error).split('\n')[0]!));
    return boss.start();
  }

  async onApplicationShutdown(): Promise<void> {
    const boss = await this.#boss?.catch(() => null);
    await boss?.stop({ graceful: true, wait: true, timeout: 5000 }).catch(() => undefined);
  }
}

function keyOf({ jobId, peak }: ProjectionWork): string {
  return peak ? `${jobId} ${peak.correction} ${peak.averagingWidthRpm}` : jobId;
}
