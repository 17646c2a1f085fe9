import { statfs } from 'node:fs/promises';
import { HttpException, Injectable, type CanActivate } from '@nestjs/common';
import { scratchFolder } from '../files/scratch.ts';

/** Under this much free space the pages warn, and under that much nothing is imported any more. A pull is always taken. */
export const WARN_BYTES = 2_000_000_000;
export const REFUSE_BYTES = 200_000_000;

export interface DiskState {
  readonly freeBytes: number;
  readonly state: 'ok' | 'low' | 'full';
}

/** Free space where this process keeps files: its data folder, else its scratch folder. */
export async function diskState(): Promise<DiskState> {
  const { bavail, bsize } = await statfs(process.env.PRANDEL_DATA ?? scratchFolder());
  const freeBytes = Number(bavail) * Number(bsize);
  return { freeBytes, state: freeBytes < REFUSE_BYTES ? 'full' : freeBytes < WARN_BYTES ? 'low' : 'ok' };
}

/** Lets no upload in when the disk is nearly full. */
@Injectable()
export class RoomForUploads implements CanActivate {
  async canActivate(): Promise<boolean> {
    const { state, freeBytes } = await diskState();
    if (state === 'full')
      throw new HttpException(
        `The server's disk has ${Math.floor(freeBytes / 1e6)} MB left: nothing more is imported until space is made. Pulls are still recorded.`,
        507,
      );
    return true;
  }
}
