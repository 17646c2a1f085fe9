import { useQuery } from '@tanstack/react-query';
import { useCombobox } from 'downshift';
import { useDeferredValue, useEffect, useRef } from 'react';
import { ask, type Schemas } from '../api/client.ts';
import { Field, Input } from './Field.tsx';

export type RecordRow = Schemas['RecordRow'];

const OFFERED = 8;

/** What tells two records of one name apart. */
function besides({ kind, fields }: RecordRow): string {
  const about =
    { vehicle: ['registration', 'owner'], part: ['number', 'supplier'], customer: ['contact'] }[kind as string] ?? [];
  return about
    .map((key) => fields[key])
    .filter((v) => typeof v === 'string' && v !== '')
    .join(', ');
}

/** A field for the name of a record: typing searches the records of its kind, choosing one takes it; another name is only a name. */
export function RecordField({
  kind,
  label,
  value,
  onText,
  onRecord,
  hint,
  error,
  placeholder,
}: {
  kind: RecordRow['kind'];
  label: string;
  value: string;
  onText: (text: string) => void;
  /** A record was chosen from the list, or is the only one of exactly this name; null: what is typed is none. */
  onRecord: (record: RecordRow | null, fromList: boolean) => void;
  hint?: string;
  error?: string | undefined;
  placeholder?: string;
}) {
  const q = useDeferredValue(value.trim());
  const found = useQuery({
    queryKey: ['records', kind, 'named', q],
    queryFn: () => ask('get', '/api/records', { params: { query: { kind, q } } }),
    placeholderData: (before) => before,
    staleTime: 30_000,
  });
  const rows = found.data?.records ?? [];
  const offered = rows.slice(0, OFFERED);
  const chosen = useRef<string | null>(null);
  // What stood there when the form was opened is no choice: it must not bring anything with it.
  const opened = useRef<string | null>(value);
  const take = (record: RecordRow | null, fromList = false) => {
    chosen.current = record?.id ?? null;
    onRecord(record, fromList);
  };
  const box = useCombobox<RecordRow>({
    items: offered,
    itemToString: (row) => row?.label ?? '',
    inputValue: value,
    selectedItem: null,
    onSelectedItemChange: ({ selectedItem }) => {
      if (!selectedItem) return;
      onText(selectedItem.label);
      take(selectedItem, true);
    },
  });
  // Who types a name in full means the record of that name, if there is just one.
  const own = rows.filter((row) => row.label === value.trim());
  const only = own.length === 1 && !found.isPlaceholderData && value !== opened.current ? own[0]! : null;
  useEffect(() => {
    if (only && chosen.current === null) take(only);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only what is found decides
  }, [only?.id]);
  const open = box.isOpen && offered.length > 0;
  return (
    <div className="relative">
      <Field label={label} {...(hint ? { hint } : {})} error={error}>
        <Input
          {...box.getInputProps({
            placeholder,
            'aria-labelledby': undefined,
            onChange: (e: { currentTarget: HTMLInputElement }) => {
              opened.current = null;
              take(null);
              onText(e.currentTarget.value);
            },
          })}
        />
      </Field>
      <ul
        {...box.getMenuProps({ 'aria-label': label, 'aria-labelledby': undefined })}
        className={open ? 'pop absolute inset-x-0 top-[58px] z-30 !p-1' : 'hidden'}
      >
        {open &&
          offered.map((row, index) => (
            <li
              key={row.id}
              {...box.getItemProps({ item: row, index })}
              className="flex min-h-[30px] cursor-pointer flex-wrap items-baseline gap-x-2 rounded-sm px-2 py-1 aria-selected:bg-faint"
            >
              <b>{row.label}</b>
              <span className="text-ink-2">{besides(row)}</span>
            </li>
          ))}
      </ul>
    </div>
  );
}
