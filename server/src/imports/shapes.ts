import type { ColumnMapping } from '@prandel/formats';
import { inArray } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { mappings } from '../database/schema.ts';
import type { ShapeAnswers } from '../database/shapes.ts';

/** What is known of files with one header: what their columns are, and what a person said of their numbers. */
export interface KnownShape {
  readonly signature: string;
  readonly columns: readonly ColumnMapping[];
  /** Null: only the columns were ever asked about. */
  readonly answers: ShapeAnswers | null;
  /** Such files become pulls without being looked at; absent: as it was. */
  readonly byItself?: boolean | undefined;
}

/** Keeps what a person said of a shape in a bay. Answers of an earlier day stay where nobody was asked about them again. */
export async function rememberShape(tx: Transaction, shopId: string, bay: string, shape: KnownShape): Promise<void> {
  const columns = shape.columns.map(({ role, unit }) => ({ role, unit }));
  const { byItself } = shape;
  const set = {
    columns,
    ...(shape.answers ? { answers: shape.answers } : {}),
    ...(byItself === undefined ? {} : { byItself }),
  };
  await tx
    .insert(mappings)
    .values({ shopId, bay, signature: shape.signature, columns, answers: shape.answers, byItself: byItself ?? false })
    .onConflictDoUpdate({ target: [mappings.shopId, mappings.bay, mappings.signature], set });
}

/** What is known of a shape in a bay, else its columns from another bay: how numbers are exported is a matter of the bay. */
export async function knownShapes(
  tx: Transaction,
  bay: string,
  signatures: readonly string[],
): Promise<Map<string, Omit<KnownShape, 'columns'> & { columns: (typeof mappings.$inferSelect)['columns'] }>> {
  if (signatures.length === 0) return new Map();
  const rows = await tx
    .select()
    .from(mappings)
    .where(inArray(mappings.signature, [...signatures]));
  const own = rows.filter((row) => row.bay === bay);
  return new Map(
    [...rows.filter((row) => row.bay !== bay).map((row) => ({ ...row, answers: null })), ...own].map((row) => [
      row.signature,
      { signature: row.signature, columns: row.columns, answers: row.answers },
    ]),
  );
}
