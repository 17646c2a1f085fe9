import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { LIMITS, nameBeside, pullsInOrder, type Channel, type Job, type Laid, type Pull } from '@prandel/core';
import { headerSignature, isColumnRole, type ColumnMapping } from '@prandel/formats';
import { notLaidWords } from '@prandel/presentation';
import { and, eq, inArray, ne, sql } from 'drizzle-orm';
import { v7 } from 'uuid';
import { Database, type Transaction } from '../database/database.ts';
import { channels, files, loggers, pullMoments, pulls } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { rememberShape } from '../imports/shapes.ts';
import { Tables } from '../imports/tables.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { changedSamples } from '../jobs/pullDigests.ts';
import { valuesOf } from '../jobs/pullRows.ts';
import { bytesOf } from '../jobs/samplesDigest.ts';
import type { Caller } from '../people/caller.ts';
import type { LoggerLook } from '../work/logWork.ts';
import { readTableFile } from '../work/tableFile.ts';
import { WorkPool } from '../work/workPool.ts';
import type { LoggerAdded, LoggerAnswer, LoggerRequest } from './loggers.dto.ts';

const LIMIT = { timeoutS: 120 };
/** What pulls are laid by. */
const AXES = ['time_s', 'engine_rpm', 'roller_rad_s', 'speed_km_h', 'throttle_fraction'];

interface Prepared {
  readonly job: Job;
  readonly file: typeof files.$inferSelect;
  readonly pulls: readonly Pull[];
  /** Names of channels that some pull has. */
  readonly taken: readonly string[];
}

/** Records of other loggers: laid beside the pulls of a job by their speeds, added to them, and taken off again. */
@Injectable()
export class LoggersService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly tables: Tables,
    private readonly pool: WorkPool,
  ) {}

  /** Where a record lies, with a picture; nothing is stored. */
  async look(caller: Caller, jobId: string, request: LoggerRequest): Promise<LoggerAnswer> {
    const prepared = await this.#prepared(caller.shopId, jobId, request.fileId);
    const look = await this.#look(caller.shopId, prepared, request);
    const laid = look.laid ?? placedBy(prepared.pulls, request);
    const orNull = (v: number) => (Number.isFinite(v) ? v : null);
    return {
      laid: laid && {
        ...{ laidBy: laid.laidBy, ratePpm: orNull(laid.ratePpm), residual: orNull(laid.residual) },
        ...{ range: orNull(laid.range), correlation: orNull(laid.correlation) },
        pulls: laid.pulls.map((p) => ({ ...p, correlation: orNull(p.correlation) })),
      },
      why: look.why && { code: look.why.code, text: notLaidWords(look.why) },
      channels: look.channels.map(({ name, low, high }) => ({
        ...{ name: nameBeside(name, prepared.taken), low: orNull(low), high: orNull(high) },
      })),
      record: { ...look.record, timeS: [...look.record.timeS], values: [...look.record.values] },
      pictures: look.pictures.map((p) => ({
        pull: p.pull,
        timeS: [...p.timeS],
        own: [...p.own],
        theirs: [...p.theirs],
      })),
    };
  }

  /** Adds the channels of a record to the pulls that it covers. @throws BadRequestException where it cannot be laid */
  async add(caller: Caller, jobId: string, request: LoggerRequest): Promise<LoggerAdded> {
    const { shopId } = caller;
    const prepared = await this.#prepared(shopId, jobId, request.fileId);
    const columns = request.columns.map(asMapping);
    const look = await this.#look(shopId, prepared, request);
    const laid = look.laid ?? placedBy(prepared.pulls, request);
    if (!laid) throw new BadRequestException(look.why ? notLaidWords(look.why) : 'Place the record first.');
    const file = await this.#mapped(shopId, prepared);
    const signature = headerSignature(readTableFile(file.tablePath));
    const placed = laid.pulls.map(({ id, atS }) => {
      const own = prepared.pulls.find((p) => p.id === id)!;
      return { id, atS, timeS: own.channels.find((c) => c.name === 'time_s')!.values };
    });
    const rate = Number.isFinite(laid.ratePpm) ? laid.ratePpm / 1e6 : 0;
    const given = (
      await this.pool.run(shopId, 'loggerChannels', () => ({ input: { file, columns, pulls: placed, rate } }), LIMIT)
    ).filter((p) => p.channels.length > 0);
    if (given.length === 0)
      throw new BadRequestException('No channel of this record falls into a pull. Is it of another day?');
    return this.database.inShop(shopId, async (tx) => {
      await this.store.lock(tx, jobId);
      const fresh = await this.#read(tx, jobId, request.fileId);
      if ((fresh.job.loggers?.length ?? 0) >= LIMITS.loggersPerJob)
        throw new BadRequestException(`A job takes at most ${LIMITS.loggersPerJob} records of loggers.`);
      const id = v7();
      const path = await freePath(tx, jobId, fresh.file.name);
      await tx.update(files).set({ kind: 'resource', name: path }).where(eq(files.id, fresh.file.id));
      await tx.insert(loggers).values({
        ...{ id, shopId, jobId, fileId: fresh.file.id, name: fresh.file.name, laidBy: laid.laidBy },
        ...{ offsetS: laid.pulls[0]!.atS, ratePpm: Number.isFinite(laid.ratePpm) ? laid.ratePpm : null },
        residual: Number.isFinite(laid.residual) ? laid.residual : null,
        correlation: Number.isFinite(laid.correlation) ? laid.correlation : null,
      });
      const names = await insertChannels(tx, shopId, jobId, id, given, fresh.taken);
      await rememberShape(tx, shopId, fresh.job.bay.label, { signature, columns, answers: null });
      await this.store.touch(tx, jobId);
      const how =
        laid.laidBy === 'hand'
          ? 'placed by hand'
          : `laid by ${laid.laidBy} speed, correlation ${laid.correlation.toFixed(4)}`;
      const covered = given.map((p) => p.pull);
      await record(tx, shopId, jobId, {
        ...{ person: caller.name, kind: 'edit' },
        what: `Added ${names.join(', ')} of the logger ${fresh.file.name} to ${covered.join(', ')}; ${how}.`,
        detail: {
          ...{ file: path, sha256: fresh.file.sha256, laid: laid.pulls.map(({ id: pull, atS }) => ({ pull, atS })) },
          digests: await changedSamples(tx, jobId, covered),
        },
      });
      return { id, channels: names, pulls: covered };
    });
  }

  /** Takes the channels of a record off the pulls again; its original stays with the job. */
  remove(caller: Caller, jobId: string, loggerId: string): Promise<void> {
    return this.database.inShop(caller.shopId, async (tx) => {
      await this.store.lock(tx, jobId);
      const touched = await tx
        .selectDistinct({ pullId: channels.pullId })
        .from(channels)
        .where(eq(channels.loggerId, loggerId));
      const gone = await tx
        .delete(loggers)
        .where(and(eq(loggers.id, loggerId), eq(loggers.jobId, jobId)))
        .returning({ name: loggers.name });
      if (gone.length === 0) throw new NotFoundException('This job has no such logger.');
      await forgetFrames(
        tx,
        touched.map((c) => c.pullId),
      );
      await this.store.touch(tx, jobId);
      const what = `Took the channels of the logger ${gone[0]!.name} off again; its file is kept.`;
      const keys = await tx
        .select({ key: pulls.pullKey })
        .from(pulls)
        .where(
          inArray(
            pulls.id,
            touched.map((c) => c.pullId),
          ),
        );
      const digests = await changedSamples(
        tx,
        jobId,
        keys.map(({ key }) => key),
      );
      await record(tx, caller.shopId, jobId, { person: caller.name, kind: 'edit', what, detail: { digests } });
    });
  }

  async #look(shopId: string, prepared: Prepared, request: LoggerRequest): Promise<LoggerLook> {
    const columns = request.columns.map(asMapping);
    const file = await this.#mapped(shopId, prepared);
    const placed = placedBy(prepared.pulls, request)?.pulls ?? null;
    const input = { file, columns, pulls: prepared.pulls, placed };
    return this.pool.run(shopId, 'layLogger', () => ({ input }), LIMIT);
  }

  async #mapped(shopId: string, { file }: Prepared) {
    return { name: file.name, tablePath: await this.tables.pathOf(shopId, file.id) };
  }

  #prepared(shopId: string, jobId: string, fileId: string): Promise<Prepared> {
    return this.database.inShop(shopId, (tx) => this.#read(tx, jobId, fileId));
  }

  /** @throws NotFoundException without the file, ConflictException where it was taken in already */
  async #read(tx: Transaction, jobId: string, fileId: string): Promise<Prepared> {
    const { job } = await this.store.read(tx, jobId, false);
    const [file] = await tx
      .select()
      .from(files)
      .where(and(eq(files.id, fileId), eq(files.jobId, jobId)));
    if (!file) throw new NotFoundException('The file is no longer here. Choose it again.');
    if (file.kind !== 'staged') throw new ConflictException(`"${file.name}" was already taken in.`);
    const [twin] = await tx
      .select({ name: loggers.name })
      .from(loggers)
      .innerJoin(files, eq(files.id, loggers.fileId))
      .where(and(eq(loggers.jobId, jobId), eq(files.sha256, file.sha256), ne(files.id, file.id)));
    if (twin) throw new ConflictException(`The same record was already added as "${twin.name}".`);
    const rows = await tx
      .select({ key: pulls.pullKey, name: channels.name, samples: channels.samples })
      .from(channels)
      .innerJoin(pulls, eq(pulls.id, channels.pullId))
      .where(and(eq(pulls.jobId, jobId), inArray(channels.name, AXES)));
    const named = await tx
      .selectDistinct({ name: channels.name })
      .from(channels)
      .innerJoin(pulls, eq(pulls.id, channels.pullId))
      .where(eq(pulls.jobId, jobId));
    const own = (key: string): Channel[] =>
      rows.filter((r) => r.key === key).map((r) => ({ name: r.name, values: valuesOf(r.samples) }));
    return {
      ...{ job, file, taken: named.map((c) => c.name) },
      pulls: pullsInOrder(job.pulls).map((p) => ({ ...p, channels: own(p.id) })),
    };
  }
}

function asMapping({ role, unit }: { role: string; unit?: string | null }): ColumnMapping {
  if (!isColumnRole(role)) throw new BadRequestException(`"${role}" is nothing a column can be.`);
  return { role, unit: unit ?? null };
}

/** The record as a person placed it: the pull that was named, and with it every other that has a time. */
function placedBy(list: readonly Pull[], { byHand }: LoggerRequest): Laid | null {
  if (!byHand) return null;
  const named = list.find((p) => p.id === byHand.pull);
  if (!named) throw new BadRequestException(`This job has no pull ${byHand.pull}.`);
  const since = (p: Pull) => (Date.parse(p.startedAt!) - Date.parse(named.startedAt!)) / 1000;
  const follow = named.startedAt === null ? [named] : list.filter((p) => p.startedAt !== null);
  const timed = follow.filter((p) => p.channels.some((c) => c.name === 'time_s'));
  if (timed.length === 0) throw new BadRequestException('The pull has no column of time to place it by.');
  return {
    ...{ laidBy: 'hand', ratePpm: NaN, residual: NaN, range: NaN, correlation: NaN },
    pulls: timed.map((p) => ({
      ...{ id: p.id, correlation: NaN },
      atS: byHand.atS + (p === named ? 0 : since(p)),
    })),
  };
}

/** A path in the package that no other file of the job has. */
async function freePath(tx: Transaction, jobId: string, name: string): Promise<string> {
  const rows = await tx.select({ name: files.name }).from(files).where(eq(files.jobId, jobId));
  const plain = name.replace(/[\\/]+/g, '-');
  for (let n = 1; ; n += 1) {
    const path = `loggers/${n === 1 ? '' : `${n}-`}${plain}`;
    if (rows.every((r) => r.name !== path)) return path;
  }
}

/** @returns the names that the channels bear in the pulls */
async function insertChannels(
  tx: Transaction,
  shopId: string,
  jobId: string,
  loggerId: string,
  given: readonly { readonly pull: string; readonly channels: readonly Channel[] }[],
  taken: readonly string[],
): Promise<string[]> {
  const rows = await tx
    .select({
      ...{ id: pulls.id, key: pulls.pullKey },
      last: sql<number>`(SELECT coalesce(max(c.place), -1) FROM channels c WHERE c.pull_id = ${pulls.id})::int`,
      count: sql<number>`(SELECT count(*) FROM channels c WHERE c.pull_id = ${pulls.id})::int`,
    })
    .from(pulls)
    .where(
      and(
        eq(pulls.jobId, jobId),
        inArray(
          pulls.pullKey,
          given.map((p) => p.pull),
        ),
      ),
    );
  const names = new Map(given.flatMap((p) => p.channels.map((c) => [c.name, nameBeside(c.name, taken)] as const)));
  for (const { pull, channels: own } of given) {
    const row = rows.find((r) => r.key === pull)!;
    if (row.count + own.length > LIMITS.channelsPerPull)
      throw new BadRequestException(
        `Pull ${pull} would have ${row.count + own.length} channels; a pull holds at most ${LIMITS.channelsPerPull}. Leave columns out.`,
      );
    await tx.insert(channels).values(
      own.map((c, i) => ({
        ...{ shopId, pullId: row.id, place: row.last + 1 + i, loggerId },
        ...{ name: names.get(c.name)!, samples: bytesOf(c.values) },
      })),
    );
  }
  await forgetFrames(
    tx,
    rows.map((r) => r.id),
  );
  return [...names.values()];
}

/** What stands for the samples of these pulls no longer does. */
async function forgetFrames(tx: Transaction, pullIds: readonly string[]): Promise<void> {
  if (pullIds.length > 0) await tx.delete(pullMoments).where(inArray(pullMoments.pullId, [...pullIds]));
}
