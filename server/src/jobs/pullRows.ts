import { kindOf, type Channel, type NumberState, type Pull } from '@prandel/core';
import { and, asc, eq, inArray } from 'drizzle-orm';
import { v7 } from 'uuid';
import type { Transaction } from '../database/database.ts';
import { inTurn } from '../database/inTurn.ts';
import { instantText, storedInstant } from '../database/instants.ts';
import { channels, pullHolds, pullMarks, pulls } from '../database/schema.ts';
import { bytesOf } from './samplesDigest.ts';

/** Samples that are put into one statement, bytes. */
const INSERTED_BYTES = 4_000_000;
/** Rows of four values that are put into one statement, which takes 65,535 values. */
const INSERTED_ROWS = 10_000;

type PullRow = typeof pulls.$inferSelect;

/**
 * The pulls of a job in order.
 * @param samples whether the samples are read too
 */
export async function readPulls(tx: Transaction, jobId: string, samples: boolean): Promise<Pull[]> {
  const [rows, marks, holds] = await inTurn(
    () => tx.select().from(pulls).where(eq(pulls.jobId, jobId)).orderBy(asc(pulls.place)),
    () =>
      tx
        .select({ pullId: pullMarks.pullId, words: pullMarks.words })
        .from(pullMarks)
        .innerJoin(pulls, eq(pulls.id, pullMarks.pullId))
        .where(eq(pulls.jobId, jobId))
        .orderBy(asc(pullMarks.place)),
    () =>
      tx
        .select({ pullId: pullHolds.pullId, gate: pullHolds.gate, seconds: pullHolds.seconds })
        .from(pullHolds)
        .innerJoin(pulls, eq(pulls.id, pullHolds.pullId))
        .where(eq(pulls.jobId, jobId))
        .orderBy(asc(pullHolds.gate)),
  );
  const own = await samplesOf(tx, samples ? rows.map((p) => p.id) : []);
  return rows.map((row) => {
    const marked = marks.filter((m) => m.pullId === row.id).map((m) => m.words);
    const held = holds.filter((h) => h.pullId === row.id).map((h) => [h.gate, h.seconds] as const);
    return {
      ...pullOf(row),
      ...(marked.length > 0 ? { marks: marked } : {}),
      ...(held.length > 0 ? { heldS: Object.fromEntries(held) } : {}),
      channels: own.get(row.id) ?? [],
    };
  });
}

/** The samples of some pulls of a job, by pull. */
export async function readSamples(
  tx: Transaction,
  jobId: string,
  keys: readonly string[],
): Promise<Map<string, Channel[]>> {
  const rows = await tx
    .select({ id: pulls.id, key: pulls.pullKey })
    .from(pulls)
    .where(and(eq(pulls.jobId, jobId), inArray(pulls.pullKey, [...keys])));
  const own = await samplesOf(
    tx,
    rows.map((p) => p.id),
  );
  return new Map(rows.flatMap(({ id, key }) => (own.has(id) ? [[key, own.get(id)!] as const] : [])));
}

function pullOf(row: PullRow): Omit<Pull, 'channels'> {
  const { round, position, status, reason, gear, pressureHpa, airC, relativeHumidity, averagingRpm } = row;
  const { intakeStartC, coolantStartC, oilStartC } = row;
  return {
    ...(row.kind === 'sweep' ? {} : { kind: row.kind }),
    ...{ id: row.pullKey, setupId: row.setupKey, round, position, status, reason },
    startedAt: instantText({ at: row.startedAt, text: row.startedAtText }),
    ...{ gear, pressureHpa, airC, relativeHumidity, intakeStartC, coolantStartC, oilStartC, averagingRpm },
    numberState: numberStateOf(row),
  };
}

function numberStateOf({ numbers, numbersStandard, numbersFactor }: PullRow): NumberState {
  if (numbers === 'corrected')
    return { kind: numbers, standard: numbersStandard ?? 'unnamed', factor: numbersFactor ?? 1 };
  return numbers === 'scaled' ? { kind: numbers, factor: numbersFactor ?? 1 } : { kind: numbers };
}

/** Adds pulls after those that are there. */
export async function insertPulls(
  tx: Transaction,
  shopId: string,
  jobId: string,
  list: readonly Pull[],
  from: number,
  { fileOf, digestOf }: { fileOf: (pull: Pull) => string | null; digestOf: (pull: Pull) => string | null },
): Promise<void> {
  const rows = list.map((pull, i) => {
    const { round, position, status, reason, gear, pressureHpa, airC, relativeHumidity, averagingRpm } = pull;
    const { intakeStartC, coolantStartC, oilStartC, numberState } = pull;
    const { at, text } = storedInstant(pull.startedAt);
    const row = {
      ...{ id: v7(), shopId, jobId, pullKey: pull.id, setupKey: pull.setupId, place: from + i },
      kind: kindOf(pull),
      ...{ round, position, status, reason, startedAt: at, startedAtText: text, gear },
      ...{ pressureHpa, airC, relativeHumidity, intakeStartC, coolantStartC, oilStartC, averagingRpm },
      numbers: numberState.kind,
      numbersStandard: numberState.kind === 'corrected' ? numberState.standard : null,
      numbersFactor: 'factor' in numberState ? numberState.factor : null,
      fileId: fileOf(pull),
      samplesSha256: digestOf(pull),
    };
    return { own: pull, row };
  });
  await tx.insert(pulls).values(rows.map(({ row }) => row));
  const marks = rows.flatMap(({ own, row }) =>
    (own.marks ?? []).map((words, place) => ({ shopId, pullId: row.id, place, words })),
  );
  if (marks.length > 0) await tx.insert(pullMarks).values(marks);
  const holds = rows.flatMap(({ own, row }) =>
    Object.entries(own.heldS ?? {}).map(([gate, seconds]) => ({ shopId, pullId: row.id, gate, seconds })),
  );
  for (let at = 0; at < holds.length; at += INSERTED_ROWS)
    await tx.insert(pullHolds).values(holds.slice(at, at + INSERTED_ROWS));
  const samples = rows.flatMap(({ own, row }) =>
    own.channels.map((c, place) => ({ shopId, pullId: row.id, place, name: c.name, samples: bytesOf(c.values) })),
  );
  for (let at = 0; at < samples.length;) {
    let bytes = 0;
    const start = at;
    while (at < samples.length && at - start < 500 && (at === start || bytes < INSERTED_BYTES))
      bytes += samples[at++]!.samples.byteLength;
    await tx.insert(channels).values(samples.slice(start, at));
  }
}

async function samplesOf(tx: Transaction, pullIds: readonly string[]): Promise<Map<string, Channel[]>> {
  const own = new Map<string, Channel[]>();
  if (pullIds.length === 0) return own;
  const rows = await tx
    .select()
    .from(channels)
    .where(inArray(channels.pullId, [...pullIds]))
    .orderBy(asc(channels.place));
  for (const c of rows) {
    const list = own.get(c.pullId) ?? [];
    list.push({ name: c.name, values: valuesOf(c.samples) });
    own.set(c.pullId, list);
  }
  return own;
}

/** Samples of their bytes. */
export function valuesOf(bytes: Buffer): Float64Array {
  const aligned = new Uint8Array(bytes.byteLength);
  aligned.set(bytes);
  return new Float64Array(aligned.buffer);
}
