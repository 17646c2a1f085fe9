import type { Pull } from '@prandel/core';

export type { Bay, Method, Question, Setup, Vehicle } from '@prandel/core';

/** A pull without what has columns of its own. */
export type PullPaper = Omit<Pull, 'id' | 'setupId' | 'status' | 'reason' | 'startedAt' | 'channels'>;

/** What a package carried beyond a job; its unknown files are rows of `files`. */
export interface PackageExtrasRecord {
  readonly descriptor: Record<string, unknown>;
  readonly setupCells: Record<string, Record<string, string>>;
  readonly pullCells: Record<string, Record<string, string>>;
  readonly weatherCells: Record<string, string>[];
}
