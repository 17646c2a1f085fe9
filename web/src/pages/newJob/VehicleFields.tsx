import { useController, type UseFormReturn } from 'react-hook-form';
import { useBays } from '../../api/hooks.ts';
import { Field, Input } from '../../parts/Field.tsx';
import { RecordField, type RecordRow } from '../../parts/RecordField.tsx';
import type { JobForm } from './jobForm.ts';

/** The car and the bay it runs in; a car on record brings what is written there. */
export function VehicleFields({
  form: { register, control, watch },
  onVehicle,
}: {
  form: UseFormReturn<JobForm>;
  onVehicle: (vehicle: RecordRow | null) => void;
}) {
  const bays = useBays();
  const bay = watch('bay');
  const vehicle = useController({ control, name: 'vehicle', rules: { required: 'Name the vehicle.' } });
  return (
    <section className="sheet card grid content-start gap-3">
      <h2>Vehicle and bay</h2>
      <RecordField
        kind="vehicle"
        label="Vehicle"
        value={vehicle.field.value}
        onText={vehicle.field.onChange}
        onRecord={onVehicle}
        error={vehicle.fieldState.error?.message}
      />
      <div className="grid grid-cols-3 gap-3">
        <Field label="Driven wheels">
          <select className="input" {...register('driven')}>
            <option value="">not recorded</option>
            <option value="front">front</option>
            <option value="rear">rear</option>
            <option value="all">all</option>
            <option value="motorcycle">motorcycle</option>
          </select>
        </Field>
        <Field label="Aspiration">
          <select className="input" {...register('aspiration')}>
            <option value="natural">natural</option>
            <option value="turbo">turbo</option>
            <option value="supercharged">supercharged</option>
          </select>
        </Field>
        <Field label="Transmission">
          <select className="input" {...register('transmission')}>
            <option value="manual">manual</option>
            <option value="automatic">automatic</option>
            <option value="cvt">CVT</option>
          </select>
        </Field>
      </div>
      <div className="grid grid-cols-3 items-start gap-3">
        <Field label="Mass, kg">
          <Input inputMode="decimal" {...register('mass')} />
        </Field>
        <Field label="Engine over roller speed" hint="Only needed without an rpm pickup.">
          <Input inputMode="decimal" {...register('ratio')} />
        </Field>
        <Field label="Roller inertia, kg·m²" hint="Only needed for files with roller speed.">
          <Input inputMode="decimal" {...register('inertia')} />
        </Field>
      </div>
      <Field
        label="Bay"
        hint={
          bays.data && !bays.data.some(({ label }) => label === bay.trim())
            ? 'No bay of this shop is called so: another shop’s rollers, which teach no bay.'
            : 'What its days have shown goes into the verdict.'
        }
      >
        <Input list="bays" {...register('bay')} />
      </Field>
    </section>
  );
}
