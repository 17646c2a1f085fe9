import type { UseFormReturn } from 'react-hook-form';
import { Field, Input } from '../../parts/Field.tsx';
import { RecordField, type RecordRow } from '../../parts/RecordField.tsx';
import { SMALL_LOSSES, type ChosenRecords, type JobForm } from './jobForm.ts';

/** Who brought the car and how it arrived, with a walk-round for small losses. */
export function IntakeFields({
  form: { register, watch, setValue },
  onChosen,
}: {
  form: UseFormReturn<JobForm>;
  onChosen: (chosen: Partial<ChosenRecords>) => void;
}) {
  const field = (name: 'customer' | 'card' | 'method') => ({
    value: watch(name),
    onText: (text: string) => setValue(name, text),
    onRecord: (record: RecordRow | null) => onChosen({ [name]: record }),
  });
  return (
    <section className="sheet card grid gap-3">
      <h2>Intake</h2>
      <div className="grid items-start gap-3 sm:grid-cols-2 lg:grid-cols-4">
        <RecordField kind="customer" label="Customer" {...field('customer')} />
        <Field label="Claim being tested">
          <Input {...register('claim')} placeholder="four kilowatts, says the seller" />
        </Field>
        <RecordField kind="model-card" label="Model card" placeholder="none yet" {...field('card')} />
        <RecordField kind="method" label="House method" placeholder="usual tolerances" {...field('method')} />
        <Field label="Fuel and grade">
          <Input {...register('fuel')} />
        </Field>
        <Field label="Tune file and revision" hint="A file digest proves it.">
          <Input {...register('tune')} />
        </Field>
        <Field label="Engine controller">
          <select className="input" {...register('controller')}>
            <option value="">not recorded</option>
            <option value="learned">settled on what it has learned</option>
            <option value="reset">fresh reset</option>
          </select>
        </Field>
        <Field label="Oil">
          <Input {...register('oil')} />
        </Field>
        <Field label="Tyres">
          <Input {...register('tyres')} />
        </Field>
        <Field label="Tyre pressure, kPa">
          <Input inputMode="decimal" {...register('tyrePressure')} />
        </Field>
        <div className="sm:col-span-2">
          <Field label="Parts already fitted">
            <Input {...register('parts')} />
          </Field>
        </div>
      </div>
      <fieldset className="flex flex-wrap gap-x-5 gap-y-1">
        <legend className="text-ink-2 mb-1 text-[12px]">Small losses found on a walk round the car</legend>
        {SMALL_LOSSES.map((loss) => (
          <label key={loss} className="flex items-center gap-2">
            <input type="checkbox" value={loss} {...register('losses')} />
            {loss}
          </label>
        ))}
      </fieldset>
      <label className="flex items-center gap-2">
        <input type="checkbox" {...register('keep')} />
        Keep a new vehicle and customer on record for the next job
      </label>
    </section>
  );
}
