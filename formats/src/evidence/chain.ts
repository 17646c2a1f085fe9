import { sha256Text } from '../seal/sha256.ts';

/** One row of the evidence log; its hash covers everything before it. */
export interface EvidenceRow {
  /** Place in the job's log, from 1. */
  readonly n: number;
  /** ISO 8601 instant with milliseconds, UTC. */
  readonly at: string;
  readonly person: string;
  readonly kind: string;
  readonly what: string;
  /** JSON text of whatever else belongs to the event; empty when nothing does. */
  readonly detail: string;
  /** SHA-256, hexadecimal. */
  readonly hash: string;
}

/** What the first row stands on. */
export const CHAIN_START = '0'.repeat(64);

const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;

/** Canonical RFC 4180 text of a row: every field in quotation marks, in this order, without a line end. */
export function canonicalRow(row: Omit<EvidenceRow, 'hash'>): string {
  return [String(row.n), row.at, row.person, row.kind, row.what, row.detail].map(quoted).join(',');
}

/** SHA-256 of (previous hash, line feed, canonical text), UTF-8. */
export function rowHash(previous: string, row: Omit<EvidenceRow, 'hash'>): string {
  return sha256Text(`${previous}\n${canonicalRow(row)}`);
}

export function linked(previous: EvidenceRow | null, event: Omit<EvidenceRow, 'hash' | 'n'>): EvidenceRow {
  const row = { ...event, n: (previous?.n ?? 0) + 1 };
  return { ...row, hash: rowHash(previous?.hash ?? CHAIN_START, row) };
}

/** The first row that breaks the chain, and how; null when every row stands. */
export function brokenRow(rows: readonly EvidenceRow[]): { n: number; why: string } | null {
  let previous = CHAIN_START;
  for (const [i, row] of rows.entries()) {
    if (row.n !== i + 1) return { n: i + 1, why: `Row ${i + 1} is missing or out of place.` };
    if (row.hash !== rowHash(previous, row))
      return { n: row.n, why: `Row ${row.n} ("${row.what.slice(0, 60)}") was changed after it was written.` };
    previous = row.hash;
  }
  return null;
}

const HEADER = 'n,at,person,kind,what,detail,hash';

/** The log as `events.csv` of a job package. */
export function evidenceCsv(rows: readonly EvidenceRow[]): string {
  return [HEADER, ...rows.map((row) => `${canonicalRow(row)},"${row.hash}"`)].join('\r\n') + '\r\n';
}
