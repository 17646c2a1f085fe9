import {
  CHANGE_KINDS,
  changeOf,
  changesColumn,
  DECLARABLE_STATES,
  STATE_LABELS,
  wordsOf,
  type Change,
  type ChangeKind,
  type DeclarableState,
} from '@prandel/core';
import { Check, Plus, X } from 'lucide-react';
import { useState } from 'react';

const KIND_LABELS: Record<ChangeKind, string> = {
  'part-fitted': 'Part fitted',
  'part-removed': 'Part removed',
  tune: 'Tune',
  fuel: 'Fuel',
  fluid: 'Fluid',
  tyre: 'Tyres',
  hood: 'Hood',
  fan: 'Fan of the bay',
  safeties: 'Safeties',
  controller: 'Controller',
  other: 'Something else',
};

/** The state that differs once a change of this kind is made. */
const DECLARED_BY: Partial<Record<ChangeKind, DeclarableState>> = {
  ...{ tune: 'tuneDigest', fuel: 'fuel', tyre: 'tyrePressureKpa', hood: 'hood', fan: 'fan' },
  ...{ safeties: 'safeties', controller: 'controllerState' },
};

/** A row of the list; one that nobody edited keeps the change that it came from. */
interface Row {
  readonly kind: ChangeKind;
  readonly words: string;
  readonly from: Change | null;
}
const NO_ROW: Row = { kind: 'part-fitted', words: '', from: null };

const rowsOf = (changes: readonly Change[]): Row[] =>
  changes
    .filter(({ text }) => text.trim() !== '')
    .map((change) => ({ kind: change.kind, words: wordsOf(change), from: change }));

const changesOf = (rows: readonly Row[]): Change[] =>
  rows.flatMap(({ kind, words, from }) => from ?? (words.trim() === '' ? [] : changeOf(kind, words)));

/** What was changed for a setup, one row a change, and the states that differ on purpose. */
export function ChangesField({
  setup,
  changes,
  declares,
  onEdit,
}: {
  setup: string;
  changes: readonly Change[];
  declares: readonly DeclarableState[];
  onEdit: (patch: { changes: Change[]; declares: DeclarableState[] }) => void;
}) {
  const [rows, setRows] = useState<readonly Row[]>(() => rowsOf(changes));
  // Changes that came from elsewhere (a part taken from the record, an edit taken back) replace what is shown.
  const plain = changes.filter(({ text }) => text.trim() !== '');
  const known = changesColumn(changesOf(rows)) === changesColumn(plain) ? rows : rowsOf(changes);
  const shown = known.length === 0 ? [NO_ROW] : known;
  const edit = (next: readonly Row[], added: DeclarableState[] = []) => {
    setRows(next);
    onEdit({ changes: changesOf(next), declares: inOrder([...declares, ...added]) });
  };
  const put = (i: number, patch: Partial<Row>) =>
    edit(
      shown.map((row, k) => (k === i ? { ...row, ...patch, from: null } : row)),
      patch.kind ? [DECLARED_BY[patch.kind] ?? []].flat() : [],
    );
  return (
    <fieldset className="grid gap-1.5">
      <legend className="text-ink-2 mb-1 text-[12px]">What was changed for {setup}</legend>
      {shown.map((row, i) => (
        <div key={i} className="flex gap-2">
          <select
            className="input w-[136px] shrink-0"
            aria-label={`Kind of change ${i + 1} of ${setup}`}
            value={row.kind}
            onChange={(e) => put(i, { kind: e.target.value as ChangeKind })}
          >
            {CHANGE_KINDS.map((kind) => (
              <option key={kind} value={kind}>
                {KIND_LABELS[kind]}
              </option>
            ))}
          </select>
          <input
            className="input min-w-0 grow"
            aria-label={`Change ${i + 1} of ${setup}`}
            maxLength={300}
            placeholder={row.kind === 'part-fitted' ? 'electric cooling fan' : ''}
            value={row.words}
            onChange={(e) => put(i, { words: e.target.value })}
          />
          {known.length > 0 && (
            <button
              type="button"
              className="btn sm"
              aria-label={`Remove change ${i + 1} of ${setup}`}
              onClick={() => edit(shown.filter((_, k) => k !== i))}
            >
              <X size={16} aria-hidden />
            </button>
          )}
        </div>
      ))}
      {shown.some(({ words }) => words.trim() !== '') && (
        <button
          type="button"
          className="btn sm justify-self-start"
          onClick={() => edit([...shown, { ...NO_ROW, kind: 'other' }])}
        >
          <Plus size={14} aria-hidden /> One more change
        </button>
      )}
      <div
        className="flex flex-wrap items-center gap-1.5"
        role="group"
        aria-label={`States of ${setup} that differ on purpose`}
      >
        <span className="text-ink-2 text-[12px]">Differs on purpose:</span>
        {DECLARABLE_STATES.map((state) => (
          <button
            key={state}
            type="button"
            className="chip"
            aria-pressed={declares.includes(state)}
            onClick={() =>
              onEdit({
                changes: changesOf(shown),
                declares: declares.includes(state)
                  ? declares.filter((s) => s !== state)
                  : inOrder([...declares, state]),
              })
            }
          >
            {declares.includes(state) && <Check size={13} aria-hidden />}
            {STATE_LABELS[state]}
          </button>
        ))}
      </div>
      <span className="text-ink-3 text-[11.5px]">
        A state that differs and is not chosen here makes the setups not comparable.
      </span>
    </fieldset>
  );
}

const inOrder = (states: readonly DeclarableState[]) => DECLARABLE_STATES.filter((state) => states.includes(state));
