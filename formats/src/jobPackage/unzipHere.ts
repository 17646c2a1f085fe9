import { unzipSync } from 'fflate';
import { UnreadableError } from '../problem.ts';
import { LARGEST_UNPACKED_BYTES, type PackageFiles } from './packageFiles.ts';

/**
 * Unpacks a package where there are no streams: in a browser. What it declares beyond 200 MB is refused.
 * @throws UnreadableError
 */
export function unzipHere(bytes: Uint8Array): PackageFiles {
  let total = 0;
  try {
    const entries = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (name.endsWith('/')) return false;
        total += originalSize;
        if (total > LARGEST_UNPACKED_BYTES)
          throw new UnreadableError('The package unpacks to more than 200 MB and was refused.');
        return true;
      },
    });
    return new Map(Object.entries(entries));
  } catch (error) {
    if (error instanceof UnreadableError) throw error;
    throw new UnreadableError(`This is not a whole ZIP file (${(error as Error).message}). Get the package again.`);
  }
}
