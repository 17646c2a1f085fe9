import type { Fitting } from '@prandel/core';
import { clock, moment } from '@prandel/presentation';
import { useState } from 'react';
import { Controller, useForm } from 'react-hook-form';
import type { Schemas } from '../../api/client.ts';
import { Field, Input } from '../../parts/Field.tsx';
import { RecordField, type RecordRow } from '../../parts/RecordField.tsx';
import { PhotoButton } from '../../parts/PhotoButton.tsx';

type Words = Pick<Fitting, 'changed' | 'disturbed' | 'parts' | 'cost' | 'notes'>;

/** A fitting as it was clocked; its words follow at the desk. */
export function FittingLine({
  job,
  zone,
  severalDays,
  fitting: f,
  onSave,
}: {
  job: string;
  zone: string | null;
  severalDays: boolean;
  fitting: Fitting;
  onSave: (words: Schemas['FittingDto']) => void;
}) {
  const [open, setOpen] = useState(false);
  const { register, control, handleSubmit, setValue } = useForm<Words>({
    defaultValues: { changed: f.changed, disturbed: f.disturbed, parts: f.parts, cost: f.cost, notes: f.notes },
  });
  const takePart = (part: RecordRow | null) => {
    if (!part || !open) return;
    const { price, adapters } = part.fields as { price?: number | null; adapters?: string };
    setValue('parts', adapters ? `${part.label}, ${adapters}` : part.label);
    if (price !== null && price !== undefined) setValue('cost', price);
  };
  const text = (label: string, key: 'changed' | 'disturbed' | 'notes') => (
    <Field label={label}>
      <Input {...register(key)} />
    </Field>
  );
  return (
    <>
      <div className="flex items-baseline gap-2">
        <span className="grow">
          <b>{f.setup}</b> fitted {moment(f.startedAt, zone, severalDays)}
          {f.stoppedAt
            ? `–${clock(f.stoppedAt, zone)}, ${Math.round((Date.parse(f.stoppedAt) - Date.parse(f.startedAt)) / 60_000)} min`
            : ', the clock runs'}
          , by {f.who}
          {f.disturbed ? `; also disturbed: ${f.disturbed}` : ''}
          {f.parts ? `; parts: ${f.parts}${f.cost === null ? '' : `, ${f.cost}`}` : ''} {f.notes}
        </span>
        <button className="btn sm" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Close' : 'Write'}
        </button>
      </div>
      {f.photos && f.photos.length > 0 && (
        <ul className="mt-1 flex flex-wrap gap-1.5" aria-label={`Photos of the fitting of ${f.setup}`}>
          {f.photos.map((photo) => (
            <li key={photo.sha256}>
              <a href={`/api/jobs/${job}/${photo.path}`} target="_blank" rel="noreferrer" title={photo.name}>
                <img
                  src={`/api/jobs/${job}/${photo.path}`}
                  alt={photo.name}
                  className="border-rule h-[64px] w-[86px] rounded-[2px] border object-cover"
                />
              </a>
            </li>
          ))}
        </ul>
      )}
      {open && (
        <form
          className="mt-1 grid gap-2"
          onSubmit={(e) => void handleSubmit((words) => onSave({ startedAt: f.startedAt, ...words }))(e)}
        >
          {text('What was changed', 'changed')}
          {text('What else was disturbed', 'disturbed')}
          <Controller
            control={control}
            name="parts"
            render={({ field }) => (
              <RecordField
                kind="part"
                label="Parts and adapters"
                hint="A part on record brings its price and adapters."
                value={field.value}
                onText={field.onChange}
                onRecord={takePart}
              />
            )}
          />
          <Field label="Cost">
            <Input
              type="number"
              min={0}
              step="any"
              {...register('cost', { setValueAs: (v: unknown) => (v === '' || v === null ? null : Number(v)) })}
            />
          </Field>
          {text('Notes', 'notes')}
          <div className="flex justify-end gap-2">
            <PhotoButton job={job} startedAt={f.startedAt} />
            <button className="btn sm pri">Save</button>
          </div>
        </form>
      )}
    </>
  );
}
