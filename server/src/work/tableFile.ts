import { closeSync, openSync, readSync, statSync, writeSync } from 'node:fs';
import type { ByteSource, PullFile, PullTable } from '@prandel/formats';

/**
 * A pull file as it was read, kept on disk between staging, preview and import so that it is parsed once. A 4-byte little-endian
 * length, that many bytes of JSON, padding to a multiple of eight, then the columns of every pull as float64 and its lines as
 * uint32. Local to one machine and made anew where it is missing.
 */
interface TableHeader extends Omit<PullFile, 'pulls'> {
  readonly pulls: readonly (Pick<PullTable, 'name' | 'fields'> & { readonly rows: number; readonly at: number })[];
}

/** Writes a file that was read. */
export function writeTableFile(path: string, file: PullFile): void {
  let size = 0;
  const pulls = file.pulls.map(({ name, fields, lines, columns }) => {
    const at = size;
    size += columns.length * lines.length * 8 + Math.ceil(lines.length / 2) * 8;
    return { name, fields, rows: lines.length, at };
  });
  const head = Buffer.from(JSON.stringify({ ...file, pulls } satisfies TableHeader));
  const fd = openSync(path, 'w', 0o600);
  try {
    const start = Buffer.alloc(8);
    start.writeUInt32LE(head.length);
    writeAll(fd, Buffer.concat([start, head, Buffer.alloc(padding(head.length))]));
    for (const { columns, lines } of file.pulls) {
      for (const column of columns) writeAll(fd, Buffer.from(column.buffer, column.byteOffset, column.byteLength));
      const padded = new Uint32Array(Math.ceil(lines.length / 2) * 2);
      padded.set(lines);
      writeAll(fd, Buffer.from(padded.buffer));
    }
  } finally {
    closeSync(fd);
  }
}

/** Bodies up to this size are read at once. */
const WHOLE_BYTES = 8_000_000;

/** A file that was read before; the columns of a large one come from disk each time they are asked for, so that only one stands in memory. */
export function readTableFile(path: string): PullFile {
  const size = statSync(path).size;
  const whole = size <= WHOLE_BYTES ? bytesAt(path, 0, size) : null;
  const part = (at: number, length: number) =>
    whole ? whole.buffer.slice(at, at + length) : bytesAt(path, at, length).buffer;
  const length = new DataView(part(0, 8)).getUint32(0, true);
  const header = JSON.parse(Buffer.from(part(8, length)).toString('utf8')) as TableHeader;
  const body = 8 + length + padding(length);
  return { ...header, pulls: header.pulls.map((pull) => lazyPull(part, body + pull.at, pull, header.columns.length)) };
}

/** Bytes of a file from a place on. */
type Part = (at: number, length: number) => ArrayBuffer;

function lazyPull(
  part: Part,
  at: number,
  { name, fields, rows }: TableHeader['pulls'][number],
  width: number,
): PullTable {
  const columns: Float64Array[] = [];
  for (let c = 0; c < width; c += 1)
    Object.defineProperty(columns, c, {
      enumerable: true,
      get: () => new Float64Array(part(at + c * rows * 8, rows * 8)),
    });
  return {
    name,
    fields,
    columns,
    get lines() {
      return new Uint32Array(part(at + width * rows * 8, rows * 4));
    },
  };
}

function bytesAt(path: string, at: number, length: number): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(length);
  const fd = openSync(path, 'r');
  try {
    for (let done = 0; done < length;) {
      const n = readSync(fd, bytes, done, length - done, at + done);
      if (n === 0) throw new Error(`${path} ends too early`);
      done += n;
    }
  } finally {
    closeSync(fd);
  }
  return bytes;
}

function writeAll(fd: number, bytes: Uint8Array): void {
  for (let done = 0; done < bytes.length;) done += writeSync(fd, bytes, done);
}

function padding(length: number): number {
  return (8 - (length % 8)) % 8;
}

/** A file on disk as a source that is read piece by piece. */
export function fileSource(path: string, size: number): ByteSource & { close(): void } {
  const fd = openSync(path, 'r');
  return {
    size,
    read(from, to) {
      const bytes = Buffer.allocUnsafe(Math.max(0, Math.min(to, size) - from));
      let done = 0;
      while (done < bytes.length) {
        const n = readSync(fd, bytes, done, bytes.length - done, from + done);
        if (n === 0) break;
        done += n;
      }
      return bytes.subarray(0, done);
    },
    close: () => closeSync(fd),
  };
}
