import { BadRequestException, Injectable, NotFoundException } from '@nestjs/common';
import { newPull, type NumberState, type Pull } from '@prandel/core';
import type { ColumnMapping, PullDigest } from '@prandel/formats';
import { and, eq, inArray } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { files, jobs, pulls } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { filePieces } from '../files/fileStore.ts';
import { allotPullKeys } from '../jobs/pullKeys.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/caller.ts';
import { ahead } from '../work/ahead.ts';
import type { Task } from '../work/progress.ts';
import type { ReadPull } from '../work/work.ts';
import { WorkPool } from '../work/workPool.ts';
import type { ImportRequest, PreviewPull } from './imports.dto.ts';
import {
  AHEAD,
  asMapping,
  fileRows,
  lastRound,
  MAPPING_S,
  MOST_VALUES,
  refuseImported,
  refuseRepeated,
  refuseTooManyChannels,
  stateOf,
  STORED_AT_ONCE,
  type FileRow,
} from './importSteps.ts';
import { inTime, type MappedFile } from './recordedTimes.ts';
import { rememberShape } from './shapes.ts';
import { Tables } from './tables.ts';

/** Staged files on their way into a job: shown as what they would become, then imported whole or not at all. */
@Injectable()
export class ImportsService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly tables: Tables,
    private readonly pool: WorkPool,
  ) {}

  /** What the files would become under a mapping: curves and peaks, or every problem with its line. */
  async preview(
    caller: Caller,
    jobId: string,
    request: Pick<ImportRequest, 'fileIds' | 'columns'>,
    task: Task,
  ): Promise<PreviewPull[]> {
    const columns = request.columns.map(asMapping);
    const { rows, job } = await this.database.inShop(caller.shopId, async (tx) => ({
      job: (await this.store.read(tx, jobId, false)).job,
      rows: await fileRows(tx, jobId, request.fileIds),
    }));
    const previews = await Promise.all(
      rows.map(async (row) => {
        refuseImported(row);
        const file = { name: row.name, tablePath: await this.tables.pathOf(caller.shopId, row.id, task) };
        const pulls = await this.pool.run(
          caller.shopId,
          'previewPulls',
          () => ({ input: { file, columns, bay: job.bay, vehicle: job.vehicle } }),
          { timeoutS: MAPPING_S, signal: task.signal },
        );
        return pulls.map((pull): PreviewPull => ({ file: row.name, ...pull }));
      }),
    );
    return previews.flat();
  }

  /** Imports files as one round of a setup, in the order given, and remembers the mapping. Asked for again, it answers the same. */
  async import(caller: Caller, jobId: string, request: ImportRequest, task: Task): Promise<{ pulls: number }> {
    const numberState = stateOf(request.numberState);
    const columns = request.columns.map(asMapping);
    refuseTooManyChannels(columns);
    const { shopId } = caller;
    const rows = await this.database.inShop(shopId, async (tx) => {
      const { job } = await this.store.read(tx, jobId, false);
      if (!job.setups.some((s) => s.id === request.setupId))
        throw new BadRequestException(`The job has no setup "${request.setupId}".`);
      return fileRows(tx, jobId, request.fileIds);
    });
    const again = await this.database.inShop(shopId, (tx) => this.#doneBefore(tx, rows, request.setupId));
    if (again) return again;
    const read = await this.#map(shopId, rows, columns, task);
    const mapped = request.clock ? inTime(read, request.clock.timeZone) : read;
    const answer = await this.database.inShop(shopId, async (tx) => {
      await this.store.lock(tx, jobId);
      // Somebody may have clicked twice: the second one waited here for the first.
      const fresh = await fileRows(tx, jobId, request.fileIds);
      const before = await this.#doneBefore(tx, fresh, request.setupId);
      if (before) return before;
      await refuseRepeated(tx, jobId, mapped);
      const count = await this.#storePulls(tx, caller, jobId, request, mapped, numberState, task);
      const { bay } = (await this.store.read(tx, jobId, false)).job;
      for (const signature of new Set(mapped.map((m) => m.signature)))
        await rememberShape(tx, shopId, bay.label, { signature, columns, answers: null });
      await this.store.touch(tx, jobId);
      task.signal.throwIfAborted();
      return { pulls: count };
    });
    await this.tables.forget(request.fileIds);
    return answer;
  }

  async #map(shopId: string, rows: readonly FileRow[], columns: readonly ColumnMapping[], task: Task) {
    const mapped: MappedFile[] = [];
    let values = 0;
    const map = async (row: FileRow) => {
      const file = { name: row.name, tablePath: await this.tables.pathOf(shopId, row.id, task) };
      return this.pool.run(shopId, 'mapPulls', () => ({ input: { file, columns } }), {
        timeoutS: MAPPING_S,
        signal: task.signal,
      });
    };
    for await (const [i, row, { signature, pulls, recorded }] of ahead(rows, AHEAD, map)) {
      for (const pull of pulls) values += pull.channels.reduce((sum, c) => sum + c.values.length, 0);
      if (values > MOST_VALUES)
        throw new BadRequestException(
          `These files hold more than ${MOST_VALUES / 1e6} million values together. Import fewer of them at a time.`,
        );
      mapped.push({ row, signature, pulls, recorded, startedAt: null });
      task.tell('reading', (i + 1) / rows.length);
    }
    return mapped;
  }

  async #storePulls(
    tx: Transaction,
    caller: Caller,
    jobId: string,
    request: ImportRequest,
    mapped: readonly MappedFile[],
    numberState: NumberState,
    task: Task,
  ): Promise<number> {
    const { setupId } = request;
    const count = mapped.reduce((n, { pulls }) => n + pulls.length, 0);
    const keys = await allotPullKeys(tx, jobId, setupId, count);
    const round = 1 + (await lastRound(tx, jobId, setupId));
    const fileIds = new Map<string, string>();
    const digests = new Map<string, Pick<ReadPull, 'telling' | 'samples'>>();
    const list = mapped.flatMap(({ row, pulls: own, startedAt }) =>
      own.map((m) => {
        const position = fileIds.size + 1;
        const key = keys[position - 1]!;
        fileIds.set(key, row.id);
        digests.set(key, m);
        return { ...asPull(m, key, request, round, position, numberState), startedAt };
      }),
    );
    const logged: Record<string, PullDigest> = {};
    // In portions, so that a large import tells how far it is and can be cancelled.
    for (let at = 0; at < list.length; at += STORED_AT_ONCE) {
      const portion = list.slice(at, at + STORED_AT_ONCE);
      const stored = await this.store.addPulls(tx, caller.shopId, jobId, portion, {
        fileOf: (pull) => fileIds.get(pull.id)!,
        digestOf: (pull) => digests.get(pull.id)!.telling,
        samplesOf: (pull) => digests.get(pull.id)!.samples,
      });
      Object.assign(logged, stored);
      task.signal.throwIfAborted();
      task.tell('storing', (at + portion.length) / list.length);
    }
    const ids = mapped.map(({ row }) => row.id);
    await tx.update(files).set({ kind: 'pull-file' }).where(inArray(files.id, ids));
    const names = mapped.map(({ row }) => row.name);
    const from = names.length > 6 ? `${names.length} files, ${names[0]} to ${names.at(-1)}` : names.join(', ');
    const what = `Imported ${list.length} ${list.length === 1 ? 'pull' : 'pulls'} for setup ${setupId} from ${from}.`;
    const detail = {
      digests: logged,
      files: mapped.map(({ row, pulls: own, startedAt, recorded }) => ({
        ...{ name: row.name, sha256: row.sha256, pulls: own.length },
        ...(startedAt && recorded ? { startedAt, saidBy: recorded.source } : {}),
      })),
    };
    await record(tx, caller.shopId, jobId, { person: caller.name, kind: 'edit', what, detail });
    return list.length;
  }

  /** The answer of an import that was carried out before; null when it was not. @throws ConflictException when it was another one */
  async #doneBefore(tx: Transaction, rows: readonly FileRow[], setupId: string): Promise<{ pulls: number } | null> {
    if (rows.every((row) => row.kind === 'staged')) return null;
    const stored = await tx
      .select({ fileId: pulls.fileId, setup: pulls.setupKey })
      .from(pulls)
      .where(
        inArray(
          pulls.fileId,
          rows.map((row) => row.id),
        ),
      );
    const same = rows.every((row) => stored.some((p) => p.fileId === row.id && p.setup === setupId));
    if (!same) refuseImported(rows.find((row) => row.kind !== 'staged')!);
    return { pulls: stored.length };
  }

  original(caller: Caller, jobId: string, fileId: string) {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [file] = await tx
        .select()
        .from(files)
        .where(and(eq(files.id, fileId), eq(files.jobId, jobId)));
      if (!file) throw new NotFoundException('There is no such file.');
      return { name: file.name, size: file.size, pieces: filePieces(this.database, caller.shopId, file.id) };
    });
  }

  files(caller: Caller, jobId: string) {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [known] = await tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, jobId));
      if (!known) throw new NotFoundException('There is no such job.');
      return tx
        .select({ id: files.id, name: files.name, addedAt: files.addedAt })
        .from(files)
        .where(and(eq(files.jobId, jobId), eq(files.kind, 'pull-file')))
        .orderBy(files.addedAt);
    });
  }
}

function asPull(
  m: ReadPull,
  id: string,
  request: ImportRequest,
  round: number,
  position: number,
  numberState: NumberState,
): Pull {
  const { conditions } = request;
  const { kind } = m;
  return {
    ...newPull(id, request.setupId, position),
    ...(kind === 'sweep' ? {} : { kind }),
    round,
    status: position <= request.settle ? 'settle' : 'counted',
    channels: m.channels,
    numberState,
    gear: conditions?.gear ?? null,
    averagingRpm: conditions?.averagingRpm ?? null,
    intakeStartC: m.start.intakeStartC,
    coolantStartC: m.start.coolantStartC,
    oilStartC: m.start.oilStartC,
    airC: m.start.airC ?? conditions?.airC ?? null,
    pressureHpa: m.start.pressureHpa ?? conditions?.pressureHpa ?? null,
    relativeHumidity: m.start.relativeHumidity ?? conditions?.relativeHumidity ?? null,
  };
}
