import { BadRequestException, ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { factsNamed, shelfAnswer, truePercent } from '@prandel/core';
import { and, asc, eq, isNotNull, isNull, sql } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { partShelves, parts, setupChanges } from '../database/schema.ts';
import { wordRanges } from '../database/words.ts';
import type { PartShelfAnswer, ShelfRow } from '../http/coreAnswers.ts';
import type { Caller } from '../people/caller.ts';
import type { ExpectedGain, ShelfPage, ShelfSearch } from './shelf.dto.ts';
import { rebuildShelves, studiesOf, type PartStudy } from './studies.ts';

const PAGE = 100;
/** What lists show, and what New job and the plan expect. */
export const MAIN_MEASURE = 'windowMeanPower';
const Z = 1.959964;

/** What parts did on the cars that had them. */
@Injectable()
export class ShelfService {
  constructor(private readonly database: Database) {}

  /** Parts by name with what is kept of their results; nothing is worked out here. */
  list(caller: Caller, { q, after, tried }: ShelfSearch): Promise<ShelfPage> {
    const [name, id] = after ? keyOf(after) : [null, null];
    const words = wordRanges(q ?? '').map(({ from, until }) => {
      const inRange = until === null ? sql`w.word = ${from}` : sql`w.word >= ${from} AND w.word < ${until}`;
      return sql`${parts.id} IN (SELECT w.record_id FROM record_words w WHERE w.kind = 'part' AND ${inRange})`;
    });
    return this.database.inShop(caller.shopId, async (tx) => {
      const rows = await tx
        .select({
          ...{ id: parts.id, name: parts.name, kind: parts.kind, promisedPercent: parts.promisedPercent },
          ...{ cars: partShelves.cars, estimate: partShelves.estimate, low: partShelves.low, high: partShelves.high },
          ...{ nextLow: partShelves.nextLow, nextHigh: partShelves.nextHigh, spread: partShelves.spread },
          jobs: sql<number | null>`cardinality(${partShelves.jobIds})`,
        })
        .from(parts)
        .leftJoin(partShelves, and(eq(partShelves.partId, parts.id), eq(partShelves.measure, MAIN_MEASURE)))
        .where(
          and(
            isNull(parts.mergedInto),
            tried ? isNotNull(partShelves.partId) : undefined,
            name === null ? undefined : sql`(${parts.name}, ${parts.id}) > (${name}, ${id}::uuid)`,
            ...words,
          ),
        )
        .orderBy(asc(parts.name), asc(parts.id))
        .limit(PAGE);
      const last = rows.at(-1);
      return {
        parts: rows.map((row) => ({ ...row, cars: row.cars ?? 0, jobs: row.jobs ?? 0 })),
        next: rows.length === PAGE && last ? `${last.id}~${last.name}` : null,
      };
    });
  }

  /** Everything that jobs say of a part. @throws NotFoundException */
  one(caller: Caller, id: string): Promise<PartShelfAnswer> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const part = await partOf(tx, id);
      const studies = await studiesOf(tx, id);
      const alone = studies.filter((s) => s.alone);
      const measures = [...new Set(alone.map((s) => s.measure))].sort(
        (a, b) => Number(b === MAIN_MEASURE) - Number(a === MAIN_MEASURE) || (a < b ? -1 : 1),
      );
      const others = await tx
        .select({ name: parts.name })
        .from(parts)
        .where(eq(parts.mergedInto, id))
        .orderBy(asc(parts.name));
      return {
        part: { ...part, mergedNames: others.map((o) => o.name) },
        measures: measures.map((measure) => {
          const own = alone.filter((s) => s.measure === measure);
          const answer = shelfAnswer(own, measure);
          return { measure, answer, rows: own.map((s, i) => rowOf(s, answer.weights[i]!)) };
        }),
        apart: studies.filter((s) => !s.alone).map((s) => rowOf(s, 0)),
      };
    });
  }

  /** What a part that is called so has done; null where no job tells. */
  expected(caller: Caller, name: string): Promise<ExpectedGain> {
    return this.database.inShop(caller.shopId, async (tx) => {
      const [row] = await tx
        .select({
          ...{ id: parts.id, cars: partShelves.cars, estimate: partShelves.estimate },
          ...{ low: partShelves.nextLow, high: partShelves.nextHigh, promisedPercent: parts.promisedPercent },
        })
        .from(parts)
        .leftJoin(partShelves, and(eq(partShelves.partId, parts.id), eq(partShelves.measure, MAIN_MEASURE)))
        .where(sql`lower(${parts.name}) = lower(${name.trim()})`)
        .limit(1);
      if (!row) return { part: null, cars: 0, estimate: null, low: null, high: null, promisedPercent: null };
      const { id, cars, estimate, low, high, promisedPercent } = row;
      return { part: id, cars: cars ?? 0, estimate, low, high, promisedPercent };
    });
  }

  /**
   * Makes one part of two: every job that ran the first counts for the second from now on. The first keeps its name and is found
   * under the second.
   */
  async merge(caller: Caller, id: string, into: string): Promise<void> {
    if (id === into) throw new BadRequestException('A part cannot be merged into itself.');
    await this.database.inShop(caller.shopId, async (tx) => {
      const own = await partOf(tx, id);
      const other = await partOf(tx, into);
      if (own.mergedInto !== null) throw new ConflictException(`${own.name} was merged into another part already.`);
      if (other.mergedInto !== null)
        throw new ConflictException(`${other.name} was itself merged into another part. Merge into that one.`);
      await tx.update(setupChanges).set({ partId: into }).where(eq(setupChanges.partId, id));
      await tx
        .update(parts)
        .set({ mergedInto: into, version: sql`${parts.version} + 1`, updatedAt: new Date() })
        .where(eq(parts.id, id));
      await tx.update(parts).set({ mergedInto: into }).where(eq(parts.mergedInto, id));
      await rebuildShelves(tx, caller.shopId, [id, into]);
    });
  }
}

async function partOf(tx: Transaction, id: string) {
  const [row] = await tx.select().from(parts).where(eq(parts.id, id));
  if (!row) throw new NotFoundException('This shop has no such part.');
  const { name, number, kind, price, currency, hours, promisedPercent, closedCourseOnly, mergedInto } = row;
  return { id, name, number, kind, price, currency, hours, promisedPercent, closedCourseOnly, mergedInto };
}

/** A row of a forest plot: figures in true per cent, or in the measure's unit. */
function rowOf(s: PartStudy, weight: number): ShelfRow {
  const shown = factsNamed(s.measure).scale === 'log' ? truePercent : (value: number) => value;
  const range =
    s.estimate === null || s.standardError === null
      ? null
      : {
          estimate: shown(s.estimate),
          low: shown(s.estimate - Z * s.standardError),
          high: shown(s.estimate + Z * s.standardError),
        };
  return {
    ...{ job: s.job, number: s.number, title: s.title, car: s.carLabel, model: s.model, bay: s.bay, epoch: s.epoch },
    ...{ setup: s.setup, against: s.against, changes: s.changes, measure: s.measure, verdict: s.verdict },
    ...{ range, weight },
    at: s.at?.toISOString() ?? null,
  };
}

function keyOf(after: string): [string, string] {
  const match = /^([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})~([\s\S]*)$/.exec(after);
  if (!match) throw new BadRequestException('This is no key of a page. Load the list anew.');
  return [match[2]!, match[1]!];
}
