import type { ReactNode } from 'react';
import type { UseFormRegister } from 'react-hook-form';
import { Field, Input } from '../../parts/Field.tsx';
import { ROLLER_KINDS, type RollerFields } from './rollerFields.ts';

/** The fields of a pair of rollers. `afterLoss` stands behind the loss curve. */
export function RollerInputs({
  register,
  afterLoss,
}: {
  register: UseFormRegister<RollerFields>;
  afterLoss?: ReactNode;
}) {
  return (
    <>
      <Field label="Kind">
        <select className="input" {...register('kind')}>
          <option value="">not known</option>
          {ROLLER_KINDS.map(([kind, words]) => (
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
      {afterLoss}
      <Field label="Read-out scale" hint="What the read-out is multiplied by; 1 is native.">
        <Input inputMode="decimal" {...register('scale')} />
      </Field>
      <Field label="Calibrated since" hint="Figures of two epochs are never compared. A change of rollers begins one.">
        <Input {...register('epoch')} />
      </Field>
    </>
  );
}
