import type { Money } from '@prandel/core';
import { useState } from 'react';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { For } from '../../parts/May.tsx';

/** The labour rate: tried here by anybody, kept for the shop by its owner. */
export function RateField({
  money,
  saved,
  onTry,
}: {
  money: Money;
  /** As the shop keeps it; null: not loaded yet. */
  saved: Schemas['MoneyDto'] | null;
  onTry: (rate: number | null) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const [currency, setCurrency] = useState<string | null>(null);
  const [failed, setFailed] = useState('');
  const shownRate = text ?? (money.hourlyRate === null ? '' : String(money.hourlyRate));
  const shownCurrency = currency ?? money.currency ?? '';
  const rate = shownRate === '' ? null : Number(shownRate);
  const wrong = rate !== null && !(rate >= 0 && rate < 1e6);
  const changed =
    saved !== null && !wrong && (rate !== saved.hourlyRate || (shownCurrency.trim() || null) !== saved.currency);
  const keep = async () => {
    try {
      await ask('put', '/api/money', { body: { currency: shownCurrency.trim() || null, hourlyRate: rate } });
      setFailed('');
      setText(null);
      setCurrency(null);
      onTry(null);
      await Promise.all([
        queries.invalidateQueries({ queryKey: ['money'] }),
        queries.invalidateQueries({ queryKey: ['job'] }),
      ]);
    } catch (error) {
      setFailed((error as Error).message);
    }
  };
  return (
    <div className="flex flex-wrap items-center gap-1.5 text-[12.5px]">
      <label className="flex items-center gap-1.5">
        Labour
        <input
          className="input !min-h-[28px] w-[72px] !py-0.5 text-right"
          inputMode="decimal"
          aria-label="Labour rate an hour"
          aria-invalid={wrong}
          value={shownRate}
          onChange={(e) => {
            const next = e.target.value.replace(',', '.');
            setText(next);
            const value = Number(next);
            onTry(next !== '' && value >= 0 && value < 1e6 ? value : null);
          }}
        />
      </label>
      <For role="owner" else={<span>{money.currency ?? ''} an hour</span>}>
        <input
          className="input !min-h-[28px] w-[58px] !py-0.5"
          aria-label="Currency of the shop"
          placeholder="EUR"
          maxLength={20}
          value={shownCurrency}
          onChange={(e) => setCurrency(e.target.value)}
        />
        an hour
        {changed && (
          <button type="button" className="btn sm" onClick={() => void keep()}>
            Keep for the shop
          </button>
        )}
      </For>
      {wrong && (
        <span className="text-act" role="alert">
          no rate
        </span>
      )}
      {failed && (
        <span className="text-act" role="alert">
          {failed}
        </span>
      )}
    </div>
  );
}
