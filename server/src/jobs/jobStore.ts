import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import {
  LIMITS,
  USUAL_DAY,
  type Bay,
  type JobDay,
  type Fitting,
  type Job,
  type Method,
  type Pull,
  type Question,
  type Setup,
  type WeatherReading,
} from '@prandel/core';
import type { PackageExtras, PullDigests } from '@prandel/formats';
import { and, asc, eq, isNull, sql } from 'drizzle-orm';
import { v7 } from 'uuid';
import type { Transaction } from '../database/database.ts';
import { inTurn } from '../database/inTurn.ts';
import { instantText, storedInstant } from '../database/instants.ts';
import {
  bayCalibrations,
  bays,
  files,
  jobs,
  methodVersions,
  pullMarks,
  pulls,
  weatherReadings,
} from '../database/schema.ts';
import { record, sealedJob, type EventDetail, type EvidenceKind } from '../evidence/evidence.ts';
import { fileBytes, storeFile } from '../files/fileStore.ts';
import { bayOf, calibrationOf, methodOf, methodVersionOf } from '../records/versions.ts';
import { readDay, readQuestion, writeDay, writeQuestion } from './dayRows.ts';
import { bayOfLabel, freeNumber, insertWeather, vehicleColumns, vehicleFrom, vehicleOf } from './jobRows.ts';
import { customerNamed, lockNumbers } from './newJobs.ts';
import { readLoggers } from './loggerRows.ts';
import { readHandReadings, writeHandReadings } from './readingRows.ts';
import { readRoad, writePasses, writeRoadCar } from './roadRows.ts';
import { insertPulls, readPulls } from './pullRows.ts';
import { changedFacts, digestsOf, samplesDigestOf } from './pullDigests.ts';
import { samplesDigest } from './samplesDigest.ts';
import { readSetups, writeSetups } from './setupRows.ts';
import { readUse, writeGears, writeReferences, writeUse } from './useRows.ts';

/** A job as stored: the plain job, its row's id and version, and what it belongs to. */
export interface StoredJob {
  readonly rowId: string;
  readonly version: number;
  /** Since when nothing of it can be changed, ISO 8601; null: it is open. */
  readonly sealedAt: string | null;
  readonly job: Job;
  readonly links: JobLinks;
}

/** The records that a job belongs to. */
export interface JobLinks {
  readonly vehicleId: string | null;
  readonly customerId: string | null;
  readonly calibrationId: string;
  /** The bay under this roof; null for another shop's rollers. */
  readonly bayId: string | null;
}

const NO_EXTRAS = { descriptor: {}, setupCells: {}, pullCells: {}, weatherCells: [] };

/** Puts jobs into tables and takes them out again, without loss. Works inside a shop's transaction. */
@Injectable()
export class JobStore {
  /** @returns the id of the job's row; a number that another job of the shop bears gets a count behind it */
  async insert(
    tx: Transaction,
    shopId: string,
    job: Job,
    extras: PackageExtras | null,
    links: { vehicleId?: string | null; customerId?: string | null } = {},
  ): Promise<string> {
    const rowId = v7();
    await lockNumbers(tx, shopId);
    const kept = extras && {
      descriptor: extras.descriptor,
      setupCells: copy(extras.setupCells),
      pullCells: copy(extras.pullCells),
      weatherCells: extras.weatherCells.map((c) => ({ ...c })),
    };
    const opened = storedInstant(job.openedAt);
    const bayId = await bayOfLabel(tx, shopId, job.bay.label);
    await tx.insert(jobs).values({
      ...{ id: rowId, shopId, title: job.title, timeZone: job.timeZone, extras: kept },
      number: await freeNumber(tx, shopId, job.id),
      openedAt: opened.at,
      openedAtText: opened.text,
      vehicleId: links.vehicleId ?? (await vehicleOf(tx, shopId, job.vehicle)),
      customerId: links.customerId ?? (await customerNamed(tx, job.day?.customer)),
      calibrationId: await calibrationOf(tx, shopId, bayId, job.bay),
      methodVersionId: await methodVersionOf(tx, shopId, job.method),
      verdictConstants: { ...job.bay.verdictConstants } as Record<string, number>,
      bayPrior: job.bay.prior,
      ...vehicleColumns(job.vehicle),
      ...{ currency: job.money?.currency ?? null, hourlyRate: job.money?.hourlyRate ?? null },
    });
    if (job.gearing) await writeGears(tx, shopId, rowId, null, job.gearing);
    if (job.use) await writeUse(tx, shopId, rowId, job.use);
    if (job.references) await writeReferences(tx, shopId, rowId, job.references);
    await writeQuestion(tx, shopId, rowId, job.question);
    await writeSetups(tx, shopId, rowId, job.setups);
    if (job.day) await writeDay(tx, shopId, rowId, job.day);
    await insertWeather(tx, shopId, rowId, job.weather, 0);
    await writePasses(tx, shopId, rowId, job.roadPasses ?? []);
    if (job.road) await writeRoadCar(tx, shopId, rowId, job.road);
    await writeHandReadings(tx, shopId, rowId, job.readings ?? []);
    await this.addPulls(tx, shopId, rowId, job.pulls);
    for (const [name, content] of extras?.files ?? [])
      await storeFile(tx, { shopId, jobId: rowId, kind: 'resource', name }, content);
    return rowId;
  }

  /** Adds pulls to a job. @returns their digests, which belong into the event that tells of them */
  async addPulls(
    tx: Transaction,
    shopId: string,
    jobId: string,
    list: readonly Pull[],
    {
      fileOf = () => null,
      digestOf = (pull) => samplesDigest(pull.channels),
      samplesOf = samplesDigestOf,
    }: {
      fileOf?: (pull: Pull) => string | null;
      digestOf?: (pull: Pull) => string | null;
      samplesOf?: (pull: Pull) => string | null;
    } = {},
  ): Promise<PullDigests> {
    const [{ count } = { count: 0 }] = await tx
      .select({ count: sql<number>`count(*)::int` })
      .from(pulls)
      .where(eq(pulls.jobId, jobId));
    if (list.length === 0) return {};
    if (count + list.length > LIMITS.pullsPerJob)
      throw new BadRequestException(
        `A job holds at most ${LIMITS.pullsPerJob} pulls; this one has ${count}. Open another job for the rest.`,
      );
    await insertPulls(tx, shopId, jobId, list, count, { fileOf, digestOf });
    return digestsOf(list, samplesOf);
  }

  /**
   * @param samples whether the samples are read too
   * @throws NotFoundException when this shop has no such job
   */
  async read(tx: Transaction, rowId: string, samples: boolean): Promise<StoredJob> {
    const [found] = await tx
      .select({ row: jobs, calibration: bayCalibrations, method: methodVersions, bayLabel: bays.label })
      .from(jobs)
      .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
      .innerJoin(methodVersions, eq(methodVersions.id, jobs.methodVersionId))
      .leftJoin(bays, eq(bays.id, bayCalibrations.bayId))
      .where(and(eq(jobs.id, rowId), isNull(jobs.deletedAt)));
    if (!found) throw new NotFoundException('This shop has no such job.');
    const { row, calibration, method, bayLabel } = found;
    const [question, setups, weather, day, pulls, road, readings, loggers, use] = await inTurn(
      () => readQuestion(tx, rowId),
      () => readSetups(tx, rowId),
      () =>
        tx.select().from(weatherReadings).where(eq(weatherReadings.jobId, rowId)).orderBy(asc(weatherReadings.place)),
      () => readDay(tx, rowId),
      () => readPulls(tx, rowId, samples),
      () => readRoad(tx, rowId),
      () => readHandReadings(tx, rowId),
      () => readLoggers(tx, rowId),
      () => readUse(tx, row),
    );
    const job: Job = {
      id: row.number,
      title: row.title,
      openedAt: instantText({ at: row.openedAt, text: row.openedAtText }),
      timeZone: row.timeZone,
      vehicle: vehicleFrom(row),
      bay: { ...bayOf(calibration, bayLabel), verdictConstants: row.verdictConstants, prior: row.bayPrior },
      question,
      method: methodOf(method),
      setups,
      weather: weather.map(({ at, pressureHpa, airC, relativeHumidity }) => ({
        ...{ at, pressureHpa, airC, relativeHumidity },
      })),
      ...road,
      ...use,
      ...(readings.length > 0 ? { readings } : {}),
      ...(loggers.length > 0 ? { loggers } : {}),
      ...(day ? { day } : {}),
      pulls,
    };
    const { vehicleId, customerId, calibrationId } = row;
    return {
      rowId,
      version: row.version,
      sealedAt: row.sealedAt?.toISOString() ?? null,
      job,
      links: { vehicleId, customerId, calibrationId, bayId: calibration.bayId },
    };
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

  /** Keeps what differs between two states of a job; nothing else is touched. */
  async save(tx: Transaction, shopId: string, rowId: string, before: Job, after: Job): Promise<void> {
    if (differs(before.vehicle, after.vehicle))
      await tx.update(jobs).set(vehicleColumns(after.vehicle)).where(eq(jobs.id, rowId));
    if (before.title !== after.title) await tx.update(jobs).set({ title: after.title }).where(eq(jobs.id, rowId));
    if (differs(before.method, after.method)) await this.useMethod(tx, shopId, rowId, after.method);
    if (differs(before.question, after.question)) await this.keepQuestion(tx, shopId, rowId, after.question);
    if (differs(before.setups, after.setups)) await this.keepSetups(tx, shopId, rowId, after.setups);
    if (differs(before.roadPasses, after.roadPasses)) await writePasses(tx, shopId, rowId, after.roadPasses ?? []);
    if (after.road && differs(before.road, after.road)) await writeRoadCar(tx, shopId, rowId, after.road);
    if (after.gearing && differs(before.gearing, after.gearing)) {
      const [row] = await tx.select({ vehicleId: jobs.vehicleId }).from(jobs).where(eq(jobs.id, rowId));
      await writeGears(tx, shopId, rowId, row?.vehicleId ?? null, after.gearing);
    }
    if (after.use && differs(before.use, after.use)) await writeUse(tx, shopId, rowId, after.use);
    if (differs(before.references, after.references)) await writeReferences(tx, shopId, rowId, after.references ?? []);
    if (after.day && differs(before.day, after.day)) {
      await writeDay(tx, shopId, rowId, after.day);
      if (before.day?.customer !== after.day.customer) {
        const customerId = await customerNamed(tx, after.day.customer);
        await tx.update(jobs).set({ customerId }).where(eq(jobs.id, rowId));
      }
    }
  }

  async useMethod(tx: Transaction, shopId: string, rowId: string, method: Method): Promise<void> {
    const methodVersionId = await methodVersionOf(tx, shopId, method);
    await tx.update(jobs).set({ methodVersionId }).where(eq(jobs.id, rowId));
  }

  keepQuestion(tx: Transaction, shopId: string, rowId: string, question: Question): Promise<void> {
    return writeQuestion(tx, shopId, rowId, question);
  }

  keepSetups(tx: Transaction, shopId: string, rowId: string, list: readonly Setup[]): Promise<void> {
    return writeSetups(tx, shopId, rowId, list);
  }

  /** Puts a job on rollers: the calibration in force, and what the bay has shown of itself by now. */
  async useCalibration(tx: Transaction, rowId: string, calibrationId: string, bayPrior: Bay['prior']): Promise<void> {
    await tx.update(jobs).set({ calibrationId, bayPrior }).where(eq(jobs.id, rowId));
  }

  /**
   * Sets a pull aside with its reason, and marks it where it was judged by its result.
   * @returns its facts' digest for the event that tells of it
   * @throws NotFoundException
   */
  async setAside(
    tx: Transaction,
    rowId: string,
    pullKey: string,
    reason: string,
    mark: string | null,
  ): Promise<EventDetail> {
    const [row] = await tx
      .update(pulls)
      .set({ status: 'set-aside', reason })
      .where(and(eq(pulls.jobId, rowId), eq(pulls.pullKey, pullKey)))
      .returning({ id: pulls.id, shopId: pulls.shopId });
    if (!row) throw new NotFoundException('This job has no such pull.');
    if (mark !== null)
      await tx.insert(pullMarks).values({
        ...{ shopId: row.shopId, pullId: row.id, words: mark },
        place: sql`(SELECT coalesce(max(place), -1) + 1 FROM pull_marks WHERE pull_id = ${row.id})`,
      });
    await this.touch(tx, rowId);
    return changedFacts(tx, rowId, pullKey);
  }

  /** Takes the next version, or refuses when somebody else changed the job since it was read. */
  async bump(tx: Transaction, rowId: string, version: number): Promise<void> {
    const changed = await tx
      .update(jobs)
      .set({ version: version + 1, updatedAt: new Date() })
      .where(and(eq(jobs.id, rowId), eq(jobs.version, version), isNull(jobs.sealedAt)))
      .returning({ id: jobs.id });
    if (changed.length > 0) return;
    const [row] = await tx.select({ id: jobs.id, sealedAt: jobs.sealedAt }).from(jobs).where(eq(jobs.id, rowId));
    if (row?.sealedAt) throw sealedJob();
    if (!row) throw new NotFoundException('This shop has no such job.');
    throw new ConflictException(
      'Somebody else changed this job meanwhile. It was loaded again; look, then repeat your change.',
    );
  }

  /** Takes the next version for a change that no person made against an older one: a pull arrived. */
  async touch(tx: Transaction, rowId: string): Promise<void> {
    const changed = await tx
      .update(jobs)
      .set({ version: sql`${jobs.version} + 1`, updatedAt: new Date() })
      .where(and(eq(jobs.id, rowId), isNull(jobs.sealedAt)))
      .returning({ id: jobs.id });
    if (changed.length > 0) return;
    const [row] = await tx.select({ sealedAt: jobs.sealedAt }).from(jobs).where(eq(jobs.id, rowId));
    if (row?.sealedAt) throw sealedJob();
  }

  /** Changes the job's day under the job's lock: a clock stopped and a photo taken at once lose nothing. */
  async changeDay(tx: Transaction, rowId: string, change: (day: JobDay) => JobDay): Promise<void> {
    const [row] = await tx.select({ shopId: jobs.shopId }).from(jobs).where(eq(jobs.id, rowId)).for('update');
    if (!row) throw new NotFoundException('This shop has no such job.');
    await writeDay(tx, row.shopId, rowId, change((await readDay(tx, rowId)) ?? USUAL_DAY));
    await this.touch(tx, rowId);
  }

  changeFittings(tx: Transaction, rowId: string, change: (list: readonly Fitting[]) => Fitting[]): Promise<void> {
    return this.changeDay(tx, rowId, (day) => ({ ...day, fittings: change(day.fittings) }));
  }

  /** Adds a reading of the bay's weather; nobody's edit is refused because of it. */
  async addWeather(tx: Transaction, rowId: string, reading: WeatherReading): Promise<void> {
    const [row] = await tx.select({ shopId: jobs.shopId }).from(jobs).where(eq(jobs.id, rowId)).for('update');
    if (!row) throw new NotFoundException('This shop has no such job.');
    const [last] = await tx
      .select({ place: sql<number | null>`max(${weatherReadings.place})` })
      .from(weatherReadings)
      .where(eq(weatherReadings.jobId, rowId));
    await insertWeather(tx, row.shopId, rowId, [reading], (last?.place ?? -1) + 1);
  }

  /** Adds to the job's evidence log. */
  note(
    tx: Transaction,
    shopId: string,
    jobId: string,
    person: string,
    what: string,
    kind: EvidenceKind = 'edit',
    detail?: EventDetail,
  ): Promise<void> {
    return record(tx, shopId, jobId, { person, what, kind, ...(detail ? { detail } : {}) });
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
}

const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b);

function copy(
  cells: Readonly<Record<string, Readonly<Record<string, string>>>>,
): Record<string, Record<string, string>> {
  return Object.fromEntries(Object.entries(cells).map(([key, value]) => [key, { ...value }]));
}
