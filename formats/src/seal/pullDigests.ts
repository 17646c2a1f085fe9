import { kindOf, type Pull } from '@prandel/core';
import { part } from '../jobPackage/members.ts';
import { canonicalJson } from './canonicalJson.ts';
import { plainSha256, sha256Text, type Sha256 } from './sha256.ts';
import type { EvidenceRow } from '../evidence/chain.ts';

/** What the log keeps of a pull: SHA-256 of its samples, null for a pull without any, and of its facts. */
export interface PullDigest {
  readonly samples: string | null;
  readonly facts: string;
}

/** Digests by pull, as they stand in the detail of an event. */
export type PullDigests = Readonly<Record<string, PullDigest>>;

/**
 * SHA-256 over every channel of a pull in the order of their names: the name, the number of rows of the pull, and the samples as
 * little-endian float64. What no text keeps is made one before: a missing sample is the quiet NaN that readers make of an empty
 * cell, a channel that ends early is missing from there on, and a negative zero is zero.
 */
export function pullSamplesDigest(pull: Pick<Pull, 'channels'>, sha256: Sha256 = plainSha256): string | null {
  if (pull.channels.length === 0) return null;
  const rows = Math.max(...pull.channels.map((c) => c.values.length));
  const pieces = function* () {
    for (const { name, values } of pull.channels.toSorted((a, b) => (a.name < b.name ? -1 : 1))) {
      yield new TextEncoder().encode(`${name}:${rows};`);
      yield sampleBytes(values, rows);
    }
  };
  return sha256(pieces());
}

/** SHA-256 over the canonical JSON of what is known of a pull besides its samples: where it belongs, whether it counts, the conditions. */
export function pullFactsDigest(pull: Omit<Pull, 'channels'>): string {
  const { setupId, round, position, status, reason, startedAt, gear, numberState, averagingRpm } = pull;
  const { pressureHpa, airC, relativeHumidity, intakeStartC, coolantStartC, oilStartC } = pull;
  return sha256Text(
    canonicalJson({
      ...{ setup: setupId, round, position, status, reason: plain(reason), kind: kindOf(pull), startedAt },
      ...{ pressureHpa, airC, relativeHumidity, intakeStartC, coolantStartC, oilStartC, numberState, averagingRpm },
      gear: plain(gear),
      marks: (pull.marks ?? []).map(plain),
      // Only where something was held: digests of pulls from before this was kept stay what they are.
      ...(pull.heldS && Object.keys(pull.heldS).length > 0 ? { heldS: pull.heldS } : {}),
    }),
  );
}

/** A cell is read without the spaces around it, and an empty one is nothing. */
const plain = (text: string | null): string | null => text?.trim() || null;

export function pullDigest(pull: Pull, sha256: Sha256 = plainSha256): PullDigest {
  return { samples: pullSamplesDigest(pull, sha256), facts: pullFactsDigest(pull) };
}

/** The digests that a log holds last for each pull; rows whose detail is no JSON hold none. */
export function loggedDigests(rows: readonly EvidenceRow[]): Map<string, PullDigest> {
  const last = new Map<string, PullDigest>();
  for (const { detail } of rows) {
    if (!detail.includes('"digests"')) continue;
    for (const [pull, value] of Object.entries(part(part(parsed(detail)).digests))) {
      const { samples, facts } = part(value);
      const before = last.get(pull);
      // An event may tell of new facts alone: its samples are then those of before.
      last.set(pull, {
        samples: typeof samples === 'string' || samples === null ? samples : (before?.samples ?? null),
        facts: typeof facts === 'string' ? facts : (before?.facts ?? ''),
      });
    }
  }
  return last;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

const LITTLE = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1;

function sampleBytes(values: Float64Array, rows: number): Uint8Array {
  const plain = new Float64Array(rows).fill(NaN);
  for (let i = 0; i < values.length; i += 1) if (!Number.isNaN(values[i])) plain[i] = values[i]! + 0;
  if (LITTLE) return new Uint8Array(plain.buffer);
  const view = new DataView(new ArrayBuffer(plain.byteLength));
  plain.forEach((v, i) => view.setFloat64(8 * i, v, true));
  return new Uint8Array(view.buffer);
}
