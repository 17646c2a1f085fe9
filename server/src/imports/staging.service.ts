import { randomUUID } from 'node:crypto';
import { readdir, rm } from 'node:fs/promises';
import { BadRequestException, Injectable } from '@nestjs/common';
import { LARGEST_FILE_BYTES, recordedAt, UnreadableError } from '@prandel/formats';
import { and, eq, inArray } from 'drizzle-orm';
import { v7 } from 'uuid';
import { Database, type Transaction } from '../database/database.ts';
import { files } from '../database/schema.ts';
import { storeFile } from '../files/fileStore.ts';
import { scratchFolder, scratchPath } from '../files/scratch.ts';
import { nameOf, plainName, type Upload } from '../files/uploads.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/caller.ts';
import { ahead } from '../work/ahead.ts';
import type { Task } from '../work/progress.ts';
import type { FileRead } from '../work/work.ts';
import { WorkPool } from '../work/workPool.ts';
import { MOST_FILES, type StagedFile } from './imports.dto.ts';
import { knownShapes, type KnownShape } from './shapes.ts';
import { Tables } from './tables.ts';

/** Files that are read ahead of the one that is being stored; a thread always has something to do. */
const AHEAD = 6;
/** Files up to this size are stored in one transaction with their neighbours. */
const SMALL_BYTES = 2_000_000;
const BATCH = 40;
const UNPACKING_S = 120;

/** A file that came by itself or in an archive. */
interface Arrived extends Pick<Upload, 'path' | 'size' | 'sha256'> {
  readonly name: string;
  readonly changedAt: string | null;
}
type Given = Arrived | { readonly name: string; readonly refused: string };

/** A file that is no twin of another, and its place in the answer. */
interface Fresh {
  readonly name: string;
  readonly upload: Arrived;
  readonly place: number;
}

/** Small files together, a large one alone. */
function batchesOf(fresh: readonly Fresh[]): Fresh[][] {
  const batches: Fresh[][] = [];
  for (const one of fresh) {
    const last = batches.at(-1);
    const small = one.upload.size <= SMALL_BYTES;
    if (last && small && last.length < BATCH && last[0]!.upload.size <= SMALL_BYTES) last.push(one);
    else batches.push([one]);
  }
  return batches;
}

/** Names of the job's imported files by digest. */
export async function importedFiles(tx: Transaction, jobId: string): Promise<Map<string, string>> {
  const rows = await tx
    .select({ sha256: files.sha256, name: files.name })
    .from(files)
    .where(and(eq(files.jobId, jobId), eq(files.kind, 'pull-file')));
  return new Map(rows.map(({ sha256, name }) => [sha256, name]));
}

/** Takes files in: kept as they came, and shown as the reader understands them, before anything of them is imported. */
@Injectable()
export class StagingService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly tables: Tables,
    private readonly pool: WorkPool,
  ) {}

  /** Keeps the bytes and tells what the reader understands. A file that cannot be read is not kept; cancelled, none is. */
  async stage(caller: Caller, jobId: string, uploads: readonly Upload[], task: Task): Promise<StagedFile[]> {
    if (uploads.length > MOST_FILES)
      throw new BadRequestException(`${uploads.length} files at once; at most ${MOST_FILES} are taken.`);
    const { imported, bay } = await this.database.inShop(caller.shopId, async (tx) => {
      const { job } = await this.store.read(tx, jobId, false);
      return { bay: job.bay.label, imported: await importedFiles(tx, jobId) };
    });
    const staged: StagedFile[] = [];
    const seen = new Map<string, string>();
    const unpacked: string[] = [];
    try {
      const given = await this.#unpacked(caller.shopId, uploads, unpacked, task);
      if (given.length > MOST_FILES)
        throw new BadRequestException(`${given.length} files at once; at most ${MOST_FILES} are taken.`);
      const fresh: Fresh[] = [];
      for (const upload of given) {
        const { name } = upload;
        if ('refused' in upload) {
          staged.push({ name, id: null, problems: [{ line: null, message: upload.refused }] });
          continue;
        }
        const twin = imported.get(upload.sha256) ?? seen.get(upload.sha256);
        if (twin !== undefined) {
          const message = imported.has(upload.sha256)
            ? `The same file was already imported as "${twin}". It is not taken twice.`
            : `The same file is among these as "${twin}". It is taken once.`;
          staged.push({ name, id: null, problems: [{ line: null, message }] });
          continue;
        }
        seen.set(upload.sha256, name);
        fresh.push({ name, upload, place: staged.length });
        staged.push({ name, id: null, problems: [] });
      }
      for (const batch of batchesOf(fresh)) {
        const tell: Task['tell'] = (stage, share) => {
          const first = fresh.indexOf(batch[0]!);
          task.tell(stage, (first + batch.length * share) / fresh.length);
        };
        const read = await this.#stageBatch(caller.shopId, jobId, bay, batch, { ...task, tell });
        read.forEach((file, k) => (staged[batch[k]!.place] = file));
      }
      task.signal.throwIfAborted();
      return staged;
    } catch (error) {
      await this.#unstage(
        caller.shopId,
        staged.flatMap((f) => f.id ?? []),
      ).catch(() => undefined);
      throw error;
    } finally {
      for (const path of unpacked) await rm(path, { force: true });
    }
  }

  /** Archives are taken apart; a workbook, which is a ZIP too, is a file. @param unpacked takes the paths of what was unpacked, for who clears them away */
  async #unpacked(shopId: string, uploads: readonly Upload[], unpacked: string[], task: Task): Promise<Given[]> {
    const given: Given[] = [];
    for (const upload of uploads) {
      const name = nameOf(upload);
      if (!/\.zip$/i.test(name)) {
        given.push({ ...upload, name, changedAt: null });
        continue;
      }
      const stem = randomUUID();
      try {
        const work = { path: upload.path, folder: scratchFolder(), stem, largest: LARGEST_FILE_BYTES };
        const entries = await this.pool.run(shopId, 'unpack', () => ({ input: work }), {
          timeoutS: UNPACKING_S,
          signal: task.signal,
        });
        unpacked.push(...entries.flatMap(({ path }) => path ?? []));
        for (const { path, refused, name: own, ...entry } of entries)
          given.push(
            path === null ? { name: plainName(own), refused: refused ?? '' } : { ...entry, name: plainName(own), path },
          );
      } catch (error) {
        // A thread that was ended on the way leaves what it had unpacked.
        for (const left of await readdir(scratchFolder()))
          if (left.startsWith(stem)) await rm(scratchPath(left), { force: true });
        if (!(error instanceof UnreadableError)) throw error;
        given.push({ name, refused: error.message });
      }
    }
    return given;
  }

  /** Reads files in a thread, some ahead of the one that is being stored, and stores those that could be read. */
  async #stageBatch(
    shopId: string,
    jobId: string,
    bay: string,
    batch: readonly Fresh[],
    task: Task,
  ): Promise<StagedFile[]> {
    const ids = batch.map(() => v7());
    try {
      return await this.database.inShop(shopId, async (tx) => {
        const read = async ({ upload }: Fresh, k: number): Promise<FileRead | UnreadableError> => {
          const tell: Task['tell'] = (stage, share) => task.tell(stage, (k + share) / batch.length);
          try {
            return await this.tables.read(shopId, ids[k]!, upload.path, { ...task, tell });
          } catch (error) {
            if (error instanceof UnreadableError) return error;
            throw error;
          }
        };
        const staged: StagedFile[] = [];
        const known = new Map<string, Known | null>();
        for await (const [k, { name, upload }, file] of ahead(batch, AHEAD, read)) {
          if (file instanceof UnreadableError) {
            staged.push({ name, id: null, problems: [...file.problems] });
            continue;
          }
          await storeFile(tx, { id: ids[k]!, shopId, jobId, kind: 'staged', name }, upload);
          task.signal.throwIfAborted();
          const { signature } = file;
          if (!known.has(signature))
            known.set(signature, (await knownShapes(tx, bay, [signature])).get(signature) ?? null);
          staged.push({ ...stagedFile(ids[k]!, name, file, known.get(signature)!), changedAt: upload.changedAt });
        }
        return staged;
      });
    } catch (error) {
      await this.tables.forget(ids);
      throw error;
    }
  }

  async #unstage(shopId: string, fileIds: readonly string[]): Promise<void> {
    await this.tables.forget(fileIds);
    if (fileIds.length > 0)
      await this.database.inShop(shopId, (tx) =>
        tx.delete(files).where(and(inArray(files.id, [...fileIds]), eq(files.kind, 'staged'))),
      );
  }
}

type Known = Pick<KnownShape, 'answers'> & { readonly columns: readonly { role: string; unit: string | null }[] };

function stagedFile(id: string, name: string, read: FileRead, known: Known | null): StagedFile {
  const { signature, pulls, columns, preamble, fields: _, problems, ...how } = read;
  const fitting = known?.columns.length === columns.length ? known.columns : null;
  return {
    name,
    id,
    ...how,
    signature,
    preamble: [...preamble],
    remembered: fitting !== null,
    answers: fitting ? (known?.answers ?? null) : null,
    columns: columns.map((c, i) => (fitting ? { ...c, ...fitting[i]!, confidence: 1 } : c)),
    pulls: [...pulls],
    recorded: recordedAt(preamble, name),
    problems: [...problems],
  };
}
