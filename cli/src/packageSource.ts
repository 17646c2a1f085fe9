import { lstat, readdir, readFile } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { LARGEST_UNPACKED_BYTES, UnreadableError, unzip, type PackageFiles } from '@prandel/formats';

/**
 * Files of a package given as a ZIP or a folder.
 * @throws UnreadableError when there is nothing to read
 */
export async function packageFiles(path: string): Promise<PackageFiles> {
  const stat = await lstat(path).catch(() => null);
  if (!stat) throw new UnreadableError(`There is no file or folder "${path}".`);
  return stat.isDirectory() ? folderFiles(path) : unzip(await readFile(path));
}

async function folderFiles(root: string): Promise<PackageFiles> {
  const files: PackageFiles = new Map();
  let total = 0;
  for (const entry of await readdir(root, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const full = join(entry.parentPath, entry.name);
    total += (await lstat(full)).size;
    if (total > LARGEST_UNPACKED_BYTES)
      throw new UnreadableError('The package holds more than 200 MB and was refused.');
    files.set(relative(root, full).split(sep).join('/'), await readFile(full));
  }
  return files;
}
