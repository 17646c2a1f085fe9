import { useState } from 'react';
import { Field, Input } from '../../parts/Field.tsx';

/** A number within its bounds. What is being typed stays as typed; it is taken, and kept inside, when the field is left. */
export function NumberField({
  label,
  value,
  onChange,
  least,
  most,
}: {
  label: string;
  value: number | null;
  onChange: (value: number) => void;
  least: number;
  most: number;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const take = (text: string) => {
    const next = Number(text.replace(',', '.'));
    if (text.trim() !== '' && Number.isFinite(next)) onChange(Math.min(most, Math.max(least, next)));
  };
  return (
    <Field label={label}>
      <Input
        type="number"
        min={least}
        max={most}
        step="any"
        value={typed ?? value ?? ''}
        onChange={(e) => {
          const next = e.target.valueAsNumber;
          setTyped(e.target.value);
          if (next >= least && next <= most) onChange(next);
        }}
        onBlur={() => {
          if (typed !== null) take(typed);
          setTyped(null);
        }}
      />
    </Field>
  );
}

/** A time of day as minutes after midnight. */
export function TimeField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number;
  onChange: (minutes: number) => void;
}) {
  const text = `${String(Math.floor(value / 60)).padStart(2, '0')}:${String(value % 60).padStart(2, '0')}`;
  return (
    <Field label={label}>
      <Input
        type="time"
        value={text}
        onChange={(e) => {
          const [h, m] = e.target.value.split(':').map(Number);
          if (h !== undefined && m !== undefined && Number.isFinite(h + m)) onChange(h * 60 + m);
        }}
      />
    </Field>
  );
}
