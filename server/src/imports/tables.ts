import { createWriteStream, existsSync } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Injectable } from '@nestjs/common';
import { Database } from '../database/database.ts';
import { filePieces } from '../files/fileStore.ts';
import { scratchPath } from '../files/scratch.ts';
import type { Task } from '../work/progress.ts';
import type { FileRead } from '../work/work.ts';
import { WorkPool } from '../work/workPool.ts';

const READING_S = 180;

/** Tables of pull files that were read, kept on this machine from staging to import, so that a file is parsed once. */
@Injectable()
export class Tables {
  constructor(
    private readonly database: Database,
    private readonly pool: WorkPool,
  ) {}

  /** Reads a file on disk and keeps its table. @throws UnreadableError */
  async read(shopId: string, fileId: string, path: string, task: Task | null): Promise<FileRead> {
    const tablePath = tableOf(fileId);
    // Another request may ask for the same table meanwhile: it must find a whole one or none.
    const making = `${tablePath}.${Math.random().toString(36).slice(2)}`;
    try {
      const read = await this.pool.run(shopId, 'readPullFile', () => ({ input: { path, tablePath: making } }), {
        timeoutS: READING_S,
        ...(task ? { signal: task.signal, onProgress: (share) => task.tell('reading', share) } : {}),
      });
      await rename(making, tablePath);
      return read;
    } finally {
      await rm(making, { force: true });
    }
  }

  /** Where the table of a stored file lies; made anew from the stored bytes where this machine does not have it. */
  async pathOf(shopId: string, fileId: string, task: Task | null = null): Promise<string> {
    const tablePath = tableOf(fileId);
    if (existsSync(tablePath)) return tablePath;
    const path = scratchPath(`${fileId}.${Math.random().toString(36).slice(2)}.csv`);
    try {
      await pipeline(
        Readable.from(filePieces(this.database, shopId, fileId)),
        createWriteStream(path, { mode: 0o600 }),
      );
      await this.read(shopId, fileId, path, task);
    } finally {
      await rm(path, { force: true });
    }
    return tablePath;
  }

  async forget(fileIds: readonly string[]): Promise<void> {
    for (const id of fileIds) await rm(tableOf(id), { force: true });
  }
}

function tableOf(fileId: string): string {
  return scratchPath(`${fileId}.table`);
}
