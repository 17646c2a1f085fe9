import { Injectable, UnprocessableEntityException } from '@nestjs/common';
import { judgingProblem, type Job } from '@prandel/core';
import type { Caller } from '../people/caller.ts';
import type { Projection, Work } from './work.ts';
import { WorkPool } from './workPool.ts';

/** Judges jobs, writes reports and packages, off the event loop. A job that cannot be judged is refused in one sentence. */
@Injectable()
export class Judging {
  constructor(private readonly pool: WorkPool) {}

  /** What is kept of a job's judgement. @throws UnprocessableEntityException when the job cannot be judged */
  projection(shopId: string, read: () => Promise<Job>): Promise<Projection> {
    return this.pool.run(shopId, 'projection', async () => inputOf(await read(), (job) => ({ job })), LIMIT);
  }

  /** Peak wheel power of a job's baseline, W. @throws UnprocessableEntityException when the job cannot be judged */
  baselinePeak(shopId: string, read: () => Promise<Job>): Promise<number | null> {
    return this.pool.run(shopId, 'baselinePeak', async () => inputOf(await read(), (job) => ({ job })), LIMIT);
  }

  /** @throws UnprocessableEntityException when the job cannot be judged */
  reportHtml({ shopId, shop, name, units }: Caller, read: () => Promise<Job>): Promise<string> {
    const reader = { shop, name, units };
    return this.pool.run(shopId, 'reportHtml', async () => inputOf(await read(), (job) => ({ job, reader })), LIMIT);
  }

  /** @throws UnprocessableEntityException when the job cannot be judged */
  reportNumbers({ shopId }: Caller, read: () => Promise<Job>): Promise<ReturnType<Work['reportNumbers']>> {
    return this.pool.run(shopId, 'reportNumbers', async () => inputOf(await read(), (job) => ({ job })), LIMIT);
  }

  writePackage({ shopId }: Caller, read: () => Promise<PackageInput>): Promise<Uint8Array> {
    const prepare = async () => {
      const input = await read();
      return { input, transfer: buffersOf(input.job) };
    };
    return this.pool.run(shopId, 'writePackage', prepare, LIMIT);
  }
}

const LIMIT = { timeoutS: 60 };

export type PackageInput = Parameters<Work['writePackage']>[0];

/** @throws UnprocessableEntityException when the job cannot be judged */
function inputOf<T>(job: Job, use: (job: Job) => T): { input: T; transfer: ArrayBuffer[] } {
  const problem = judgingProblem(job);
  if (problem) throw new UnprocessableEntityException(`This job cannot be judged. ${problem.text}`);
  return { input: use(job), transfer: buffersOf(job) };
}

/** The samples were read for this one piece of work, so they go over instead of being copied. */
function buffersOf(job: Job): ArrayBuffer[] {
  return [...new Set(job.pulls.flatMap((p) => p.channels.map((c) => c.values.buffer as ArrayBuffer)))];
}
