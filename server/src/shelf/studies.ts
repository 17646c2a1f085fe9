import { repeatedSetup, shelfAnswer, type ShelfStudy, type Setup } from '@prandel/core';
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import {
  bayCalibrations,
  bays,
  jobDays,
  jobs,
  modelCards,
  modelCardVersions,
  partResults,
  partShelves,
  parts,
  setupChanges,
  setups,
  setupState,
  vehicles,
} from '../database/schema.ts';

/** One job that ran a part, with everything that its row on a shelf says. */
export interface PartStudy extends ShelfStudy {
  readonly job: string;
  readonly number: string;
  readonly title: string;
  readonly at: Date | null;
  readonly carLabel: string;
  readonly bay: string;
  readonly epoch: string | null;
  readonly setup: string;
  readonly against: string;
  readonly alone: boolean;
  readonly changes: string;
  readonly measure: string;
}

/** The jobs that ran a part, oldest first. What is not worked out yet is not among them. */
export async function studiesOf(tx: Transaction, partId: string): Promise<PartStudy[]> {
  const rows = await tx
    .selectDistinct({
      ...{ jobId: partResults.jobId, place: partResults.place, setup: partResults.setupKey },
      ...{ against: partResults.againstKey, alone: partResults.alone, changes: partResults.changes },
      ...{ measure: partResults.measure, verdict: partResults.verdict, estimate: partResults.estimate },
      ...{ standardError: partResults.standardError, number: jobs.number, title: jobs.title },
      ...{ openedAt: jobs.openedAt, lastPullAt: jobs.lastPullAt, carLabel: jobs.vehicleLabel },
      car: sql<string>`coalesce(${jobs.vehicleId}::text, ${jobs.vehicleLabel})`,
      aspiration: sql<string | null>`coalesce(${jobs.aspiration}, ${vehicles.aspiration})`,
      ...{ partsFitted: vehicles.partsFitted, carFuel: vehicles.fuel, vehicleCard: vehicles.cardId },
      ...{ cardId: jobDays.cardId, cardLabel: modelCardVersions.label },
      bay: sql<string>`coalesce(${bays.label}, ${bayCalibrations.bayLabel})`,
      epoch: bayCalibrations.since,
    })
    .from(setupChanges)
    .innerJoin(
      partResults,
      and(eq(partResults.jobId, setupChanges.jobId), eq(partResults.setupKey, setupChanges.setupKey)),
    )
    .innerJoin(jobs, eq(jobs.id, setupChanges.jobId))
    .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
    .leftJoin(bays, eq(bays.id, bayCalibrations.bayId))
    .leftJoin(vehicles, eq(vehicles.id, jobs.vehicleId))
    .leftJoin(jobDays, eq(jobDays.jobId, jobs.id))
    .leftJoin(modelCardVersions, eq(modelCardVersions.id, jobDays.cardVersionId))
    .where(and(eq(setupChanges.partId, partId), eq(setupChanges.kind, 'part-fitted'), isNull(jobs.deletedAt)));
  if (rows.length === 0) return [];
  const cards = await tx.select({ id: modelCards.id, label: modelCards.label }).from(modelCards);
  const labels = new Map(cards.map((c) => [c.id, c.label]));
  const others = await otherParts(
    tx,
    rows.map((row) => row.jobId),
  );
  return rows
    .map(
      ({ jobId, partsFitted, carFuel, vehicleCard, cardId, cardLabel, aspiration, openedAt, lastPullAt, ...row }) => ({
        ...row,
        job: jobId,
        at: lastPullAt ?? openedAt,
        model: labels.get(cardId ?? vehicleCard ?? '') ?? (cardLabel === '' ? null : cardLabel),
        factors: {
          aspiration,
          fuel: others.fuel.get(`${jobId}/${row.setup}`) ?? (carFuel || null),
          'other parts':
            partsFitted?.trim() || others.fitted.has(`${jobId}/${row.against}`)
              ? 'with other parts'
              : 'without other parts',
        },
      }),
    )
    .sort((a, b) => (a.at?.getTime() ?? 0) - (b.at?.getTime() ?? 0) || a.place - b.place);
}

/** What else is known of the setups of some jobs: their fuel, and which of them have parts on already. */
async function otherParts(tx: Transaction, jobIds: readonly string[]) {
  const ids = [...new Set(jobIds)];
  const states = await tx
    .select()
    .from(setupState)
    .where(and(inArray(setupState.jobId, ids), eq(setupState.field, 'fuel')));
  const own = await tx.select().from(setups).where(inArray(setups.jobId, ids)).orderBy(asc(setups.place));
  const changes = await tx
    .select()
    .from(setupChanges)
    .where(and(inArray(setupChanges.jobId, ids), eq(setupChanges.kind, 'part-fitted')));
  const fitted = new Set<string>();
  for (const jobId of ids) {
    const list = own.filter((s) => s.jobId === jobId);
    const has = (key: string) => changes.some((c) => c.jobId === jobId && c.setupKey === key);
    const plain = list.map((s) => ({ id: s.setupKey, returnsTo: s.returnsToKey }) as Setup);
    for (const { setupKey } of list) {
      const seen = new Set<string>();
      for (let at: string | null = repeatedSetup(plain, setupKey); at !== null && !seen.has(at);) {
        seen.add(at);
        if (has(at)) fitted.add(`${jobId}/${setupKey}`);
        const next: string | null = list.find((s) => s.setupKey === at)?.parentKey ?? null;
        at = next === null ? null : repeatedSetup(plain, next);
      }
    }
  }
  return { fuel: new Map(states.map((s) => [`${s.jobId}/${s.setupKey}`, s.value])), fitted };
}

/** Parts that a job's setups fit now, and those whose shelf still counts the job. */
export async function partsTouched(tx: Transaction, jobId: string): Promise<string[]> {
  const now = await tx
    .selectDistinct({ id: setupChanges.partId })
    .from(setupChanges)
    .where(and(eq(setupChanges.jobId, jobId), eq(setupChanges.kind, 'part-fitted')));
  const before = await tx
    .selectDistinct({ id: partShelves.partId })
    .from(partShelves)
    .where(sql`${jobId}::uuid = ANY (${partShelves.jobIds})`);
  return [...new Set([...now, ...before].flatMap(({ id }) => id ?? []))].sort();
}

/** Works out anew what lists show of parts. Whoever else does so for the same part waits. */
export async function rebuildShelves(tx: Transaction, shopId: string, partIds: readonly string[]): Promise<void> {
  for (const partId of [...partIds].sort()) {
    await tx.select({ id: parts.id }).from(parts).where(eq(parts.id, partId)).for('no key update');
    const studies = (await studiesOf(tx, partId)).filter((s) => s.alone);
    await tx.delete(partShelves).where(eq(partShelves.partId, partId));
    for (const measure of [...new Set(studies.map((s) => s.measure))]) {
      const own = studies.filter((s) => s.measure === measure);
      const { all } = shelfAnswer(own, measure);
      await tx.insert(partShelves).values({
        ...{ shopId, partId, measure, jobIds: [...new Set(own.map((s) => s.job))] },
        ...{ cars: all?.cars ?? 0, estimate: all?.estimate ?? null, spread: all?.spread ?? null },
        ...{ low: all?.average?.low ?? null, high: all?.average?.high ?? null },
        ...{ nextLow: all?.next?.low ?? null, nextHigh: all?.next?.high ?? null },
      });
    }
  }
}

/** Jobs that named a part before the record knew it count for it from now on. */
export async function linkPart(tx: Transaction, shopId: string, partId: string, name: string): Promise<void> {
  const linked = await tx
    .update(setupChanges)
    .set({ partId })
    .where(
      and(
        sql`lower(${setupChanges.partName}) = lower(${name})`,
        eq(setupChanges.kind, 'part-fitted'),
        isNull(setupChanges.partId),
      ),
    )
    .returning({ job: setupChanges.jobId });
  if (linked.length > 0) await rebuildShelves(tx, shopId, [partId]);
}
