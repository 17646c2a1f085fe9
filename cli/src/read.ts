import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { asText, LARGEST_FILE_BYTES, summariseFile, UnreadableError, type FileSummary } from '@prandel/formats';
import { stat } from 'node:fs/promises';

/** Shows what the pull file reader understands, one JSON document a line; exit 2 when nothing could be read. */
export async function readCommand(paths: readonly string[], print: (line: string) => void): Promise<number> {
  let understood = 0;
  for (const path of paths) {
    const summary = await summarise(path);
    if (summary.pulls.length > 0) understood += 1;
    print(JSON.stringify(summary, (_, v: unknown) => (typeof v === 'number' && !Number.isFinite(v) ? null : v)));
  }
  return understood > 0 ? 0 : 2;
}

async function summarise(path: string): Promise<FileSummary> {
  const nothing = (message: string): FileSummary => ({
    file: path,
    encoding: null,
    delimiter: null,
    decimal: null,
    headerLine: null,
    written: null,
    arrangement: null,
    columns: [],
    pulls: [],
    problems: [{ line: null, message }],
  });
  const info = await stat(path).catch(() => null);
  if (!info?.isFile()) return nothing(`There is no file "${basename(path)}".`);
  if (info.size > LARGEST_FILE_BYTES)
    return nothing(
      `The file has ${(info.size / 1048576).toFixed(0)} MB; at most 200 MB can be read. Export one pull at a time.`,
    );
  try {
    const { text, written } = await asText(await readFile(path));
    return summariseFile(path, text, written);
  } catch (error) {
    if (!(error instanceof UnreadableError)) throw error;
    return nothing(error.message);
  }
}
