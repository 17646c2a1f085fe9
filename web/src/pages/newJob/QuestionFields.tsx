import { Controller, type UseFormReturn } from 'react-hook-form';
import { Field, Input } from '../../parts/Field.tsx';
import { MeasuresField, rowsProblem } from '../../parts/MeasuresField.tsx';
import type { JobForm } from './jobForm.ts';

/** What is to be decided, on which measure, over which window, and which gain would matter. */
export function QuestionFields({ form: { register, control, formState } }: { form: UseFormReturn<JobForm> }) {
  const { errors } = formState;
  return (
    <section className="sheet card grid gap-3">
      <h2>The question</h2>
      <Field label="What is to be decided, in words" error={errors.title?.message}>
        <Input
          {...register('title', { required: 'Write the question in words.' })}
          placeholder="Does the part add power at the wheels?"
        />
      </Field>
      <Controller
        control={control}
        name="measures"
        rules={{ validate: (rows) => rowsProblem(rows) ?? true }}
        render={({ field }) => <MeasuresField rows={field.value} recorded={null} onEdit={field.onChange} />}
      />
      <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
        <Field label="Window from, rpm" error={errors.low?.message}>
          <Input inputMode="numeric" {...register('low', { required: 'From which engine speed?' })} />
        </Field>
        <Field label="Window to, rpm" error={errors.high?.message}>
          <Input
            inputMode="numeric"
            {...register('high', {
              required: 'To which engine speed?',
              validate: (v, all) => Number(v) > Number(all.low) || 'The window must rise.',
            })}
          />
        </Field>
      </div>
      <p className="text-ink-3 text-[12px]">
        One to three measures, agreed before the first counted pull: each gets a verdict of its own.
      </p>
      <label className="flex items-center gap-2">
        <input type="checkbox" {...register('cooling')} />
        The part is meant to change the intake air temperature
      </label>
    </section>
  );
}
