import { parseRecords, RecordReader } from '../jobPackage/cells.ts';
import type { EvidenceRow } from './chain.ts';

/** Rows of a log beyond this are no log of a job. */
const MOST_EVENTS = 100_000;

/** Rows of an `events.csv` as they stand, sound or not. @throws UnreadableError with the line when it is no evidence log */
export function readEvents(bytes: Uint8Array): EvidenceRow[] {
  const records = parseRecords('events.csv', bytes, MOST_EVENTS);
  return records.rows.map((row, i) => {
    // Cells are taken as they stand: trimming one would break the chain by reading it.
    const { at = '', person = '', kind = '', what = '', detail = '', hash = '' } = row;
    return { n: new RecordReader(records, i).number('n') ?? 0, at, person, kind, what, detail, hash };
  });
}
