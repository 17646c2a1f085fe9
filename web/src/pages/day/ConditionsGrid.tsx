import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import { CONDITIONS, valueOf, type Condition, type Day, type Laid } from './dayState.ts';
import { CONDITION_WORDS } from './dayWords.ts';

interface GridProps {
  readonly day: Day;
  readonly pulls: readonly Laid[];
  readonly nameOf: (place: number) => string;
  readonly clock: (ms: number) => string;
  readonly selected: number | null;
  readonly onSelect: (place: number) => void;
  readonly onTyped: (cells: readonly (readonly [number, Condition, number | null])[]) => void;
  readonly onFill: () => void;
}

/** So many rows are all drawn. */
const ALL_ROWS = 60;
/** Height of a row. */
const ROW_PX = 35;

/** Humidity is typed in per cent and kept as a fraction. */
const scale = (key: Condition) => (key === 'relativeHumidity' ? 100 : 1);
const textOf = (value: number | null, key: Condition) =>
  value === null ? '' : String(Math.round(value * scale(key) * 100) / 100);
const numberOf = (text: string, key: Condition) => {
  const value = Number(text.trim().replace(',', '.'));
  return text.trim() === '' || !Number.isFinite(value) ? null : value / scale(key);
};

/** Weather and start temperatures, pull by pull: what the files say is filled in, the rest is typed or pasted. */
export function ConditionsGrid({ day, pulls, nameOf, clock, selected, onSelect, onTyped, onFill }: GridProps) {
  const rows = day.filter((r) => r.status !== 'left-out');
  const scroll = useRef<HTMLDivElement>(null);
  // A long day has hundreds of rows of six fields: only those in sight are drawn.
  const seen = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const all = rows.length <= ALL_ROWS;
  const items = seen.getVirtualItems();
  const drawn = all ? rows.map((_, i) => i) : items.map((item) => item.index);
  const above = all ? 0 : (items[0]?.start ?? 0);
  const below = all ? 0 : seen.getTotalSize() - (items.at(-1)?.end ?? 0);
  const [writing, setWriting] = useState<{ cell: string; text: string } | null>(null);
  const paste = (row: number, column: number) => (e: ClipboardEvent<HTMLInputElement>) => {
    const lines = e.clipboardData.getData('text').replace(/\r/g, '').replace(/\n+$/, '').split('\n');
    if (lines.length === 1 && !lines[0]!.includes('\t')) return;
    e.preventDefault();
    setWriting(null);
    onTyped(
      lines.flatMap((line, i) =>
        line.split('\t').flatMap((text, j) => {
          const [own, key] = [rows[row + i], CONDITIONS[column + j]];
          return own && key ? [[own.place, key, numberOf(text, key)] as const] : [];
        }),
      ),
    );
  };
  const move = (row: number, column: number) => (e: KeyboardEvent<HTMLInputElement>) => {
    const step = { Enter: 1, ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step === undefined) return;
    e.preventDefault();
    e.currentTarget
      .closest('table')
      ?.querySelector<HTMLInputElement>(`input[data-cell="${row + step} ${column}"]`)
      ?.focus();
  };
  const leave = (place: number, key: Condition) => {
    if (writing?.cell === `${place} ${key}`) onTyped([[place, key, numberOf(writing.text, key)]]);
    setWriting(null);
  };
  return (
    <section className="sheet card grid content-start gap-2" aria-label="Weather and temperatures">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2>Weather and temperatures</h2>
        <span className="text-ink-2">Outlined: typed. A block of a spreadsheet can be pasted into any cell.</span>
        <span className="grow" />
        <button className="btn sm" onClick={onFill}>
          Fill empty cells from the round’s first
        </button>
      </div>
      <div
        ref={scroll}
        className="max-h-[250px] overflow-auto"
        tabIndex={0}
        role="group"
        aria-label="Readings of the pulls"
      >
        <table className="table dayCells">
          <thead>
            <tr>
              <th>Pull</th>
              {CONDITIONS.map((key) => (
                <th key={key}>
                  {CONDITION_WORDS[key].name} <span className="text-ink-3 font-[450]">{CONDITION_WORDS[key].unit}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {above > 0 && <tr style={{ height: above }} />}
            {drawn
              .map((i) => [rows[i]!, i] as const)
              .map(([row, i]) => (
                <tr key={row.place} aria-selected={selected === row.place}>
                  <td className="whitespace-nowrap">
                    <button className="underline-offset-2 hover:underline" onClick={() => onSelect(row.place)}>
                      {nameOf(row.place)}
                    </button>{' '}
                    <span className="text-ink-3">{row.startedMs === null ? '' : clock(row.startedMs)}</span>
                  </td>
                  {CONDITIONS.map((key, column) => {
                    const cell = `${row.place} ${key}`;
                    const typed = row.typed[key] !== undefined;
                    return (
                      <td key={key}>
                        <input
                          className={`input !min-h-[26px] !w-[74px] !py-0 ${typed ? '' : '!border-transparent !bg-transparent'}`}
                          inputMode="decimal"
                          aria-label={`${CONDITION_WORDS[key].name} of ${nameOf(row.place)}`}
                          data-cell={`${i} ${column}`}
                          placeholder="–"
                          value={writing?.cell === cell ? writing.text : textOf(valueOf(row, pulls, key), key)}
                          onChange={(e) => setWriting({ cell, text: e.target.value })}
                          onBlur={() => leave(row.place, key)}
                          onPaste={paste(i, column)}
                          onKeyDown={move(i, column)}
                        />
                      </td>
                    );
                  })}
                </tr>
              ))}
            {below > 0 && <tr style={{ height: below }} />}
          </tbody>
        </table>
      </div>
    </section>
  );
}
