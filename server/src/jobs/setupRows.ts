import {
  OUTCOME_FIELDS,
  STATE_FIELDS,
  type Change,
  type OutcomeField,
  type Setup,
  type StateField,
} from '@prandel/core';
import { and, asc, eq, notInArray, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { inTurn } from '../database/inTurn.ts';
import { parts, setupChanges, setupOutcomes, setups, setupState } from '../database/schema.ts';

/** The setups of a job in order. */
export async function readSetups(tx: Transaction, jobId: string): Promise<Setup[]> {
  const [rows, changes, states, outcomes] = await inTurn(
    () => tx.select().from(setups).where(eq(setups.jobId, jobId)).orderBy(asc(setups.place)),
    () => tx.select().from(setupChanges).where(eq(setupChanges.jobId, jobId)).orderBy(asc(setupChanges.place)),
    () => tx.select().from(setupState).where(eq(setupState.jobId, jobId)).orderBy(asc(setupState.place)),
    () => tx.select().from(setupOutcomes).where(eq(setupOutcomes.jobId, jobId)),
  );
  return rows.map((row): Setup => {
    const { label, remounted, closedCourseOnly, partCost, labourHours, currency, supplier } = row;
    const costs = { adapters: row.adaptersCost, consumables: row.consumablesCost, tune: row.tuneCost };
    const noted = outcomes.filter((o) => o.setupKey === row.setupKey);
    return {
      ...{ id: row.setupKey, parentId: row.parentKey, label, returnsTo: row.returnsToKey },
      changes: changes
        .filter((c) => c.setupKey === row.setupKey)
        .map((c): Change => ({ kind: c.kind, part: c.partName, text: c.words })),
      declares: row.declares,
      state: Object.fromEntries(
        states.filter((s) => s.setupKey === row.setupKey).map(({ field, value }) => [field, value]),
      ),
      ...{ remounted, closedCourseOnly, partCost, labourHours, currency, supplier },
      ...(Object.values(costs).some((v) => v !== null) ? { costs } : {}),
      ...(row.cure ? { cure: true } : {}),
      ...(row.permanent ? { permanent: true } : {}),
      ...(row.addedAt === null ? {} : { addedAt: row.addedAt }),
      ...(noted.length > 0
        ? {
            outcomes: Object.fromEntries(
              OUTCOME_FIELDS.flatMap((f) => noted.flatMap((o) => (o.field === f ? [[f, o.value]] : []))),
            ),
          }
        : {}),
    };
  });
}

/** Keeps the setups as they are given; those that are not named any more go. */
export async function writeSetups(
  tx: Transaction,
  shopId: string,
  jobId: string,
  list: readonly Setup[],
): Promise<void> {
  const keys = list.map((s) => s.id);
  await tx.delete(setups).where(and(eq(setups.jobId, jobId), notInArray(setups.setupKey, keys)));
  await tx
    .insert(setups)
    .values(
      list.map(({ id, label, parentId, returnsTo, ...more }, place) => {
        const { remounted, closedCourseOnly, partCost, labourHours, currency, supplier } = more;
        const declares = [...more.declares];
        return {
          ...{ shopId, jobId, setupKey: id, place, label, parentKey: parentId, returnsToKey: returnsTo },
          ...{ remounted, closedCourseOnly, partCost, labourHours, currency, supplier, declares },
          ...{ adaptersCost: more.costs?.adapters ?? null, consumablesCost: more.costs?.consumables ?? null },
          ...{ tuneCost: more.costs?.tune ?? null, cure: more.cure ?? false },
          ...{ permanent: more.permanent ?? false, addedAt: more.addedAt ?? null },
        };
      }),
    )
    .onConflictDoUpdate({
      target: [setups.jobId, setups.setupKey],
      set: Object.fromEntries(
        (
          [
            ['place', 'place'],
            ['label', 'label'],
            ['parentKey', 'parent_key'],
            ['returnsToKey', 'returns_to_key'],
            ['remounted', 'remounted'],
            ['closedCourseOnly', 'closed_course_only'],
            ['partCost', 'part_cost'],
            ['labourHours', 'labour_hours'],
            ['currency', 'currency'],
            ['supplier', 'supplier'],
            ['declares', 'declares'],
            ['adaptersCost', 'adapters_cost'],
            ['consumablesCost', 'consumables_cost'],
            ['tuneCost', 'tune_cost'],
            ['cure', 'cure'],
            ['permanent', 'permanent'],
            ['addedAt', 'added_at'],
          ] as const
        ).map(([name, column]) => [name, sql.raw(`excluded.${column}`)]),
      ),
    });
  await tx.delete(setupChanges).where(eq(setupChanges.jobId, jobId));
  await tx.delete(setupState).where(eq(setupState.jobId, jobId));
  await tx.delete(setupOutcomes).where(eq(setupOutcomes.jobId, jobId));
  const changes = await changesOf(tx, shopId, jobId, list);
  if (changes.length > 0) await tx.insert(setupChanges).values(changes);
  const states = list.flatMap(({ id, state }) =>
    Object.entries(state).flatMap(([field, value], place) =>
      (STATE_FIELDS as readonly string[]).includes(field)
        ? [{ shopId, jobId, setupKey: id, place, field: field as StateField, value }]
        : [],
    ),
  );
  if (states.length > 0) await tx.insert(setupState).values(states);
  const noted = list.flatMap(({ id, outcomes }) =>
    Object.entries(outcomes ?? {}).flatMap(([field, value]) =>
      (OUTCOME_FIELDS as readonly string[]).includes(field)
        ? [{ shopId, jobId, setupKey: id, field: field as OutcomeField, value }]
        : [],
    ),
  );
  if (noted.length > 0) await tx.insert(setupOutcomes).values(noted);
}

/** The changes item by item; a fitted part that the shop has on record with its id. */
async function changesOf(tx: Transaction, shopId: string, jobId: string, list: readonly Setup[]) {
  const items = list.flatMap(({ id, changes }) => changes.map((own, place) => ({ setupKey: id, place, own })));
  const named = items.flatMap(({ own }) => fittedPart(own) ?? []);
  const known =
    named.length === 0
      ? []
      : await tx
          // A part that was found to be another one counts there.
          .select({
            id: sql<string>`coalesce(${parts.mergedInto}, ${parts.id})`,
            name: sql<string>`lower(${parts.name})`,
          })
          .from(parts)
          .where(
            sql`lower(${parts.name}) IN (${sql.join(
              named.map((n) => sql`${n}`),
              sql`, `,
            )})`,
          );
  return items.map(({ own, ...where }) => {
    const part = fittedPart(own);
    const partId = part === null ? null : (known.find((p) => p.name === part)?.id ?? null);
    return { shopId, jobId, ...where, kind: own.kind, partId, partName: own.part, words: own.text };
  });
}

/** The part that a change fits, in lower case. */
function fittedPart({ kind, part }: Change): string | null {
  return kind === 'part-fitted' && part !== null ? part.toLowerCase() : null;
}
