import { fromSi, toSi, type Pull } from '@prandel/core';
import { Thermometer } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, type Schemas } from '../../api/client.ts';
import { useJobChange, useUnits } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';

const numberIn = (text: string): number | null =>
  text.trim() && Number.isFinite(Number(text.replace(',', '.'))) ? Number(text.replace(',', '.')) : null;

/** The bay's air as somebody read it off a gauge, for bays without a weather station. */
export function AirByHand({ job }: { job: string }) {
  const units = useUnits();
  const [open, setOpen] = useState(false);
  const { register, handleSubmit } = useForm({ defaultValues: { air: '', pressure: '', humidity: '' } });
  const add = useJobChange<Schemas['AirReading']>(job, (body) =>
    ask('post', '/api/jobs/{id}/weather', { params: { path: { id: job } }, body }),
  );
  const send = handleSubmit((typed) => {
    const [air, pressure, humidity] = [typed.air, typed.pressure, typed.humidity].map(numberIn);
    if (air === null || air === undefined || pressure === null || pressure === undefined) return;
    add.mutate(
      {
        airC: toSi(air, units.temperature),
        pressureHpa: toSi(pressure, units.pressure) / toSi(1, 'hPa'),
        relativeHumidity: humidity === null || humidity === undefined ? null : humidity / 100,
      },
      { onSuccess: () => setOpen(false) },
    );
  });
  if (!open)
    return (
      <button className="btn sm justify-self-start" onClick={() => setOpen(true)}>
        <Thermometer size={13} aria-hidden />
        Type the bay’s air
      </button>
    );
  return (
    <form
      className="grid grid-cols-3 items-end gap-2"
      aria-label="The bay’s air, read by hand"
      onSubmit={(e) => void send(e)}
    >
      <Field label={`Air, ${units.temperature}`}>
        <Input inputMode="decimal" required {...register('air')} />
      </Field>
      <Field label={`Station pressure, ${units.pressure}`}>
        <Input inputMode="decimal" required {...register('pressure')} />
      </Field>
      <Field label="Humidity, %">
        <Input inputMode="decimal" {...register('humidity')} />
      </Field>
      <p className="text-ink-3 col-span-3 text-[11.5px]">
        Pulls within a quarter of an hour of it that recorded no weather take it.
      </p>
      {add.error && (
        <div className="col-span-3">
          <Notice kind="bad">{add.error.message}</Notice>
        </div>
      )}
      <div className="col-span-3 flex justify-end gap-2">
        <button type="button" className="btn sm" onClick={() => setOpen(false)}>
          Cancel
        </button>
        <button className="btn sm pri" disabled={add.isPending}>
          Keep the reading
        </button>
      </div>
    </form>
  );
}

const STARTS = [
  ['intakeStartC', 'Intake air'],
  ['coolantStartC', 'Coolant'],
  ['oilStartC', 'Oil'],
] as const;

/** Spot readings of a pull whose car has no such sensor; what a sensor told is not typed over. */
export function StartByHand({ job, pull, name }: { job: string; pull: Pull; name: string }) {
  const { temperature } = useUnits();
  const [open, setOpen] = useState(false);
  const { register, handleSubmit } = useForm({
    defaultValues: { intakeStartC: '', coolantStartC: '', oilStartC: '' },
  });
  const add = useJobChange<Schemas['StartReading']>(job, (body) =>
    ask('post', '/api/jobs/{id}/pulls/{pull}/readings', { params: { path: { id: job, pull: pull.id } }, body }),
  );
  const send = handleSubmit((typed) => {
    const value = (text: string) => {
      const own = numberIn(text);
      return own === null ? null : Math.round(10 * toSi(own, temperature)) / 10;
    };
    add.mutate(
      {
        intakeStartC: value(typed.intakeStartC),
        coolantStartC: value(typed.coolantStartC),
        oilStartC: value(typed.oilStartC),
      },
      { onSuccess: () => setOpen(false) },
    );
  });
  const missing = STARTS.filter(([key]) => pull[key] === null);
  if (missing.length === 0) return null;
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="btn sm" aria-label={`Type readings of ${name}`}>
        <Thermometer size={13} aria-hidden />
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <Dialog.Title asChild>
            <h2>Read by hand at the start of {name}</h2>
          </Dialog.Title>
          <form className="grid gap-3" onSubmit={(e) => void send(e)}>
            {missing.map(([key, label]) => (
              <Field key={key} label={`${label}, ${temperature}`}>
                <Input
                  inputMode="decimal"
                  placeholder={fromSi(key === 'intakeStartC' ? 32 : 90, temperature).toFixed(0)}
                  {...register(key)}
                />
              </Field>
            ))}
            {add.error && <Notice kind="bad">{add.error.message}</Notice>}
            <div className="flex justify-end gap-2">
              <Dialog.Close className="btn">Cancel</Dialog.Close>
              <button className="btn pri" disabled={add.isPending}>
                Keep the readings
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
