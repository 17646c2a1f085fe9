import { BadRequestException, Injectable } from '@nestjs/common';
import { recordedAt, UnreadableError } from '@prandel/formats';
import { and, eq, inArray } from 'drizzle-orm';
import { v7 } from 'uuid';
import { Database, type Transaction } from '../database/database.ts';
import { files, mappings } from '../database/schema.ts';
import { storeFile } from '../files/fileStore.ts';
import { nameOf, type Upload } from '../files/uploads.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/caller.ts';
import { ahead } from '../work/ahead.ts';
import type { Task } from '../work/progress.ts';
import type { FileRead } from '../work/work.ts';
import type { StagedFile } from './imports.dto.ts';
import { Tables } from './tables.ts';

export const MOST_FILES = 500;
/** Files that are read ahead of the one that is being stored; a thread always has something to do. */
const AHEAD = 6;
/** Files up to this size are stored in one transaction with their neighbours. */
const SMALL_BYTES = 2_000_000;
const BATCH = 40;

/** An upload that is no twin of another, and its place in the answer. */
interface Fresh {
  readonly name: string;
  readonly upload: Upload;
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
  ) {}

  /** Keeps the bytes and tells what the reader understands. A file that cannot be read is not kept; cancelled, none is. */
  async stage(caller: Caller, jobId: string, uploads: readonly Upload[], task: Task): Promise<StagedFile[]> {
    if (uploads.length > MOST_FILES)
      throw new BadRequestException(`${uploads.length} files at once; at most ${MOST_FILES} are taken.`);
    const imported = await this.database.inShop(caller.shopId, async (tx) => {
      await this.store.read(tx, jobId, false);
      return importedFiles(tx, jobId);
    });
    const staged: StagedFile[] = [];
    const seen = new Map<string, string>();
    try {
      const fresh: Fresh[] = [];
      for (const upload of uploads) {
        const name = nameOf(upload);
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
        const read = await this.#stageBatch(caller.shopId, jobId, batch, { ...task, tell });
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
    }
  }

  /** Reads files in a thread, some ahead of the one that is being stored, and stores those that could be read. */
  async #stageBatch(shopId: string, jobId: string, batch: readonly Fresh[], task: Task): Promise<StagedFile[]> {
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
        const remembered = new Map<string, RememberedColumns | null>();
        for await (const [k, { name, upload }, file] of ahead(batch, AHEAD, read)) {
          if (file instanceof UnreadableError) {
            staged.push({ name, id: null, problems: [...file.problems] });
            continue;
          }
          await storeFile(tx, { id: ids[k]!, shopId, jobId, kind: 'staged', name }, upload);
          task.signal.throwIfAborted();
          if (!remembered.has(file.signature)) remembered.set(file.signature, await mappingOf(tx, file.signature));
          staged.push(stagedFile(ids[k]!, name, file, remembered.get(file.signature)!));
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

type RememberedColumns = (typeof mappings.$inferSelect)['columns'];

async function mappingOf(tx: Transaction, signature: string): Promise<RememberedColumns | null> {
  const [row] = await tx.select().from(mappings).where(eq(mappings.signature, signature));
  return row?.columns ?? null;
}

function stagedFile(id: string, name: string, read: FileRead, remembered: RememberedColumns | null): StagedFile {
  const { signature, pulls, columns, preamble, problems, ...how } = read;
  const fitting = remembered?.length === columns.length ? remembered : null;
  return {
    name,
    id,
    ...how,
    signature,
    preamble: [...preamble],
    remembered: fitting !== null,
    columns: columns.map((c, i) => (fitting ? { ...c, ...fitting[i]!, confidence: 1 } : c)),
    pulls: [...pulls],
    recorded: recordedAt(preamble, name),
    problems: [...problems],
  };
}
