import { useQuery } from '@tanstack/react-query';
import { useCombobox } from 'downshift';
import { Dialog } from 'radix-ui';
import { useDeferredValue, useState } from 'react';
import { useNavigate } from 'react-router';
import { ask, type Schemas } from '../api/client.ts';

type Found = Schemas['FindAnswer']['found'][number];

const KINDS: Readonly<Record<Found['kind'], string>> = {
  job: 'Job',
  part: 'Part',
  'model-card': 'Model',
  vehicle: 'Car',
  customer: 'Customer',
};
const KEY = 'prandel.recent';
const MOST_RECENT = 8;
const LEAST = 3;
/** The elements of a dialog are there one step after their properties are asked for. */
const IN_DIALOG = { suppressRefError: true };

/** What was found is a page of its own, or the jobs that belong to it. */
function addressOf({ kind, id, label }: Found): string {
  if (kind === 'job') return `/jobs/${id}`;
  if (kind === 'part') return `/shelf/${id}`;
  if (kind === 'model-card') return `/models/${id}`;
  return `/jobs?q=${encodeURIComponent(label)}`;
}

function recent(): Found[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? '[]');
    return Array.isArray(kept) ? (kept as Found[]).filter((f) => f.kind in KINDS) : [];
  } catch {
    return [];
  }
}

function keep(found: Found): void {
  try {
    const others = recent().filter((f) => f.id !== found.id);
    localStorage.setItem(KEY, JSON.stringify([found, ...others].slice(0, MOST_RECENT)));
  } catch {
    // A browser that keeps nothing has no recent ones.
  }
}

/** One field over everything: jobs and their numbers, cars, customers, parts, models. Without a word the recent ones. */
export function Finder({ onClose }: { onClose: () => void }) {
  const go = useNavigate();
  const [text, setText] = useState('');
  const q = useDeferredValue(text.trim());
  const enough = q.length >= LEAST || /\d-\d/.test(q);
  const found = useQuery({
    queryKey: ['find', q],
    queryFn: () => ask('get', '/api/find', { params: { query: { q } } }),
    enabled: enough,
    placeholderData: (before) => before,
  });
  const items: readonly Found[] = enough ? (found.data?.found ?? []) : recent();
  const box = useCombobox<Found>({
    items: [...items],
    isOpen: true,
    defaultHighlightedIndex: 0,
    inputValue: text,
    selectedItem: null,
    itemToString: (item) => item?.label ?? '',
    onSelectedItemChange: ({ selectedItem }) => {
      if (!selectedItem) return;
      keep(selectedItem);
      onClose();
      void go(addressOf(selectedItem));
    },
  });
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="bg-ink/25 fixed inset-0 z-40" />
        <Dialog.Content
          className="pop fixed top-[10vh] left-1/2 z-50 grid w-[min(640px,94vw)] -translate-x-1/2 gap-2"
          aria-describedby={undefined}
        >
          <Dialog.Title className="sr-only">Find anything</Dialog.Title>
          <input
            {...box.getInputProps(
              {
                className: 'input !min-h-[44px] !text-[17px]',
                placeholder: 'A job, a number, a car, a customer, a part, a model …',
                'aria-label': 'Find anything',
                'aria-labelledby': undefined,
                autoFocus: true,
                onChange: (e: { currentTarget: HTMLInputElement }) => setText(e.currentTarget.value),
                onKeyDown: (e: { key: string }) => {
                  if (e.key === 'Escape') onClose();
                },
              },
              IN_DIALOG,
            )}
          />
          <p className="text-ink-3 text-[12px]" role="status">
            {!enough && text.trim() !== ''
              ? 'Three letters at least.'
              : !enough
                ? items.length > 0
                  ? 'Recent'
                  : 'Type the beginnings of words; arrows choose, Enter opens.'
                : items.length === 0 && !found.isFetching
                  ? 'Nothing begins with these words.'
                  : `${items.length} found`}
          </p>
          <ul
            {...box.getMenuProps(
              { 'aria-label': 'Found', 'aria-labelledby': undefined, className: 'max-h-[56vh] overflow-auto' },
              IN_DIALOG,
            )}
          >
            {items.map((item, index) => (
              <li
                key={`${item.kind} ${item.id}`}
                {...box.getItemProps({ item, index })}
                className="aria-selected:bg-faint flex min-h-[36px] cursor-pointer items-baseline gap-3 rounded-sm px-2 py-1.5"
              >
                <span className="text-ink-3 w-[72px] flex-none text-[12px]">{KINDS[item.kind]}</span>
                <b className="min-w-0 truncate">{item.label}</b>
                <span className="text-ink-2 min-w-0 grow truncate">{item.about}</span>
              </li>
            ))}
          </ul>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
