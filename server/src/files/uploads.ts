import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { PayloadTooLargeException } from '@nestjs/common';
import { implausibleText } from '@prandel/core';
import type { Request } from 'express';
import type { StorageEngine } from 'multer';
import { scratchPath } from './scratch.ts';

/** A file that came in and lies on this machine's disk until the request is over. */
export interface Upload {
  readonly originalname: string;
  readonly path: string;
  readonly size: number;
  readonly sha256: string;
}

/** All files of one request together, bytes. */
const MOST_BYTES_A_REQUEST = 1_000_000_000;

/** Takes uploads to disk as they arrive, with their digests; nothing of them stands in memory. */
export class ScratchStorage implements StorageEngine {
  readonly #totals = new WeakMap<Request, number>();

  _handleFile(
    request: Request,
    file: Express.Multer.File,
    done: (error?: unknown, info?: Partial<Express.Multer.File> & { sha256?: string }) => void,
  ): void {
    const path = scratchPath(`${randomUUID()}.upload`);
    const hash = createHash('sha256');
    let size = 0;
    const count = new Transform({
      transform: (piece: Buffer, _, next) => {
        size += piece.length;
        hash.update(piece);
        const total = (this.#totals.get(request) ?? 0) + piece.length;
        this.#totals.set(request, total);
        if (total > MOST_BYTES_A_REQUEST)
          next(new PayloadTooLargeException('The files are larger than 1 GB together. Choose fewer at a time.'));
        else next(null, piece);
      },
    });
    pipeline(file.stream, count, createWriteStream(path, { mode: 0o600 })).then(
      () => done(null, { path, size, sha256: hash.digest('hex') }),
      (error: unknown) => {
        void rm(path, { force: true });
        done(error);
      },
    );
  }

  _removeFile(_: Request, file: Express.Multer.File, done: (error: Error | null) => void): void {
    rm(file.path ?? '', { force: true }).then(() => done(null), done);
  }
}

/** The name of an upload. Browsers send it as UTF-8; multer hands it over as Latin-1. */
export function nameOf({ originalname }: Pick<Upload, 'originalname'>): string {
  return plainName(Buffer.from(originalname, 'latin1').toString('utf8'));
}

/** A name as it can be stored and shown; one that cannot is "file". */
export function plainName(given: string): string {
  const name = given.slice(0, 255);
  return implausibleText(name) === null ? name : 'file';
}

/** Does something with uploads and removes them from disk, whatever comes of it. */
export async function withUploads<T>(uploads: readonly Upload[], work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } finally {
    for (const { path } of uploads) await rm(path, { force: true });
  }
}
