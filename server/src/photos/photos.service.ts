import { createHash } from 'node:crypto';
import { BadRequestException, Injectable, NotFoundException } from '@nestjs/common';
import type { FittingPhoto } from '@prandel/core';
import { and, eq } from 'drizzle-orm';
import { fileTypeFromBuffer } from 'file-type';
import { Database } from '../database/database.ts';
import { files } from '../database/schema.ts';
import { fileBytes, storeFile } from '../files/fileStore.ts';
import { record } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import type { Caller } from '../people/caller.ts';

export const MOST_PHOTOS = 20;
export const LARGEST_PHOTO_BYTES = 15_000_000;

/** Kinds that every browser shows. */
const SHOWN: readonly string[] = ['image/jpeg', 'image/png', 'image/webp'];

/** Keeps photos as files of the job, so that its package carries them, and writes their digests into the evidence. */
@Injectable()
export class PhotosService {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
  ) {}

  /**
   * Adds photos to the fitting whose clock was started at `startedAt`: all of them or none.
   * @throws BadRequestException when a file is no picture that a browser shows; NotFoundException without such a fitting
   */
  async add(caller: Caller, jobId: string, startedAt: string, uploads: { name: string; bytes: Buffer }[]) {
    if (uploads.length === 0) throw new BadRequestException('Choose at least one photo.');
    const addedAt = new Date().toISOString();
    const taken: (FittingPhoto & { bytes: Buffer })[] = [];
    for (const { name, bytes } of uploads) {
      const type = await fileTypeFromBuffer(bytes);
      if (!type || !SHOWN.includes(type.mime))
        throw new BadRequestException(
          `${name} is ${type ? `a ${type.ext} file` : 'no picture'}. Photos are kept as JPEG, PNG or WebP; none of this choice was stored.`,
        );
      const sha256 = createHash('sha256').update(bytes).digest('hex');
      taken.push({ path: `photos/${sha256.slice(0, 24)}.${type.ext}`, name, sha256, addedAt, bytes });
    }
    await this.database.inShop(caller.shopId, async (tx) => {
      let setup = '';
      await this.store.changeFittings(tx, jobId, (list) => {
        const at = list.find((f) => Date.parse(f.startedAt) === Date.parse(startedAt));
        if (!at) throw new NotFoundException('This job has no fitting that was started then.');
        setup = at.setup;
        const known = new Set(at.photos?.map((p) => p.sha256));
        const photos = taken.filter((p) => !known.has(p.sha256)).map(({ bytes: _, ...photo }) => photo);
        return list.map((f) => (f === at ? { ...f, photos: [...(f.photos ?? []), ...photos] } : f));
      });
      for (const { path, name, sha256, bytes } of taken) {
        const stored = await tx
          .select({ id: files.id })
          .from(files)
          .where(and(eq(files.jobId, jobId), eq(files.name, path)));
        if (stored.length > 0) continue;
        await storeFile(tx, { shopId: caller.shopId, jobId, kind: 'resource', name: path }, bytes);
        await record(tx, caller.shopId, jobId, {
          person: caller.name,
          kind: 'fitting',
          what: `Added photo ${name} to the fitting of ${setup}.`,
          detail: { path, sha256 },
        });
      }
    });
  }

  /** @throws NotFoundException when the job has no such photo */
  read(caller: Caller, jobId: string, file: string): Promise<{ content: Buffer; type: string }> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [row] = await tx
        .select({ id: files.id, size: files.size })
        .from(files)
        .where(and(eq(files.jobId, jobId), eq(files.kind, 'resource'), eq(files.name, `photos/${file}`)));
      if (!row || row.size > LARGEST_PHOTO_BYTES) throw new NotFoundException('This job has no such photo.');
      const content = await fileBytes(tx, row.id);
      const type = await fileTypeFromBuffer(content);
      // A package may carry anything under that name; only pictures are shown.
      if (!type || !SHOWN.includes(type.mime)) throw new NotFoundException('This job has no such photo.');
      return { content, type: type.mime };
    });
  }
}
