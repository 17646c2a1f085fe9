import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { detectedKind, LIMITS, newPull, type NumberState, type Pull } from '@prandel/core';
import { isColumnRole, UnreadableError, type ColumnMapping, type MappedPull, type Problem } from '@prandel/formats';
import { and, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { files, jobs, mappings, pulls, recordings } from '../database/schema.ts';
import { record } from '../evidence/evidence.ts';
import { filePieces } from '../files/fileStore.ts';
import { allotPullKeys } from '../jobs/pullKeys.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { samplesDigest } from '../jobs/pullRows.ts';
import type { Caller } from '../people/caller.ts';
import { ahead } from '../work/ahead.ts';
import type { Task } from '../work/progress.ts';
import { WorkPool } from '../work/workPool.ts';
import type { ImportRequest, NumberStateDto, PreviewPull } from './imports.dto.ts';
import { inTime, type FileRow, type MappedFile } from './recordedTimes.ts';
import { importedFiles } from './staging.service.ts';
import { Tables } from './tables.ts';

/** Values that one import may hold; they stand in memory until they are stored. */
const MOST_VALUES = 40_000_000;
const MAPPING_S = 120;
/** Files that are mapped ahead of the one that is being taken. */
const AHEAD = 4;
/** Pulls that are put into one statement. */
const STORED_AT_ONCE = 25;

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
      rows: await this.#rows(tx, jobId, request.fileIds),
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
      return this.#rows(tx, jobId, request.fileIds);
    });
    const again = await this.database.inShop(shopId, (tx) => this.#doneBefore(tx, rows, request.setupId));
    if (again) return again;
    const read = await this.#map(shopId, rows, columns, task);
    const mapped = request.clock ? inTime(read, request.clock.timeZone) : read;
    const answer = await this.database.inShop(shopId, async (tx) => {
      await this.store.lock(tx, jobId);
      // Somebody may have clicked twice: the second one waited here for the first.
      const fresh = await this.#rows(tx, jobId, request.fileIds);
      const before = await this.#doneBefore(tx, fresh, request.setupId);
      if (before) return before;
      await this.#refuseRepeated(tx, jobId, mapped);
      const count = await this.#storePulls(tx, caller, jobId, request, mapped, numberState, task);
      const remembered = columns.map(({ role, unit }) => ({ role, unit }));
      for (const signature of new Set(mapped.map((m) => m.signature)))
        await tx
          .insert(mappings)
          .values({ shopId, signature, columns: remembered })
          .onConflictDoUpdate({ target: [mappings.shopId, mappings.signature], set: { columns: remembered } });
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
    const list = mapped.flatMap(({ row, pulls: own, startedAt }) =>
      own.map((m) => {
        const position = fileIds.size + 1;
        const key = keys[position - 1]!;
        fileIds.set(key, row.id);
        return { ...asPull(m, key, request, round, position, numberState), startedAt };
      }),
    );
    // In portions, so that a large import tells how far it is and can be cancelled.
    for (let at = 0; at < list.length; at += STORED_AT_ONCE) {
      const portion = list.slice(at, at + STORED_AT_ONCE);
      await this.store.addPulls(tx, caller.shopId, jobId, portion, (pull) => fileIds.get(pull.id)!);
      task.signal.throwIfAborted();
      task.tell('storing', (at + portion.length) / list.length);
    }
    const ids = mapped.map(({ row }) => row.id);
    await tx.update(files).set({ kind: 'pull-file' }).where(inArray(files.id, ids));
    const names = mapped.map(({ row }) => row.name);
    const from = names.length > 6 ? `${names.length} files, ${names[0]} to ${names.at(-1)}` : names.join(', ');
    const what = `Imported ${list.length} ${list.length === 1 ? 'pull' : 'pulls'} for setup ${setupId} from ${from}.`;
    const detail = {
      files: mapped.map(({ row, pulls: own, startedAt, recorded }) => ({
        ...{ name: row.name, sha256: row.sha256, pulls: own.length },
        ...(startedAt && recorded ? { startedAt, saidBy: recorded.source } : {}),
      })),
    };
    await record(tx, caller.shopId, jobId, { person: caller.name, kind: 'edit', what, detail });
    return list.length;
  }

  async #rows(tx: Transaction, jobId: string, ids: readonly string[]): Promise<FileRow[]> {
    if (new Set(ids).size !== ids.length) throw new BadRequestException('A file is named twice in this import.');
    const rows = await tx
      .select()
      .from(files)
      .where(and(eq(files.jobId, jobId), inArray(files.id, [...ids])));
    return ids.map((id) => {
      const file = rows.find((f) => f.id === id);
      if (!file || file.kind === 'resource')
        throw new NotFoundException('A file of this import is no longer here. Choose the files again.');
      return file;
    });
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

  /** The same bytes or the same samples under another name are no second pull. @throws UnreadableError naming both */
  async #refuseRepeated(tx: Transaction, jobId: string, mapped: readonly MappedFile[]): Promise<void> {
    const imported = await importedFiles(tx, jobId);
    const stored = await tx
      .select({ key: pulls.pullKey, digest: pulls.samplesSha256 })
      .from(pulls)
      .where(and(eq(pulls.jobId, jobId), isNotNull(pulls.samplesSha256)));
    const seen = new Map(stored.map(({ key, digest }) => [digest!, `pull ${key} of this job`]));
    const problems: Problem[] = [];
    for (const { row, pulls: own } of mapped) {
      const twin = imported.get(row.sha256);
      if (twin !== undefined)
        problems.push({ line: null, message: `${row.name}: the same file was already imported as "${twin}".` });
      for (const pull of own) {
        const digest = samplesDigest(pull.channels);
        const same = digest && seen.get(digest);
        if (same) {
          const message = `${row.name}: "${pull.name}" holds the same samples as ${same}. One pull under two names would count twice.`;
          problems.push({ line: null, message });
        } else if (digest) seen.set(digest, `"${pull.name}" of ${row.name}`);
      }
    }
    if (problems.length > 0) throw new UnreadableError(problems[0]!.message, problems);
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

/** The newest round of a setup, also one whose first pull is being recorded. */
async function lastRound(tx: Transaction, jobId: string, setupId: string): Promise<number> {
  const [stored] = await tx
    .select({ round: sql<number | null>`max(${pulls.round})` })
    .from(pulls)
    .where(and(eq(pulls.jobId, jobId), eq(pulls.setupKey, setupId)));
  const [open] = await tx
    .select({ round: sql<number | null>`max((${recordings.draft}->'pull'->>'round')::int)` })
    .from(recordings)
    .where(and(eq(recordings.jobId, jobId), sql`${recordings.draft}->'pull'->>'setupId' = ${setupId}`));
  return Math.max(stored?.round ?? 0, open?.round ?? 0);
}

function refuseImported(row: FileRow): void {
  if (row.kind !== 'staged') throw new ConflictException(`"${row.name}" was already imported.`);
}

function refuseTooManyChannels(columns: readonly ColumnMapping[]): void {
  const kept = columns.filter(({ role }) => role !== 'ignore' && role !== 'pullName').length;
  if (kept > LIMITS.channelsPerPull)
    throw new BadRequestException(
      `${kept} columns would be kept; a pull holds at most ${LIMITS.channelsPerPull} channels. Leave some of them out.`,
    );
}

function asMapping({ role, unit }: { role: string; unit?: string | null }): ColumnMapping {
  if (!isColumnRole(role)) throw new BadRequestException(`"${role}" is nothing a column can be.`);
  return { role, unit: unit ?? null };
}

function stateOf({ kind, standard, factor }: NumberStateDto): NumberState {
  if (kind === 'corrected' && factor) return { kind, standard: standard || 'unnamed', factor };
  if (kind === 'scaled' && factor) return { kind, factor };
  if (kind === 'corrected' || kind === 'scaled')
    throw new BadRequestException('Say by which factor the numbers were corrected or scaled, or choose “not known”.');
  return { kind };
}

function asPull(
  m: MappedPull,
  id: string,
  request: ImportRequest,
  round: number,
  position: number,
  numberState: NumberState,
): Pull {
  const { conditions } = request;
  const kind = detectedKind(m);
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
