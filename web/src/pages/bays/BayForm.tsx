import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, queries, type Schemas } from '../../api/client.ts';
import type { BayListed } from '../../api/client.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { CoastDown } from './CoastDown.tsx';
import { changedRollers, number, rollerFieldsOf, rollersWrong, type RollerFields } from './rollerFields.ts';
import { RollerInputs } from './RollerInputs.tsx';

export const INSTRUMENTS = [
  ['rollers', 'Rollers', 'lines of JSON'],
  ['weather', 'Weather station', 'NMEA 0183'],
  ['bus', 'Vehicle bus', 'SAE J1979'],
  ['aux', 'Auxiliary channels', 'Modbus TCP'],
] as const;

interface Form extends RollerFields {
  label: string;
  rollers: string;
  weather: string;
  bus: string;
  aux: string;
  registers: string;
}

/** A bay's rollers, calibration and instruments. Only what was changed is sent, so that nothing else is touched. */
export function BayForm({ bay, onDone }: { bay: BayListed | null; onDone: () => void }) {
  const { register, handleSubmit, formState, setValue, getValues } = useForm<Form>({ defaultValues: formOf(bay) });
  const [wrong, setWrong] = useState<string | null>(null);
  const save = useMutation({
    mutationFn: (v: Form) => {
      const changed = (names: readonly (keyof Form)[]) => !bay || names.some((name) => formState.dirtyFields[name]);
      const rollers = changedRollers(v, changed);
      const instruments = {
        ...Object.fromEntries(
          INSTRUMENTS.flatMap(([kind]) => (changed([kind]) ? [[kind, addressOf(v[kind])] as const] : [])),
        ),
        ...(formState.dirtyFields.registers ? { registers: JSON.parse(v.registers) as Schemas['RegisterMapDto'] } : {}),
      };
      if (!bay) return ask('post', '/api/bays', { body: { label: v.label, rollers, instruments } });
      return ask('patch', '/api/bays/{id}', {
        params: { path: { id: bay.id } },
        body: {
          version: bay.version,
          ...(changed(['label']) ? { label: v.label } : {}),
          ...(Object.keys(rollers).length > 0 ? { rollers } : {}),
          ...(Object.keys(instruments).length > 0 ? { instruments } : {}),
        },
      });
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['bays'] });
      onDone();
    },
  });
  const submit = (v: Form) => {
    const problem = rollersWrong(v);
    if (problem) return setWrong(problem);
    try {
      JSON.parse(v.registers || 'null');
    } catch {
      return setWrong('The register map is no JSON.');
    }
    setWrong(null);
    save.mutate(v);
  };
  return (
    <form
      className="sheet card grid gap-3 sm:grid-cols-2 lg:grid-cols-4"
      onSubmit={(e) => void handleSubmit(submit)(e)}
      aria-label={bay ? `Settings of ${bay.label}` : 'A new bay'}
    >
      <Field label="Name of the bay">
        <Input {...register('label', { required: true })} />
      </Field>
      <RollerInputs
        register={register}
        afterLoss={
          <CoastDown
            bay={bay?.id ?? null}
            inertia={() => number(getValues('inertia'))}
            onFit={([c0, c1, c2]) => {
              for (const [name, value] of [
                ['c0', c0],
                ['c1', c1],
                ['c2', c2],
              ] as const)
                setValue(name, String(Number(value.toPrecision(6))), { shouldDirty: true });
            }}
          />
        }
      />
      {INSTRUMENTS.map(([kind, name, protocol]) => (
        <Field key={kind} label={`${name}, host:port`} hint={protocol}>
          <Input placeholder="192.0.2.10:5000" {...register(kind, { pattern: /^\s*$|^[^:\s]+:\d{1,5}$/ })} />
        </Field>
      ))}
      <label className="field sm:col-span-2">
        <span>Register map of the auxiliary channels, JSON</span>
        <textarea className="input font-[450]" rows={3} spellCheck={false} {...register('registers')} />
      </label>
      {(wrong ?? save.error?.message) && (
        <div className="sm:col-span-2 lg:col-span-4">
          <Notice kind="bad">{wrong ?? save.error?.message}</Notice>
        </div>
      )}
      <div className="flex justify-end gap-2 sm:col-span-2 lg:col-span-4">
        <button type="button" className="btn" onClick={onDone}>
          Cancel
        </button>
        <button className="btn pri" disabled={save.isPending}>
          Save the bay
        </button>
      </div>
    </form>
  );
}

function formOf(bay: BayListed | null): Form {
  const { rollers, instruments } = bay ?? {};
  const address = (kind: (typeof INSTRUMENTS)[number][0]) => {
    const at = instruments?.[kind];
    return at ? `${at.host}:${at.port}` : '';
  };
  return {
    label: bay?.label ?? '',
    ...rollerFieldsOf(rollers),
    ...{ rollers: address('rollers'), weather: address('weather'), bus: address('bus'), aux: address('aux') },
    registers: instruments ? JSON.stringify(instruments.registers) : '',
  };
}

function addressOf(text: string): { host: string; port: number } | null {
  const match = /^([^:\s]+):(\d{1,5})$/.exec(text.trim());
  return match ? { host: match[1]!, port: Number(match[2]) } : null;
}
