import { STATE_FIELDS, type Setup, type StateField } from '@prandel/core';
import { and, asc, eq, notInArray, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { inTurn } from '../database/inTurn.ts';
import { CHANGE_KINDS, parts, setupChanges, setups, setupState } from '../database/schema.ts';

/** The setups of a job in order. */
export async function readSetups(tx: Transaction, jobId: string): Promise<Setup[]> {
  const [rows, changes, states] = await inTurn(
    () => tx.select().from(setups).where(eq(setups.jobId, jobId)).orderBy(asc(setups.place)),
    () => tx.select().from(setupChanges).where(eq(setupChanges.jobId, jobId)).orderBy(asc(setupChanges.place)),
    () => tx.select().from(setupState).where(eq(setupState.jobId, jobId)).orderBy(asc(setupState.place)),
  );
  return rows.map((row): Setup => {
    const { label, remounted, closedCourseOnly, partCost, labourHours, currency, supplier } = row;
    return {
      ...{ id: row.setupKey, parentId: row.parentKey, label, returnsTo: row.returnsToKey },
      changes: changes
        .filter((c) => c.setupKey === row.setupKey)
        .map((c) => c.words)
        .join(';'),
      state: Object.fromEntries(
        states.filter((s) => s.setupKey === row.setupKey).map(({ field, value }) => [field, value]),
      ),
      ...{ remounted, closedCourseOnly, partCost, labourHours, currency, supplier },
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
        return {
          ...{ shopId, jobId, setupKey: id, place, label, parentKey: parentId, returnsToKey: returnsTo },
          ...{ remounted, closedCourseOnly, partCost, labourHours, currency, supplier },
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
          ] as const
        ).map(([name, column]) => [name, sql.raw(`excluded.${column}`)]),
      ),
    });
  await tx.delete(setupChanges).where(eq(setupChanges.jobId, jobId));
  await tx.delete(setupState).where(eq(setupState.jobId, jobId));
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
}

/** The changes item by item, each with what it is and, where it names a part of the shop's record, with that part. */
async function changesOf(tx: Transaction, shopId: string, jobId: string, list: readonly Setup[]) {
  const items = list.flatMap(({ id, changes }) =>
    changes === '' ? [] : changes.split(';').map((words, place) => ({ setupKey: id, place, words })),
  );
  const named = items.flatMap(({ words }) => fittedPart(words) ?? []);
  const known =
    named.length === 0
      ? []
      : await tx
          .select({ id: parts.id, name: sql<string>`lower(${parts.name})` })
          .from(parts)
          .where(
            sql`lower(${parts.name}) IN (${sql.join(
              named.map((n) => sql`${n}`),
              sql`, `,
            )})`,
          );
  return items.map(({ words, ...own }) => {
    const part = fittedPart(words);
    const partId = part === null ? null : (known.find((p) => p.name === part)?.id ?? null);
    return { shopId, jobId, ...own, kind: kindOf(words), partId, words };
  });
}

function kindOf(words: string): (typeof CHANGE_KINDS)[number] {
  const text = words.trim().toLowerCase();
  if (/^part fitted\b/.test(text)) return 'part-fitted';
  if (/^part removed\b/.test(text)) return 'part-removed';
  if (/^tune\b/.test(text)) return 'tune';
  return /^fuel\b/.test(text) ? 'fuel' : 'other';
}

/** The part that an item says is fitted, in lower case. */
function fittedPart(words: string): string | null {
  const match = /^\s*part fitted:(.*)$/is.exec(words);
  const name = match?.[1]?.trim().toLowerCase();
  return name ? name : null;
}
