import { Injectable } from '@nestjs/common';
import type { Job, RecordedPart } from '@prandel/core';
import { Database } from '../database/database.ts';
import type { FramedJob } from '../frames/madeFrames.ts';
import { framesOf, type JobBeingRead, type JobFrames } from '../frames/pullFrames.ts';
import type { Sealed, SealInput } from '../seals/sealWork.ts';
import type { Caller } from '../people/caller.ts';
import type { Projection, Work } from './work.ts';
import { WorkPool } from './workPool.ts';

/** Judges jobs, writes reports and packages, off the event loop. A job that cannot be judged is refused in one sentence. */
@Injectable()
export class Judging {
  constructor(
    private readonly pool: WorkPool,
    private readonly database: Database,
  ) {}

  /** What stands for the samples of a job. @throws UnprocessableEntityException when the job cannot be judged */
  frames(shopId: string, read: JobBeingRead): Promise<JobFrames> {
    return framesOf(this.database, shopId, read, (work) => {
      const input = () => ({ input: work, transfer: buffersOf(work.job) });
      return this.pool.run(shopId, 'madeFrames', input, LIMIT);
    });
  }

  /** What is kept of a job's judgement. @throws UnprocessableEntityException when the job cannot be judged */
  async projection(shopId: string, read: JobBeingRead): Promise<Projection> {
    const framed = await this.#framed(shopId, read);
    return this.pool.run(shopId, 'projection', () => ({ input: framed }), LIMIT);
  }

  /** Peak wheel power of a job's baseline, W. @throws UnprocessableEntityException when the job cannot be judged */
  async baselinePeak(shopId: string, read: JobBeingRead): Promise<number | null> {
    const framed = await this.#framed(shopId, read);
    return this.pool.run(shopId, 'baselinePeak', () => ({ input: framed }), LIMIT);
  }

  /** @throws UnprocessableEntityException when the job cannot be judged */
  async reportHtml(
    { shopId, shop, name, units }: Caller,
    read: JobBeingRead,
    recorded: readonly RecordedPart[],
  ): Promise<string> {
    const framed = await this.#framed(shopId, read);
    const input = { ...framed, recorded, reader: { shop, name, units } };
    return this.pool.run(shopId, 'reportHtml', () => ({ input }), LIMIT);
  }

  /** @throws UnprocessableEntityException when the job cannot be judged */
  async reportNumbers({ shopId }: Caller, read: JobBeingRead): Promise<ReturnType<Work['reportNumbers']>> {
    const framed = await this.#framed(shopId, read);
    return this.pool.run(shopId, 'reportNumbers', () => ({ input: framed }), LIMIT);
  }

  writePackage({ shopId }: Caller, read: () => Promise<PackageInput>): Promise<Uint8Array> {
    const prepare = async () => {
      const input = await read();
      return { input, transfer: buffersOf(input.job) };
    };
    return this.pool.run(shopId, 'writePackage', prepare, LIMIT);
  }

  /** Seals a job: package, report and figures in one. @throws UnprocessableEntityException saying why it cannot be sealed */
  async sealJob(
    { shopId }: Caller,
    read: JobBeingRead,
    more: Omit<SealInput, 'framed' | 'job'>,
    job: Job,
  ): Promise<Sealed> {
    const { frames, samples } = await this.frames(shopId, read);
    const input = { ...more, job, framed: { frames, samples } };
    return this.pool.run(shopId, 'sealJob', () => ({ input, transfer: buffersOf(job) }), LIMIT);
  }

  async #framed(shopId: string, read: JobBeingRead): Promise<FramedJob & Pick<JobFrames, 'samples'>> {
    const [job, frames] = await Promise.all([read.job, this.frames(shopId, read)]);
    return { job, ...frames };
  }
}

const LIMIT = { timeoutS: 60 };

export type PackageInput = Parameters<Work['writePackage']>[0];

/** The samples were read for this one piece of work, so they go over instead of being copied. */
function buffersOf(job: Pick<Job, 'pulls'>): ArrayBuffer[] {
  return [...new Set(job.pulls.flatMap((p) => p.channels.map((c) => c.values.buffer as ArrayBuffer)))];
}
