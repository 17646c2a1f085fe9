import {
  CHANGE_KINDS,
  changesColumn,
  changesIn,
  DECLARABLE_STATES,
  LIMITS,
  statesNamed,
  type Change,
  type ChangeKind,
  type DeclarableState,
  type Setup,
} from '@prandel/core';
import { parseRecords, RecordReader } from './cells.ts';
import { DECLARABLE_COLUMNS, DECLARES } from './columns.ts';

/**
 * Changes of `changes.csv` by setup. A kind that this version does not know is read as "other".
 * @throws UnreadableError with the line
 */
export function readChanges(bytes: Uint8Array, path: string): Map<string, Change[]> {
  const records = parseRecords(path, bytes, LIMITS.setupsPerJob * 100);
  const changes = new Map<string, Change[]>();
  records.rows.forEach((_, i) => {
    const r = new RecordReader(records, i);
    const id = r.key('setup_id');
    const written = r.text('kind');
    const kind: ChangeKind = CHANGE_KINDS.find((k) => k === written) ?? 'other';
    const part = r.text('part');
    const change = { kind, part, text: r.text('text') ?? part ?? '' };
    changes.set(id, [...(changes.get(id) ?? []), change]);
  });
  return changes;
}

/** Rows of `changes.csv`; none where the column `changes` of every setup reads as the changes that it has. */
export function changeRows(setups: readonly Setup[]) {
  const plain = (changes: readonly Change[]) => changes.map((c) => ({ ...c, text: c.text.trim() }));
  const carried = setups.every(({ changes }) => same(plain(changesIn(changesColumn(changes))), plain(changes)));
  if (carried) return [];
  return setups.flatMap(({ id, changes }) =>
    changes.map(({ kind, part, text }) => ({ setup_id: id, kind, part, text })),
  );
}

/** Changes and declared states of a row of `setups.csv`. */
export function changesOfSetup(r: RecordReader, typed: Change[] | undefined): Pick<Setup, 'changes' | 'declares'> {
  const changes = typed ?? changesIn(r.text('changes') ?? '');
  return { changes, declares: r.has(DECLARES.name) ? declaredIn(r) : statesNamed(changes) };
}

function declaredIn(r: RecordReader): Setup['declares'] {
  const names = (r.text(DECLARES.name) ?? '').split(/\s+/).filter(Boolean);
  const known = DECLARABLE_COLUMNS.map(([, column]) => column as string);
  const unknown = names.find((name) => !known.includes(name));
  if (unknown !== undefined)
    r.fail(`${DECLARES.name} names "${unknown.slice(0, 40)}", which is no state; states are ${known.join(', ')}.`);
  return inOrder(DECLARABLE_COLUMNS.filter(([, column]) => names.includes(column)).map(([key]) => key));
}

/** The column `declares`, or null where the changes of every setup name just the states that it declares. */
export function declaresColumn(setups: readonly Setup[]): ((setup: Setup) => string) | null {
  const named = setups.every(({ changes, declares }) => same(statesNamed(changes), inOrder(declares)));
  if (named) return null;
  return ({ declares }) =>
    DECLARABLE_COLUMNS.filter(([key]) => declares.includes(key))
      .map(([, column]) => column)
      .join(' ');
}

const inOrder = (states: readonly DeclarableState[]) => DECLARABLE_STATES.filter((state) => states.includes(state));

function same(a: readonly unknown[], b: readonly unknown[]): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}
