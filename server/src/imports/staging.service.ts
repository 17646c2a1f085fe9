import { randomUUID } from 'node:crypto';
import { BadRequestException, Injectable } from '@nestjs/common';
import { UnreadableError } from '@prandel/formats';
import { and, eq, inArray } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { files, mappings } from '../database/schema.ts';
import { storeFile } from '../files/fileStore.ts';
import { nameOf, type Upload } from '../files/uploads.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/people.service.ts';
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
    const ids = batch.map(() => randomUUID());
    try {
      return await this.database.inShop(shopId, async (tx) => {
        const reads: Promise<PromiseSettledResult<FileRead>>[] = [];
        const begin = (k: number) => {
          const { upload } = batch[k]!;
          const tell: Task['tell'] = (stage, share) => task.tell(stage, (k + share) / batch.length);
          const reading = this.tables.read(shopId, ids[k]!, upload.path, { ...task, tell });
          reads[k] = Promise.allSettled([reading]).then(([settled]) => settled);
        };
        const staged: StagedFile[] = [];
        for (const [k, { name, upload }] of batch.entries()) {
          for (let next = reads.length; next < Math.min(batch.length, k + AHEAD); next += 1) begin(next);
          const read = await reads[k]!;
          if (read.status === 'rejected') {
            if (!(read.reason instanceof UnreadableError)) throw read.reason;
            staged.push({ name, id: null, problems: [...read.reason.problems] });
            continue;
          }
          await storeFile(tx, { id: ids[k]!, shopId, jobId, kind: 'staged', name }, upload);
          task.signal.throwIfAborted();
          staged.push(await this.#stagedFile(tx, ids[k]!, name, read.value));
        }
        return staged;
      });
    } catch (error) {
      await this.tables.forget(ids);
      throw error;
    }
  }

  async #stagedFile(tx: Transaction, id: string, name: string, read: FileRead): Promise<StagedFile> {
    const { signature, pulls, columns, preamble, problems, ...how } = read;
    const [remembered] = await tx.select().from(mappings).where(eq(mappings.signature, signature));
    const fitting = remembered && remembered.columns.length === columns.length ? remembered.columns : null;
    return {
      name,
      id,
      ...how,
      signature,
      preamble: [...preamble],
      remembered: fitting !== null,
      columns: columns.map((c, i) => (fitting ? { ...c, ...fitting[i]!, confidence: 1 } : c)),
      pulls: [...pulls],
      problems: [...problems],
    };
  }

  async #unstage(shopId: string, fileIds: readonly string[]): Promise<void> {
    await this.tables.forget(fileIds);
    if (fileIds.length > 0)
      await this.database.inShop(shopId, (tx) =>
        tx.delete(files).where(and(inArray(files.id, [...fileIds]), eq(files.kind, 'staged'))),
      );
  }
}
