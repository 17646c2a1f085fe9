import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, queries, type Schemas } from '../../api/client.ts';
import type { BayListed } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { CoastDown } from './CoastDown.tsx';

export const INSTRUMENTS = [
  ['rollers', 'Rollers', 'lines of JSON'],
  ['weather', 'Weather station', 'NMEA 0183'],
  ['bus', 'Vehicle bus', 'SAE J1979'],
  ['aux', 'Auxiliary channels', 'Modbus TCP'],
] as const;

const KINDS = [
  ['inertia', 'inertia rollers'],
  ['braked', 'braked rollers'],
  ['linked', 'linked axles'],
  ['split', 'split axles'],
  ['hub', 'hub'],
] as const;

interface Form {
  label: string;
  kind: string;
  inertia: string;
  c0: string;
  c1: string;
  c2: string;
  scale: string;
  elevation: string;
  epoch: string;
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
      const rollers: Schemas['RollersDto'] = {
        ...(changed(['kind']) ? { kind: (v.kind || null) as Schemas['RollersDto']['kind'] & (string | null) } : {}),
        ...(changed(['inertia']) ? { rollerInertiaKgM2: number(v.inertia) } : {}),
        ...(changed(['c0', 'c1', 'c2']) ? { lossTorqueNm: lossOf(v) } : {}),
        ...(changed(['scale']) ? { readoutScale: number(v.scale) ?? 1 } : {}),
        ...(changed(['elevation']) ? { elevationM: number(v.elevation) } : {}),
        ...(changed(['epoch']) ? { calibrationEpoch: v.epoch.trim() || null } : {}),
      };
      const instruments = {
        ...Object.fromEntries(
          INSTRUMENTS.flatMap(([kind]) => (changed([kind]) ? [[kind, addressOf(v[kind])] as const] : [])),
        ),
        ...(formState.dirtyFields.registers ? { registers: JSON.parse(v.registers) as Schemas['RegisterMapDto'] } : {}),
      };
      if (!bay) return ask('POST', '/bays', { label: v.label, rollers, instruments });
      return ask('PATCH', `/bays/${bay.id}`, {
        version: bay.version,
        ...(changed(['label']) ? { label: v.label } : {}),
        ...(Object.keys(rollers).length > 0 ? { rollers } : {}),
        ...(Object.keys(instruments).length > 0 ? { instruments } : {}),
      });
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['bays'] });
      onDone();
    },
  });
  const submit = (v: Form) => {
    const loss = [v.c0, v.c1, v.c2].filter((c) => c.trim() !== '').length;
    if (loss !== 0 && loss !== 3) return setWrong('A loss curve has three coefficients, or none.');
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
      <Field label="Kind">
        <select className="input" {...register('kind')}>
          <option value="">not known</option>
          {KINDS.map(([kind, words]) => (
            <option key={kind} value={kind}>
              {words}
            </option>
          ))}
        </select>
      </Field>
      <Field label="Roller inertia, kg·m²">
        <Input inputMode="decimal" {...register('inertia')} />
      </Field>
      <Field label="Elevation, m" hint="Finds pressures that were reduced to sea level.">
        <Input inputMode="decimal" {...register('elevation')} />
      </Field>
      <Field label="Loss c0, N·m" hint="Torque that the empty rollers lose: c0 + c1·ω + c2·ω².">
        <Input inputMode="decimal" {...register('c0')} />
      </Field>
      <Field label="Loss c1, N·m·s">
        <Input inputMode="decimal" {...register('c1')} />
      </Field>
      <Field label="Loss c2, N·m·s²">
        <Input inputMode="decimal" {...register('c2')} />
      </Field>
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
      <Field label="Read-out scale" hint="What the read-out is multiplied by; 1 is native.">
        <Input inputMode="decimal" {...register('scale')} />
      </Field>
      <Field label="Calibrated since" hint="Figures of two epochs are never compared. A change of rollers begins one.">
        <Input {...register('epoch')} />
      </Field>
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
  const [c0, c1, c2] = rollers?.lossTorqueNm ?? ['', '', ''];
  const address = (kind: (typeof INSTRUMENTS)[number][0]) => {
    const at = instruments?.[kind];
    return at ? `${at.host}:${at.port}` : '';
  };
  return {
    label: bay?.label ?? '',
    kind: rollers ? (rollers.kind ?? '') : 'inertia',
    inertia: String(rollers?.rollerInertiaKgM2 ?? ''),
    ...{ c0: String(c0), c1: String(c1), c2: String(c2) },
    scale: String(rollers?.readoutScale ?? 1),
    elevation: String(rollers?.elevationM ?? ''),
    epoch: rollers?.calibrationEpoch ?? '',
    ...{ rollers: address('rollers'), weather: address('weather'), bus: address('bus'), aux: address('aux') },
    registers: instruments ? JSON.stringify(instruments.registers) : '',
  };
}

function number(text: string): number | null {
  const value = Number(text.replace(',', '.'));
  return text.trim() === '' || !Number.isFinite(value) ? null : value;
}

function lossOf({ c0, c1, c2 }: Form): [number, number, number] | null {
  const loss = [c0, c1, c2].map(number);
  return loss.every((c) => c !== null) ? (loss as [number, number, number]) : null;
}

function addressOf(text: string): { host: string; port: number } | null {
  const match = /^([^:\s]+):(\d{1,5})$/.exec(text.trim());
  return match ? { host: match[1]!, port: Number(match[2]) } : null;
}
