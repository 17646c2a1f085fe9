import yauzl from 'yauzl';
import yazl from 'yazl';
import { UnreadableError } from '../problem.ts';
import { LARGEST_UNPACKED_BYTES, type PackageFiles } from './packageFiles.ts';

const MOST_ENTRIES = 5000;

/** What may be unpacked, and what errors call it. */
export interface UnzipLimits {
  readonly largest: number;
  readonly what: string;
}

/**
 * Unpacks a ZIP in memory. Paths that climb out, absolute paths, more than 200 MB unpacked and entries whose size is not
 * what they declare are refused.
 * @throws UnreadableError
 */
export async function unzip(
  bytes: Uint8Array,
  { largest, what }: UnzipLimits = { largest: LARGEST_UNPACKED_BYTES, what: 'package' },
): Promise<PackageFiles> {
  if (bytes.length === 0) throw new UnreadableError(`The ${what} is empty.`);
  try {
    return await unzipEntries(bytes, { largest, what });
  } catch (error) {
    if (error instanceof UnreadableError) throw error;
    const why = error instanceof Error ? error.message : String(error);
    if (/invalid relative path|absolute path|invalid characters/.test(why))
      throw new UnreadableError(`The ${what} names a file outside its own folder (${why}). It was refused.`);
    throw new UnreadableError(`This is not a whole ZIP file (${why}). Export the ${what} again.`);
  }
}

async function unzipEntries(bytes: Uint8Array, { largest, what }: UnzipLimits): Promise<PackageFiles> {
  const zip = await yauzl.fromBufferPromise(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength), {
    lazyEntries: true,
    strictFileNames: true,
  });
  const files: PackageFiles = new Map();
  let total = 0;
  let entries = 0;
  for await (const entry of zip.eachEntry()) {
    if (++entries > MOST_ENTRIES) throw new UnreadableError(`The ${what} holds more than ${MOST_ENTRIES} files.`);
    if (entry.fileName.endsWith('/')) continue;
    if (total + entry.uncompressedSize > largest) throw tooLarge(largest, what);
    const chunks: Buffer[] = [];
    const stream = await zip.openReadStreamPromise(entry);
    for await (const chunk of stream) {
      chunks.push(chunk as Buffer);
      total += (chunk as Buffer).length;
      if (total > largest) throw tooLarge(largest, what);
    }
    files.set(entry.fileName, Buffer.concat(chunks));
  }
  return files;
}

function tooLarge(largest: number, what: string): UnreadableError {
  return new UnreadableError(`The ${what} unpacks to more than ${largest / 1024 / 1024} MB and was refused.`);
}

/** Packs files into a ZIP. The same files give the same bytes: entries carry a fixed date. */
export async function zip(files: PackageFiles): Promise<Buffer> {
  const archive = new yazl.ZipFile();
  for (const [path, content] of files)
    archive.addBuffer(Buffer.from(content), path, { mtime: new Date(Date.UTC(2000, 0, 1)), compress: true });
  archive.end();
  const chunks: Buffer[] = [];
  for await (const chunk of archive.outputStream) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}
