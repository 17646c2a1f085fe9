import type { Pull } from '@prandel/core';
import {
  loggedDigests,
  nodeSha256,
  pullDigest,
  pullFactsDigest,
  pullSamplesDigest,
  type PullDigest,
  type PullDigests,
} from '@prandel/formats';
import type { Transaction } from '../database/database.ts';
import { evidenceOf } from '../evidence/evidence.ts';
import { readPulls, readSamples } from './pullRows.ts';

/** Digest of all samples of a pull. */
export const samplesDigestOf = (pull: Pick<Pull, 'channels'>): string | null => pullSamplesDigest(pull, nodeSha256);

/** Digests of pulls that are stored now, for the event that tells of them. */
export function digestsOf(
  list: readonly Pull[],
  samplesOf: (pull: Pull) => string | null = samplesDigestOf,
): Record<string, PullDigest> {
  return Object.fromEntries(list.map((pull) => [pull.id, { samples: samplesOf(pull), facts: pullFactsDigest(pull) }]));
}

/** The facts of a pull as they are stored now: whoever changes them puts this into the event that says so. */
export async function changedFacts(tx: Transaction, jobId: string, pullKey: string): Promise<{ digests: object }> {
  const own = (await readPulls(tx, jobId, false)).filter((p) => p.id === pullKey);
  return { digests: Object.fromEntries(own.map((pull) => [pull.id, { facts: pullFactsDigest(pull) }])) };
}

/** The samples of pulls as they are stored now, where channels were added or taken off. */
export async function changedSamples(tx: Transaction, jobId: string, keys: readonly string[]): Promise<PullDigests> {
  const pulls = (await readPulls(tx, jobId, false)).filter((p) => keys.includes(p.id));
  const samples = await readSamples(tx, jobId, keys);
  return digestsOf(pulls.map((p) => ({ ...p, channels: samples.get(p.id) ?? [] })));
}

/** Digests of pulls that the log does not hold as they are: those of a package that came without a log, or with an older one. */
export async function unloggedDigests(tx: Transaction, jobId: string, list: readonly Pull[]): Promise<PullDigests> {
  const logged = loggedDigests(await evidenceOf(tx, jobId));
  const fresh = list.filter((p) => !logged.has(p.id)).map((p) => [p.id, pullDigest(p, nodeSha256)] as const);
  return Object.fromEntries(fresh);
}
