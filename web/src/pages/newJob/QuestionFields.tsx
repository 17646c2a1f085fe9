import { MEASURE_WORDS } from '@prandel/presentation';
import type { UseFormReturn } from 'react-hook-form';
import { Field, Input } from '../../parts/Field.tsx';
import { ASKED_MEASURES, type JobForm } from './jobForm.ts';

/** What is to be decided, on which measure, over which window, and which gain would matter. */
export function QuestionFields({ form: { register, formState } }: { form: UseFormReturn<JobForm> }) {
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
      <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
        <Field label="Measure">
          <select className="input" {...register('measure')}>
            {ASKED_MEASURES.map((key) => (
              <option key={key} value={key}>
                {MEASURE_WORDS[key]}
              </option>
            ))}
          </select>
        </Field>
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
        <Field label="Gain that would matter, %" hint="Agreed before the first counted pull.">
          <Input inputMode="decimal" {...register('matters')} />
        </Field>
      </div>
      <label className="flex items-center gap-2">
        <input type="checkbox" {...register('cooling')} />
        The part is meant to change the intake air temperature
      </label>
    </section>
  );
}
