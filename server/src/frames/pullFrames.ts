import { UnprocessableEntityException } from '@nestjs/common';
import { frameFrom, judgingProblem, PreparedPulls, pullProblem, type Job } from '@prandel/core';
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { Database, Transaction } from '../database/database.ts';
import { pullMoments, pulls } from '../database/schema.ts';
import { readSamples } from '../jobs/pullRows.ts';
import type { FrameWork, MadeFrame } from './madeFrames.ts';

/** What stands for the samples of a job's pulls, as the job is now. */
export interface JobFrames {
  /** Frames in the order of the pulls (core, frameBytes). */
  readonly frames: readonly (readonly [string, Uint8Array])[];
  /** SHA-256 of every pull's samples. */
  readonly samples: ReadonlyMap<string, string>;
}

/**
 * A setup's pulls have steps in common once all of them are prepared, and are then prepared again: two rounds. A third finds pulls that
 * somebody stored meanwhile.
 */
const MOST_ROUNDS = 4;

/** A job that is read, or being read: what is kept of its samples is looked up meanwhile. */
export interface JobBeingRead {
  readonly rowId: string;
  readonly job: Job | Promise<Job>;
}

/**
 * Frames of every pull of a job. What is kept and still stands is read; what is missing is made from the samples, by `make`, and kept.
 * @throws UnprocessableEntityException when the job cannot be judged
 */
export async function framesOf(
  database: Database,
  shopId: string,
  { rowId, job: read }: JobBeingRead,
  make: (work: FrameWork) => Promise<MadeFrame[]>,
): Promise<JobFrames> {
  const [job, kept] = await Promise.all([read, database.inShop(shopId, (tx) => readFrames(tx, rowId))]);
  refuseUnjudgeable(judgingProblem(job));
  const prepared = new PreparedPulls();
  const known = new Map(
    [...kept].flatMap(([id, row]) => {
      const frame = frameFrom(row.frame);
      if (frame) prepared.take([[id, frame]]);
      return frame ? [[id, row] as const] : [];
    }),
  );
  for (let round = 0; round < MOST_ROUNDS; round += 1) {
    const wanted = prepared.missing(job);
    if (wanted.length === 0) break;
    const samples = await database.inShop(shopId, (tx) => readSamples(tx, rowId, wanted));
    const pulls = job.pulls.map((p) => (wanted.includes(p.id) ? { ...p, channels: samples.get(p.id) ?? [] } : p));
    for (const pull of pulls) refuseUnjudgeable(pullProblem(pull));
    const made = await make({
      job: { pulls, bay: job.bay, vehicle: job.vehicle },
      wanted,
      known: [...known].map(([id, { frame }]) => [id, frame] as const),
    });
    for (const { pull, frame, samplesSha256 } of made) {
      prepared.take([[pull, frameFrom(frame)!]]);
      known.set(pull, { frame, samplesSha256 });
    }
    await database.inShop(shopId, (tx) => keepFrames(tx, shopId, rowId, made));
  }
  return {
    frames: job.pulls.flatMap(({ id }) => (known.has(id) ? [[id, known.get(id)!.frame] as const] : [])),
    samples: new Map([...known].map(([id, { samplesSha256 }]) => [id, samplesSha256])),
  };
}

function refuseUnjudgeable(problem: ReturnType<typeof judgingProblem>): void {
  if (problem) throw new UnprocessableEntityException(`This job cannot be judged. ${problem.text}`);
}

async function readFrames(tx: Transaction, jobId: string) {
  const rows = await tx
    .select({ key: pulls.pullKey, frame: pullMoments.frame, samplesSha256: pullMoments.samplesSha256 })
    .from(pullMoments)
    .innerJoin(pulls, eq(pulls.id, pullMoments.pullId))
    .where(eq(pulls.jobId, jobId));
  return new Map(rows.map(({ key, ...row }) => [key, row as { frame: Uint8Array; samplesSha256: string }]));
}

/** A pull that was deleted meanwhile keeps none. */
async function keepFrames(tx: Transaction, shopId: string, jobId: string, made: readonly MadeFrame[]): Promise<void> {
  const rows = await tx
    .select({
      ...{ id: pulls.id, key: pulls.pullKey },
      channels: sql<number>`(SELECT count(*) FROM channels c WHERE c.pull_id = ${pulls.id})::int`,
    })
    .from(pulls)
    .where(
      and(
        eq(pulls.jobId, jobId),
        inArray(
          pulls.pullKey,
          made.map((m) => m.pull),
        ),
      ),
    )
    .orderBy(asc(pulls.id))
    .for('key share');
  const values = rows.flatMap(({ id, key, channels }) => {
    const { frame, samplesSha256, channels: seen } = made.find((m) => m.pull === key)!;
    // A logger's channels came or went meanwhile: the frame stands for what was there before.
    return channels === seen ? [{ shopId, pullId: id, frame: Buffer.from(frame), samplesSha256 }] : [];
  });
  if (values.length === 0) return;
  await tx
    .insert(pullMoments)
    .values(values)
    .onConflictDoUpdate({
      target: pullMoments.pullId,
      set: { frame: sql`excluded.frame`, samplesSha256: sql`excluded.samples_sha256` },
    });
}
