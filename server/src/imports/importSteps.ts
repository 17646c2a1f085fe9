import { BadRequestException, ConflictException, NotFoundException } from '@nestjs/common';
import { LIMITS, type NumberState } from '@prandel/core';
import { isColumnRole, UnreadableError, type ColumnMapping, type Problem } from '@prandel/formats';
import { and, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { files, pulls, recordings } from '../database/schema.ts';
import type { ReadPull } from '../work/work.ts';
import type { NumberStateDto } from './imports.dto.ts';
import { importedFiles } from './staging.service.ts';

export type FileRow = typeof files.$inferSelect;

/** Values that one import may hold; they stand in memory until they are stored. */
export const MOST_VALUES = 40_000_000;
export const MAPPING_S = 120;
/** Files that are mapped ahead of the one that is being taken. */
export const AHEAD = 4;
/** Pulls that are put into one statement. */
export const STORED_AT_ONCE = 25;

/** Files of a job in the order asked for. @throws NotFoundException for one that is gone, BadRequestException for one named twice */
export async function fileRows(tx: Transaction, jobId: string, ids: readonly string[]): Promise<FileRow[]> {
  if (new Set(ids).size !== ids.length) throw new BadRequestException('A file is named twice in this import.');
  const rows = await tx
    .select()
    .from(files)
    .where(and(eq(files.jobId, jobId), inArray(files.id, [...ids])));
  const known = new Map(rows.map((row) => [row.id, row]));
  return ids.map((id) => {
    const file = known.get(id);
    if (!file || file.kind === 'resource')
      throw new NotFoundException('A file of this import is no longer here. Choose the files again.');
    return file;
  });
}

/** Digests of the samples of a job's pulls with the pull's key. */
export async function storedSamples(tx: Transaction, jobId: string): Promise<Map<string, string>> {
  const stored = await tx
    .select({ key: pulls.pullKey, digest: pulls.samplesSha256 })
    .from(pulls)
    .where(and(eq(pulls.jobId, jobId), isNotNull(pulls.samplesSha256)));
  return new Map(stored.map(({ key, digest }) => [digest!, key]));
}

/** The same bytes or the same samples under another name are no second pull. @throws UnreadableError naming both */
export async function refuseRepeated(
  tx: Transaction,
  jobId: string,
  mapped: readonly { readonly row: FileRow; readonly pulls: readonly ReadPull[] }[],
): Promise<void> {
  const imported = await importedFiles(tx, jobId);
  const stored = await storedSamples(tx, jobId);
  const seen = new Map([...stored].map(([digest, key]) => [digest, `pull ${key} of this job`]));
  const problems: Problem[] = [];
  for (const { row, pulls: own } of mapped) {
    const twin = imported.get(row.sha256);
    if (twin !== undefined)
      problems.push({ line: null, message: `${row.name}: the same file was already imported as "${twin}".` });
    for (const pull of own) {
      const { telling: digest } = pull;
      const same = digest && seen.get(digest);
      if (same) {
        const message = `${row.name}: "${pull.name}" holds the same samples as ${same}. One pull under two names would count twice.`;
        problems.push({ line: null, message });
      } else if (digest) seen.set(digest, `"${pull.name}" of ${row.name}`);
    }
  }
  if (problems.length > 0) throw new UnreadableError(problems[0]!.message, problems);
}

/** The newest round of a setup, also one whose first pull is being recorded. */
export async function lastRound(tx: Transaction, jobId: string, setupId: string): Promise<number> {
  const [stored] = await tx
    .select({ round: sql<number | null>`max(${pulls.round})` })
    .from(pulls)
    .where(and(eq(pulls.jobId, jobId), eq(pulls.setupKey, setupId)));
  const [open] = await tx
    .select({ round: sql<number | null>`max((${recordings.draft}->'pull'->>'round')::int)` })
    .from(recordings)
    .where(and(eq(recordings.jobId, jobId), sql`${recordings.draft}->'pull'->>'setupId' = ${setupId}`));
  return Math.max(stored?.round ?? 0, open?.round ?? 0);
}

export function refuseImported(row: FileRow): void {
  if (row.kind !== 'staged') throw new ConflictException(`"${row.name}" was already imported.`);
}

export function refuseTooManyChannels(columns: readonly ColumnMapping[]): void {
  const kept = columns.filter(({ role }) => role !== 'ignore' && role !== 'pullName').length;
  if (kept > LIMITS.channelsPerPull)
    throw new BadRequestException(
      `${kept} columns would be kept; a pull holds at most ${LIMITS.channelsPerPull} channels. Leave some of them out.`,
    );
}

export function asMapping({ role, unit }: { role: string; unit?: string | null }): ColumnMapping {
  if (!isColumnRole(role)) throw new BadRequestException(`"${role}" is nothing a column can be.`);
  return { role, unit: unit ?? null };
}

export function stateOf({ kind, standard, factor }: NumberStateDto): NumberState {
  if (kind === 'corrected' && factor) return { kind, standard: standard || 'unnamed', factor };
  if (kind === 'scaled' && factor) return { kind, factor };
  if (kind === 'corrected' || kind === 'scaled')
    throw new BadRequestException('Say by which factor the numbers were corrected or scaled, or choose “not known”.');
  return { kind };
}
