import { createHash, randomUUID } from 'node:crypto';
import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import {
  LIMITS,
  plausibleInstantMs,
  USUAL_DAY,
  type Channel,
  type DayPapers,
  type Fitting,
  type Job,
  type Pull,
  type WeatherReading,
} from '@prandel/core';
import type { PackageExtras } from '@prandel/formats';
import { isUUID as isUuid } from 'class-validator';
import { and, asc, desc, eq, inArray, isNull, lt, or, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import type { PullPaper } from '../database/papers.ts';
import { record, type EvidenceKind } from '../evidence/evidence.ts';
import { fileBytes, storeFile } from '../files/fileStore.ts';
import { channels, files, jobs, pulls, setups } from '../database/schema.ts';

/** A job as stored: the plain job plus its row's id and version. */
export interface StoredJob {
  readonly rowId: string;
  readonly version: number;
  readonly job: Job;
}

/** A job as a list shows it. */
export interface JobListed {
  readonly id: string;
  readonly version: number;
  readonly number: string;
  readonly title: string;
  readonly vehicle: string;
  readonly openedAt: string | null;
  readonly updatedAt: Date;
  readonly plannedAt: string | null;
  readonly pulls: number;
  readonly lastPullAt: string | null;
}

/** Samples that are put into one statement, bytes. */
const INSERTED_BYTES = 4_000_000;
const NO_EXTRAS = { descriptor: {}, setupCells: {}, pullCells: {}, weatherCells: [] };

/** Puts jobs into tables and takes them out again, without loss. Works inside a shop's transaction. */
@Injectable()
export class JobStore {
  async insert(tx: Transaction, shopId: string, job: Job, extras: PackageExtras | null): Promise<string> {
    const rowId = randomUUID();
    const kept = extras && {
      descriptor: extras.descriptor,
      setupCells: copy(extras.setupCells),
      pullCells: copy(extras.pullCells),
      weatherCells: extras.weatherCells.map((c) => ({ ...c })),
    };
    await tx.insert(jobs).values({
      id: rowId,
      shopId,
      number: job.id,
      title: job.title,
      openedAt: job.openedAt,
      timeZone: job.timeZone,
      vehicle: job.vehicle,
      bay: job.bay,
      question: job.question,
      method: job.method,
      weather: [...job.weather],
      extras: kept,
      day: job.day ?? null,
    });
    await this.replaceSetups(tx, shopId, rowId, job.setups);
    await this.addPulls(tx, shopId, rowId, job.pulls);
    for (const [name, content] of extras?.files ?? [])
      await storeFile(tx, { shopId, jobId: rowId, kind: 'resource', name }, content);
    return rowId;
  }

  async replaceSetups(tx: Transaction, shopId: string, jobId: string, list: Job['setups']): Promise<void> {
    await tx.delete(setups).where(eq(setups.jobId, jobId));
    await tx.insert(setups).values(list.map((paper, place) => ({ shopId, jobId, setupKey: paper.id, place, paper })));
  }

  async addPulls(
    tx: Transaction,
    shopId: string,
    jobId: string,
    list: readonly Pull[],
    fileOf: (pull: Pull) => string | null = () => null,
  ): Promise<void> {
    const [{ count } = { count: 0 }] = await tx
      .select({ count: sql<number>`count(*)::int` })
      .from(pulls)
      .where(eq(pulls.jobId, jobId));
    if (list.length === 0) return;
    if (count + list.length > LIMITS.pullsPerJob)
      throw new BadRequestException(
        `A job holds at most ${LIMITS.pullsPerJob} pulls; this one has ${count}. Open another job for the rest.`,
      );
    const rows = list.map((pull, i) => {
      const { id, setupId, status, reason, startedAt, channels: own, ...paper } = pull;
      const samplesSha256 = samplesDigest(own);
      return {
        own,
        row: {
          id: randomUUID(),
          shopId,
          jobId,
          pullKey: id,
          setupKey: setupId,
          place: count + i,
          status,
          reason,
          startedAt,
          paper: paper satisfies PullPaper,
          fileId: fileOf(pull),
          samplesSha256,
        },
      };
    });
    await tx.insert(pulls).values(rows.map(({ row }) => row));
    const samples = rows.flatMap(({ own, row }) =>
      own.map((c, place) => ({ shopId, pullId: row.id, place, name: c.name, samples: samplesOf(c.values) })),
    );
    for (let at = 0; at < samples.length;) {
      let bytes = 0;
      const from = at;
      while (at < samples.length && at - from < 500 && (at === from || bytes < INSERTED_BYTES))
        bytes += samples[at++]!.samples.byteLength;
      await tx.insert(channels).values(samples.slice(from, at));
    }
  }

  /**
   * @param samples whether the samples are read too; samples that are known already, by pull, are not read again
   * @throws NotFoundException when this shop has no such job
   */
  async read(
    tx: Transaction,
    rowId: string,
    samples: boolean | ReadonlyMap<string, readonly Channel[]>,
  ): Promise<StoredJob> {
    const [row] = await tx
      .select()
      .from(jobs)
      .where(and(eq(jobs.id, rowId), isNull(jobs.deletedAt)));
    if (!row) throw new NotFoundException('This shop has no such job.');
    const setupRows = await tx.select().from(setups).where(eq(setups.jobId, rowId)).orderBy(asc(setups.place));
    const pullRows = await tx.select().from(pulls).where(eq(pulls.jobId, rowId)).orderBy(asc(pulls.place));
    const known = typeof samples === 'boolean' ? new Map<string, readonly Channel[]>() : samples;
    const wanted = samples === false ? [] : pullRows.filter((p) => !known.has(p.pullKey));
    const own = await this.#samplesOf(
      tx,
      wanted.map((p) => p.id),
    );
    const job: Job = {
      id: row.number,
      title: row.title,
      openedAt: row.openedAt,
      timeZone: row.timeZone,
      vehicle: row.vehicle,
      bay: row.bay,
      question: row.question,
      method: row.method,
      setups: setupRows.map((s) => s.paper),
      weather: row.weather as WeatherReading[],
      ...(row.day ? { day: row.day } : {}),
      pulls: pullRows.map((p) => ({
        ...p.paper,
        id: p.pullKey,
        setupId: p.setupKey,
        status: p.status,
        reason: p.reason,
        startedAt: p.startedAt,
        channels: own.get(p.id) ?? known.get(p.pullKey) ?? [],
      })),
    };
    return { rowId, version: row.version, job };
  }

  async #samplesOf(tx: Transaction, pullIds: readonly string[]): Promise<Map<string, Channel[]>> {
    const own = new Map<string, Channel[]>();
    if (pullIds.length === 0) return own;
    const rows = await tx
      .select()
      .from(channels)
      .where(inArray(channels.pullId, [...pullIds]))
      .orderBy(asc(channels.place));
    for (const c of rows)
      own.set(c.pullId, [...(own.get(c.pullId) ?? []), { name: c.name, values: valuesOf(c.samples) }]);
    return own;
  }

  async extras(tx: Transaction, rowId: string): Promise<PackageExtras | undefined> {
    const [row] = await tx.select({ extras: jobs.extras }).from(jobs).where(eq(jobs.id, rowId));
    if (!row) return undefined;
    const kept = await tx
      .select()
      .from(files)
      .where(and(eq(files.jobId, rowId), eq(files.kind, 'resource')))
      .orderBy(asc(files.name));
    if (!row.extras && kept.length === 0) return undefined;
    const contents = new Map<string, Buffer>();
    for (const file of kept) contents.set(file.name, await fileBytes(tx, file.id));
    return { ...NO_EXTRAS, ...row.extras, files: contents };
  }

  /** Takes the next version, or refuses when somebody else changed the job since it was read. */
  async bump(tx: Transaction, rowId: string, version: number): Promise<void> {
    const changed = await tx
      .update(jobs)
      .set({ version: version + 1, updatedAt: new Date() })
      .where(and(eq(jobs.id, rowId), eq(jobs.version, version)))
      .returning({ id: jobs.id });
    if (changed.length > 0) return;
    const [row] = await tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, rowId));
    if (!row) throw new NotFoundException('This shop has no such job.');
    throw new ConflictException(
      'Somebody else changed this job meanwhile. It was loaded again; look, then repeat your change.',
    );
  }

  /** Takes the next version for a change that no person made against an older one: a pull arrived. */
  async touch(tx: Transaction, rowId: string): Promise<void> {
    await tx
      .update(jobs)
      .set({ version: sql`${jobs.version} + 1`, updatedAt: new Date() })
      .where(eq(jobs.id, rowId));
  }

  /** Changes the day's papers under the job's lock: a clock stopped and a photo taken at once lose nothing. */
  async changeDay(tx: Transaction, rowId: string, change: (day: DayPapers) => DayPapers): Promise<void> {
    const [row] = await tx.select({ day: jobs.day }).from(jobs).where(eq(jobs.id, rowId)).for('update');
    if (!row) throw new NotFoundException('This shop has no such job.');
    await tx
      .update(jobs)
      .set({ day: change(row.day ?? USUAL_DAY) })
      .where(eq(jobs.id, rowId));
    await this.touch(tx, rowId);
  }

  changeFittings(tx: Transaction, rowId: string, change: (list: readonly Fitting[]) => Fitting[]): Promise<void> {
    return this.changeDay(tx, rowId, (day) => ({ ...day, fittings: change(day.fittings) }));
  }

  /** Adds a reading of the bay's weather; nobody's edit is refused because of it. */
  async addWeather(tx: Transaction, rowId: string, reading: WeatherReading): Promise<void> {
    await tx
      .update(jobs)
      .set({ weather: sql`${jobs.weather} || ${JSON.stringify([reading])}::jsonb` })
      .where(eq(jobs.id, rowId));
  }

  /** Adds to the job's evidence log. */
  note(
    tx: Transaction,
    shopId: string,
    jobId: string,
    person: string,
    what: string,
    kind: EvidenceKind = 'edit',
  ): Promise<void> {
    return record(tx, shopId, jobId, { person, what, kind });
  }

  /** Locks a job until the transaction ends. @throws NotFoundException when this shop has no such job */
  async lock(tx: Transaction, rowId: string): Promise<void> {
    const [row] = await tx
      .select({ id: jobs.id })
      .from(jobs)
      .where(and(eq(jobs.id, rowId), isNull(jobs.deletedAt)))
      .for('update');
    if (!row) throw new NotFoundException('This shop has no such job.');
  }

  /** Job rows newest first; `after` is the key of the last row of the page before. */
  async page(tx: Transaction, after: string | null, limit: number): Promise<JobListed[]> {
    const [moment, id] = after ? after.split('~') : [];
    const at = moment ? new Date(moment) : null;
    const older =
      at && id && isUuid(id) && plausibleInstantMs(at.getTime())
        ? or(lt(jobs.updatedAt, at), and(eq(jobs.updatedAt, at), lt(jobs.id, id)))
        : undefined;
    if (after && !older) throw new BadRequestException('This is no key of a page. Load the list anew.');
    return tx
      .select({
        id: jobs.id,
        version: jobs.version,
        number: jobs.number,
        title: jobs.title,
        vehicle: sql<string>`coalesce(${jobs.vehicle}->>'label', '')`,
        openedAt: jobs.openedAt,
        updatedAt: jobs.updatedAt,
        plannedAt: sql<string | null>`${jobs.day}->'plan'->>'startAt'`,
        // Written out: drizzle leaves the table's name off columns of a select from one table.
        pulls: sql<number>`(SELECT count(*)::int FROM pulls p WHERE p.job_id = jobs.id)`,
        // Instants of one job are written alike, so that their texts sort as they do.
        lastPullAt: sql<string | null>`(SELECT max(p.started_at) FROM pulls p WHERE p.job_id = jobs.id)`,
      })
      .from(jobs)
      .where(and(isNull(jobs.deletedAt), older))
      .orderBy(desc(jobs.updatedAt), desc(jobs.id))
      .limit(limit);
  }
}

function copy(
  cells: Readonly<Record<string, Readonly<Record<string, string>>>>,
): Record<string, Record<string, string>> {
  return Object.fromEntries(Object.entries(cells).map(([key, value]) => [key, { ...value }]));
}

/** Channels by which a pull is told from another, however its other columns were mapped. */
const TELLING: readonly string[] = ['engine_rpm', 'roller_rad_s', 'wheel_power_w', 'wheel_torque_nm', 'brake_nm'];

/**
 * SHA-256 over the channels of speed, power and torque; null without any. Two pulls of one digest are one pull under two names.
 */
export function samplesDigest(list: readonly Channel[]): string | null {
  const telling = list.filter(({ name }) => TELLING.includes(name));
  if (telling.length === 0) return null;
  const hash = createHash('sha256');
  for (const { name, values } of telling.toSorted((a, b) => (a.name < b.name ? -1 : 1)))
    hash.update(`${name}:${values.length};`).update(samplesOf(values));
  return hash.digest('hex');
}

/** Little-endian float64 bytes; every platform this runs on is little-endian. */
function samplesOf(values: Float64Array): Buffer {
  return Buffer.from(values.buffer, values.byteOffset, values.byteLength);
}

function valuesOf(bytes: Buffer): Float64Array {
  const aligned = new Uint8Array(bytes.byteLength);
  aligned.set(bytes);
  return new Float64Array(aligned.buffer);
}
