import { createHash } from 'node:crypto';
import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { newPull, usablePreview, type Job, type NumberState, type Pull } from '@prandel/core';
import {
  headerSignature,
  isColumnRole,
  mapPullFile,
  readPullFile,
  summarisePull,
  UnreadableError,
  type ColumnMapping,
  type MappedPull,
} from '@prandel/formats';
import { and, eq, inArray } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { files, mappings } from '../database/schema.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/people.service.ts';
import type { ImportRequest, NumberStateDto, PreviewPull, StagedFile } from './imports.dto.ts';

const MOST_FILES = 500;

/** Files on their way in: kept as they came, shown, corrected by a person, then imported whole or not at all. */
@Injectable()
export class ImportsService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
  ) {}

  /** Keeps the bytes and tells what the reader understands. A file that cannot be read is not kept. */
  stage(caller: Caller, jobId: string, uploads: readonly { name: string; bytes: Buffer }[]): Promise<StagedFile[]> {
    if (uploads.length > MOST_FILES)
      throw new BadRequestException(`${uploads.length} files at once; at most ${MOST_FILES} are taken.`);
    return this.database.inShop(caller.shopId, async (tx) => {
      await this.store.read(tx, jobId, false);
      const staged: StagedFile[] = [];
      for (const { name, bytes } of uploads) staged.push(await this.stageOne(tx, caller.shopId, jobId, name, bytes));
      return staged;
    });
  }

  private async stageOne(
    tx: Transaction,
    shopId: string,
    jobId: string,
    name: string,
    bytes: Buffer,
  ): Promise<StagedFile> {
    try {
      const file = readPullFile(bytes);
      const sha256 = createHash('sha256').update(bytes).digest('hex');
      const [same] = await tx
        .select({ name: files.name })
        .from(files)
        .where(and(eq(files.jobId, jobId), eq(files.sha256, sha256), eq(files.kind, 'pull-file')));
      if (same)
        return {
          name,
          id: null,
          problems: [
            { line: null, message: `The same file was already imported as "${same.name}". It is not taken twice.` },
          ],
        };
      const [row] = await tx
        .insert(files)
        .values({ shopId, jobId, kind: 'staged', name, sha256, content: bytes })
        .returning({ id: files.id });
      const signature = headerSignature(file);
      const [remembered] = await tx.select().from(mappings).where(eq(mappings.signature, signature));
      const fitting = remembered && remembered.columns.length === file.columns.length ? remembered.columns : null;
      const columns = file.columns.map((c, i) => (fitting ? { ...c, ...fitting[i]!, confidence: 1 } : c));
      return {
        name,
        id: row!.id,
        encoding: file.encoding,
        delimiter: file.delimiter,
        decimal: file.decimal,
        headerLine: file.headerLine,
        preamble: [...file.preamble],
        signature,
        remembered: fitting !== null,
        columns,
        pulls: file.pulls.map((p) => ({
          name: p.name,
          rows: p.lines.length,
          sample: file.columns.map((_, i) => Array.from(p.columns[i]!.slice(0, 3))),
        })),
        problems: [...file.problems],
      };
    } catch (error) {
      if (error instanceof UnreadableError) return { name, id: null, problems: [...error.problems] };
      throw error;
    }
  }

  /** What the files would become under a mapping: curves and peaks, or every problem with its line. */
  preview(caller: Caller, jobId: string, request: Pick<ImportRequest, 'fileIds' | 'columns'>): Promise<PreviewPull[]> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const { job } = await this.store.read(tx, jobId, false);
      const mapped = await this.mapFiles(tx, jobId, request.fileIds, request.columns);
      return mapped.flatMap(({ file, pulls }) => pulls.map((pull) => previewOf(file.name, pull, job)));
    });
  }

  /** Imports files as one round of a setup, in the order given, and remembers the mapping. */
  import(caller: Caller, jobId: string, request: ImportRequest): Promise<{ pulls: number }> {
    const numberState = stateOf(request.numberState);
    return this.database.inShop(caller.shopId, async (tx) => {
      const { job, version } = await this.store.read(tx, jobId, false);
      if (!job.setups.some((s) => s.id === request.setupId))
        throw new BadRequestException(`The job has no setup "${request.setupId}".`);
      const mapped = await this.mapFiles(tx, jobId, request.fileIds, request.columns);
      const own = job.pulls.filter((p) => p.setupId === request.setupId);
      const round = 1 + Math.max(0, ...own.map((p) => p.round));
      let position = 0;
      const taken = new Set(job.pulls.map((p) => p.id));
      for (const { file, pulls } of mapped) {
        const list = pulls.map((m): Pull => {
          position += 1;
          let id = `${request.setupId}-${own.length + position}`;
          while (taken.has(id)) id += 'x';
          taken.add(id);
          return asPull(m, id, request, round, position, numberState);
        });
        await this.store.addPulls(tx, caller.shopId, jobId, list, file.id);
        await tx.update(files).set({ kind: 'pull-file' }).where(eq(files.id, file.id));
        await this.store.note(
          tx,
          caller.shopId,
          jobId,
          caller.name,
          `Imported ${list.length} ${list.length === 1 ? 'pull' : 'pulls'} for setup ${request.setupId} from ${file.name}.`,
        );
      }
      const columns = request.columns.map((c) => ({ role: c.role, unit: c.unit ?? null }));
      const signature = headerSignature(readPullFile(mapped[0]!.file.content));
      await tx
        .insert(mappings)
        .values({ shopId: caller.shopId, signature, columns })
        .onConflictDoUpdate({ target: [mappings.shopId, mappings.signature], set: { columns } });
      await this.store.bump(tx, jobId, version);
      return { pulls: position };
    });
  }

  private async mapFiles(
    tx: Transaction,
    jobId: string,
    ids: readonly string[],
    columns: readonly { role: string; unit?: string | null }[],
  ) {
    const rows = await tx
      .select()
      .from(files)
      .where(and(eq(files.jobId, jobId), inArray(files.id, [...ids])));
    return ids.map((id) => {
      const file = rows.find((f) => f.id === id);
      if (!file) throw new NotFoundException('A file of this import is no longer here. Choose the files again.');
      if (file.kind !== 'staged') throw new ConflictException(`"${file.name}" was already imported.`);
      try {
        return { file, pulls: mapPullFile(readPullFile(file.content), columns.map(asMapping)) };
      } catch (error) {
        if (error instanceof UnreadableError)
          throw new UnreadableError(
            `${file.name}: ${error.message}`,
            error.problems.map((p) => ({ line: p.line, message: `${file.name}: ${p.message}` })),
          );
        throw error;
      }
    });
  }

  original(caller: Caller, jobId: string, fileId: string) {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [file] = await tx
        .select()
        .from(files)
        .where(and(eq(files.id, fileId), eq(files.jobId, jobId)));
      if (!file) throw new NotFoundException('There is no such file.');
      return file;
    });
  }

  files(caller: Caller, jobId: string) {
    return this.database.inShop(caller.shopId, (tx) =>
      tx
        .select({ id: files.id, name: files.name, addedAt: files.addedAt })
        .from(files)
        .where(and(eq(files.jobId, jobId), eq(files.kind, 'pull-file')))
        .orderBy(files.addedAt),
    );
  }
}

function previewOf(file: string, pull: MappedPull, job: Job): PreviewPull {
  const { curve, findings } = usablePreview(
    { ...newPull('preview', 'A', 1), channels: pull.channels },
    job.bay,
    job.vehicle,
  );
  return {
    file,
    ...summarisePull(pull),
    curve,
    findings: findings.map(({ code, severity, text }) => ({ code, severity, text })),
  };
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
  return {
    ...newPull(id, request.setupId, position),
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
