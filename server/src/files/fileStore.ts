import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { and, asc, eq } from 'drizzle-orm';
import type { Database, Transaction } from '../database/database.ts';
import { fileChunks, files } from '../database/schema.ts';

const PIECE_BYTES = 1_048_576;

export type FileKind = (typeof files.$inferSelect)['kind'];

/** Bytes in memory, or a file on this machine's disk that is read piece by piece. */
export type FileSource = Uint8Array | { readonly path: string; readonly sha256?: string; readonly size?: number };

export interface StoredFile {
  readonly id: string;
  readonly sha256: string;
  readonly size: number;
}

/** SHA-256 and size of a file on disk, hexadecimal and bytes, without reading it into memory. */
export async function digestOf(path: string): Promise<{ sha256: string; size: number }> {
  const hash = createHash('sha256');
  let size = 0;
  for await (const piece of createReadStream(path, { highWaterMark: PIECE_BYTES })) {
    hash.update(piece as Buffer);
    size += (piece as Buffer).length;
  }
  return { sha256: hash.digest('hex'), size };
}

/** Keeps a file of a job unchanged, in pieces, with its digest. Part of the caller's transaction. */
export async function storeFile(
  tx: Transaction,
  { id, shopId, jobId, kind, name }: { id?: string; shopId: string; jobId: string; kind: FileKind; name: string },
  source: FileSource,
): Promise<StoredFile> {
  const { sha256, size } =
    source instanceof Uint8Array
      ? { sha256: createHash('sha256').update(source).digest('hex'), size: source.byteLength }
      : await knownDigest(source);
  const [row] = await tx
    .insert(files)
    .values({ ...(id ? { id } : {}), shopId, jobId, kind, name, sha256, size })
    .returning({ id: files.id });
  const fileId = row!.id;
  let n = 0;
  for await (const content of piecesOf(source)) {
    await tx.insert(fileChunks).values({ shopId, fileId, n, content });
    n += 1;
  }
  return { id: fileId, sha256, size };
}

async function knownDigest({ path, sha256, size }: Exclude<FileSource, Uint8Array>) {
  return sha256 !== undefined && size !== undefined ? { sha256, size } : digestOf(path);
}

async function* piecesOf(source: FileSource): AsyncGenerator<Buffer> {
  if (source instanceof Uint8Array) {
    for (let at = 0; at < source.byteLength; at += PIECE_BYTES) {
      const piece = source.subarray(at, at + PIECE_BYTES);
      yield Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength);
    }
    return;
  }
  for await (const piece of createReadStream(source.path, { highWaterMark: PIECE_BYTES })) yield piece as Buffer;
}

/** The whole file; for small ones such as photos and package resources. */
export async function fileBytes(tx: Transaction, fileId: string): Promise<Buffer> {
  const rows = await tx
    .select({ content: fileChunks.content })
    .from(fileChunks)
    .where(eq(fileChunks.fileId, fileId))
    .orderBy(asc(fileChunks.n));
  return Buffer.concat(rows.map((row) => row.content));
}

/** A file piece by piece, each in a transaction of its own: a slow reader holds no connection. */
export async function* filePieces(database: Database, shopId: string, fileId: string): AsyncGenerator<Buffer> {
  for (let n = 0; ; n += 1) {
    const [row] = await database.inShop(shopId, (tx) =>
      tx
        .select({ content: fileChunks.content })
        .from(fileChunks)
        .where(and(eq(fileChunks.fileId, fileId), eq(fileChunks.n, n))),
    );
    if (!row) return;
    yield row.content;
  }
}
