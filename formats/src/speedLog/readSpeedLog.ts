import { plausibleInstantMs, type SpeedLog } from '@prandel/core';
import { mapLogFile } from '../pullFile/mapping.ts';
import { LARGEST_FILE_BYTES, readPullFile } from '../pullFile/readPullFile.ts';
import { UnreadableError, type Problem } from '../problem.ts';
import { decodeText } from '../text/decode.ts';
import { groundOfSentence, SentenceError, type GroundWords } from '../wire/nmea.ts';

/** A log of road speed as it was read. */
export interface ReadSpeedLog {
  readonly kind: 'csv' | 'nmea';
  readonly log: SpeedLog;
  /** The instant of its second 0, milliseconds since 1970; null where the log does not know it. */
  readonly startedAtMs: number | null;
  /** Lines that were left out, with their reason; at most twenty. */
  readonly problems: readonly Problem[];
}

const SHOWN_PROBLEMS = 20;
/** A log with a larger share of broken sentences is not believed. */
const MOST_BROKEN = 0.2;

/**
 * Reads a log of road speed: a CSV with a time and a road speed, or the `RMC` sentences of a receiver (NMEA 0183).
 * @throws UnreadableError saying what is missing
 */
export function readSpeedLog(bytes: Uint8Array): ReadSpeedLog {
  if (bytes.length > LARGEST_FILE_BYTES)
    throw new UnreadableError('The log is larger than 200 MB. Cut it to the hour of the passes.');
  const head = decodeText(bytes.subarray(0, 4096)).text.trimStart();
  return /^[$!][A-Z]{2}/.test(head) ? fromSentences(decodeText(bytes).text) : fromTable(bytes);
}

function fromSentences(text: string): ReadSpeedLog {
  const problems: Problem[] = [];
  const words: GroundWords[] = [];
  let broken = 0;
  let sentences = 0;
  for (const [i, line] of text.split(/\r\n|\n|\r/).entries()) {
    if (line.trim() === '') continue;
    sentences += 1;
    try {
      const own = groundOfSentence(line);
      const last = words.at(-1);
      if (own && plausibleInstantMs(own.atMs) && (!last || own.atMs > last.atMs)) words.push(own);
    } catch (error) {
      if (!(error instanceof SentenceError)) throw error;
      broken += 1;
      if (problems.length < SHOWN_PROBLEMS) problems.push({ line: i + 1, message: `Left out: ${error.message}.` });
    }
  }
  if (broken > MOST_BROKEN * sentences)
    throw new UnreadableError(
      `${broken} of ${sentences} sentences are broken (line ${problems[0]!.line}: ${problems[0]!.message}) Read the log out again.`,
      problems,
    );
  if (words.length < 5)
    throw new UnreadableError(
      'There are no RMC sentences with a fix in this log: speed over ground cannot be told. Switch RMC on in the receiver.',
    );
  const first = words[0]!.atMs;
  return {
    kind: 'nmea',
    log: {
      timeS: Float64Array.from(words, (w) => (w.atMs - first) / 1000),
      speedKmH: Float64Array.from(words, (w) => w.speedKmH),
      courseDeg: Float64Array.from(words, (w) => w.courseDeg),
    },
    startedAtMs: first,
    problems,
  };
}

function fromTable(bytes: Uint8Array): ReadSpeedLog {
  const file = readPullFile(bytes);
  if (!file.columns.some((c) => c.role === 'roadSpeed') || !file.columns.some((c) => c.role === 'time'))
    throw new UnreadableError(
      'No column is road speed, or none is time. Name them so in the header, with the unit: time (s), speed (km/h).',
    );
  const parts = mapLogFile(
    file,
    file.columns.map(({ role, unit }) => ({ role, unit })),
  );
  const of = (name: string) => parts.map((p) => p.channels.find((c) => c.name === name)!.values);
  return {
    kind: 'csv',
    log: { timeS: joined(of('time_s')), speedKmH: joined(of('speed_km_h')), courseDeg: null },
    startedAtMs: null,
    problems: [],
  };
}

function joined(parts: readonly Float64Array[]): Float64Array {
  const all = new Float64Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) {
    all.set(p, at);
    at += p.length;
  }
  return all;
}
