import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { cardProblem, methodProblems, pooledHeat } from '@prandel/core';
import { and, asc, eq, getTableColumns, isNotNull, isNull, sql } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { jobProjections, jobs, modelCards, parts, vehicleModels } from '../database/schema.ts';
import { sqlState, UNIQUE_VIOLATION } from '../database/faults.ts';
import { wordRanges } from '../database/words.ts';
import type { Caller } from '../people/caller.ts';
import { linkPart } from '../shelf/studies.ts';
import {
  cardWith,
  insertRecord,
  methodWith,
  ownName,
  RECORD_KINDS,
  RECORD_TABLES,
  type Fields,
  type RecordKind,
  type StoredRecord,
} from './recordFields.ts';
import type {
  NewRecord,
  RecordAdded,
  RecordEdit,
  RecordPage,
  RecordRow,
  RecordSearch,
  VehicleHeatAnswer,
} from './records.dto.ts';

const PAGE = 100;
const LARGEST_FIELDS = 20_000;

/** What a shop reuses from job to job: customers, vehicles, parts, model cards, house methods. */
@Injectable()
export class RecordsService {
  constructor(private readonly database: Database) {}

  list(caller: Caller, { kind, after, q }: RecordSearch): Promise<RecordPage> {
    const stored = RECORD_TABLES[kind];
    const { table, label } = stored;
    const column = getTableColumns(table)[label as 'id'];
    const [name, id] = keyOf(after);
    const words = wordRanges(q ?? '').map(({ from, until }) => {
      const inRange = until === null ? sql`w.word = ${from}` : sql`w.word >= ${from} AND w.word < ${until}`;
      return sql`${table.id} IN (SELECT w.record_id FROM record_words w WHERE w.kind = ${kind} AND ${inRange})`;
    });
    return this.database.inShop(caller.shopId, async (tx) => {
      const rows = await tx
        .select({ id: table.id })
        .from(table)
        .where(
          and(
            kind === 'part' ? isNull(parts.mergedInto) : undefined,
            name === null ? undefined : sql`(${column}, ${table.id}) > (${name}, ${id}::uuid)`,
            ...words,
          ),
        )
        .orderBy(asc(column), asc(table.id))
        .limit(PAGE);
      const ids = rows.map((row) => row.id);
      const found = new Map((ids.length > 0 ? await stored.read(tx, ids) : []).map((record) => [record.id, record]));
      const records = ids.map((own) => shown(kind, found.get(own)!));
      const last = records.at(-1);
      return { records, next: records.length === PAGE && last ? `${last.id}~${last.label}` : null };
    });
  }

  /** @throws BadRequestException for an unknown kind, NotFoundException for a record of another shop */
  async one(caller: Caller, kind: string, id: string): Promise<RecordRow> {
    const of = kindOf(kind);
    return shown(of, await this.database.inShop(caller.shopId, (tx) => found(tx, of, id)));
  }

  /** What a car loses per degree, by the jobs of which it is known. @throws NotFoundException for a car of another shop */
  heat(caller: Caller, id: string): Promise<VehicleHeatAnswer> {
    return this.database.inShop(caller.shopId, async (tx) => {
      await found(tx, 'vehicle', id);
      const rows = await tx
        .select()
        .from(jobProjections)
        .innerJoin(jobs, eq(jobs.id, jobProjections.jobId))
        .where(and(eq(jobs.vehicleId, id), isNull(jobs.deletedAt), isNotNull(jobProjections.heatPercentPerC)));
      const known = rows.map(({ job_projections: p }) => ({
        ...{ percentPerC: p.heatPercentPerC!, low: p.heatLow!, high: p.heatHigh! },
        ...{ pulls: p.heatPulls!, rounds: p.heatRounds! },
      }));
      return { heat: pooledHeat(known) };
    });
  }

  add(caller: Caller, { kind, label, fields }: NewRecord): Promise<RecordAdded> {
    check(kind, label, fields, null);
    return this.#named(label, () =>
      this.database.inShop(caller.shopId, async (tx) => {
        const id = await asked(() => insertRecord(tx, caller.shopId, { kind, label, fields }));
        if (kind === 'part') await linkPart(tx, caller.shopId, id, label);
        return { id };
      }),
    );
  }

  /** Changes the fields that are named. @throws ConflictException when somebody else changed the record meanwhile */
  edit(caller: Caller, kind: string, id: string, { version, label, fields = {} }: RecordEdit): Promise<void> {
    const of = kindOf(kind);
    const { table, label: labelColumn } = RECORD_TABLES[of];
    return this.#named(label ?? '', () =>
      this.database.inShop(caller.shopId, async (tx) => {
        const before = await found(tx, of, id);
        if (before.version !== version)
          throw new ConflictException(
            'Somebody else changed this record meanwhile. Load it again, then repeat your change.',
          );
        check(of, label ?? before.label, fields, before);
        const patch = { ...fields, ...ownName(of, label ?? before.label) };
        const columns = await asked(() => RECORD_TABLES[of].columns(tx, caller.shopId, patch, before));
        await tx
          .update(table)
          .set({
            ...columns,
            ...(label === undefined ? {} : { [labelColumn]: label }),
            version: before.version + 1,
            updatedAt: new Date(),
          })
          .where(eq(table.id, id));
        if (of === 'model-card' && label !== undefined) await renameModel(tx, id, label);
        if (of === 'part' && label !== undefined) await linkPart(tx, caller.shopId, id, label);
      }),
    );
  }

  async #named<T>(label: string, work: () => Promise<T>): Promise<T> {
    try {
      return await work();
    } catch (error) {
      if (sqlState(error) === UNIQUE_VIOLATION)
        throw new ConflictException(`There is a record named "${label}" already.`);
      throw error;
    }
  }
}

/** A model is called as its card is. */
async function renameModel(tx: Transaction, cardId: string, name: string): Promise<void> {
  const [card] = await tx.select({ modelId: modelCards.modelId }).from(modelCards).where(eq(modelCards.id, cardId));
  if (card?.modelId) await tx.update(vehicleModels).set({ name }).where(eq(vehicleModels.id, card.modelId));
}

function kindOf(kind: string): RecordKind {
  if (!(RECORD_KINDS as readonly string[]).includes(kind))
    throw new BadRequestException(`Name a kind: ${RECORD_KINDS.join(', ')}.`);
  return kind as RecordKind;
}

function keyOf(after: string | undefined): [string, string] | [null, null] {
  if (!after) return [null, null];
  const match = /^([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})~([\s\S]*)$/.exec(after);
  if (!match) throw new BadRequestException('This is no key of a page. Load the list anew.');
  return [match[2]!, match[1]!];
}

async function found(tx: Transaction, kind: RecordKind, id: string): Promise<StoredRecord> {
  const [record] = await RECORD_TABLES[kind].read(tx, [id]);
  if (!record) throw new NotFoundException('This shop has no such record.');
  return record;
}

/** @throws BadRequestException for a field that is not what it should be */
async function asked<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof TypeError) throw new BadRequestException(error.message);
    throw error;
  }
}

function check(kind: RecordKind, label: string, fields: Fields, before: StoredRecord | null): void {
  if (JSON.stringify(fields).length > LARGEST_FIELDS) throw new BadRequestException('This record is too long.');
  if (kind === 'model-card') {
    const problem = cardProblem(cardWith({ ...fields, label }, before));
    if (problem) throw new BadRequestException(problem);
  }
  if (kind !== 'method') return;
  const method = methodWith({ ...fields, name: label }, before);
  if (typeof method.gates !== 'object' || method.gates === null)
    throw new BadRequestException('The tolerances of a method are numbers by name.');
  const problems = methodProblems(method);
  if (problems.length > 0) throw new BadRequestException(problems.join(' '));
}

function shown(kind: RecordKind, { id, label, version, fields }: StoredRecord): RecordRow {
  return { id, kind, label, version, fields };
}
