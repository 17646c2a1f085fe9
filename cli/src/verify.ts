import { readFile, stat } from 'node:fs/promises';
import { judgeJob, type SealCheck } from '@prandel/core';
import {
  fingerprint,
  looksLikeReport,
  nodeSha256,
  UnreadableError,
  unzip,
  verifyPackage,
  verifyReport,
  type Seal,
} from '@prandel/formats';
import { NOT_PROVEN, sealCheckWords, sealedVerdicts, sealStanding, unitsOfSealed } from '@prandel/presentation';
import { packageFiles } from './packageSource.ts';

const MARKS: Readonly<Record<SealCheck['state'], string>> = { holds: 'holds', fails: 'FAILS', noted: 'note ' };

/**
 * Checks packages and reports without database or network, a line a check.
 * @returns 0 when everything holds, 1 when something does not, 2 when a file could not be read
 */
export async function verifyCommand(paths: readonly string[], print: (line: string) => void): Promise<number> {
  let code = 0;
  for (const path of paths) {
    try {
      const { seal, checks } = await verified(path);
      print(`${path}: ${sealStanding(checks, seal !== null).words}`);
      if (seal) print(`  ${sealedBy(seal)}`);
      for (const check of checks) print(`  ${MARKS[check.state]}  ${sealCheckWords(check)}`);
      if (seal) print(`  note   ${NOT_PROVEN}`);
      if (checks.some((c) => c.state === 'fails')) code = Math.max(code, 1);
    } catch (error) {
      const why =
        error instanceof UnreadableError ? error.message : `It could not be checked: ${(error as Error).message}`;
      print(`${path}: ${why}`);
      code = 2;
    }
  }
  return code;
}

async function verified(path: string): Promise<{ seal: Seal | null; checks: readonly SealCheck[] }> {
  const there = await stat(path).catch(() => null);
  if (!there) throw new UnreadableError(`There is no file or folder "${path}".`);
  if (there.isFile()) {
    const bytes = await readFile(path);
    if (looksLikeReport(bytes)) return verifyReport(bytes.toString('utf8'), nodeSha256);
    return verifyPackage(await unzip(bytes), WITH);
  }
  return verifyPackage(await packageFiles(path), WITH);
}

const WITH = {
  judge: (job: Parameters<typeof judgeJob>[0], like: Parameters<typeof unitsOfSealed>[0]) =>
    sealedVerdicts(judgeJob(job), unitsOfSealed(like)),
  sha256: nodeSha256,
};

function sealedBy({ shop, by, sealedAt, publicKey, engine }: Seal): string {
  return `Sealed on ${sealedAt} by ${by}, ${shop}, with ${engine.name} ${engine.version}; key ${fingerprint(publicKey)}`;
}
