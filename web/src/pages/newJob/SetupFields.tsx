import { useFieldArray, type UseFormReturn } from 'react-hook-form';
import { Field, Input } from '../../parts/Field.tsx';
import { Badge } from '../../parts/marks.tsx';
import { LETTERED, LETTERS, type JobForm } from './jobForm.ts';

/** The baseline and what is compared with it. */
export function SetupFields({ form: { control, register, formState } }: { form: UseFormReturn<JobForm> }) {
  const { errors } = formState;
  const candidates = useFieldArray({ control, name: 'candidates' });
  return (
    <section className="sheet card grid content-start gap-3">
      <h2>The setups</h2>
      <div className="flex items-end gap-2">
        <Badge id="A" setups={LETTERED} />
        <div className="grow">
          <Field label="Baseline" error={errors.a?.message}>
            <Input {...register('a', { required: 'Name the baseline.' })} />
          </Field>
        </div>
      </div>
      {candidates.fields.map((field, i) => (
        <div key={field.id} className="grid gap-2">
          <div className="flex items-end gap-2">
            <Badge id={LETTERS[i]!} setups={LETTERED} />
            <div className="grow">
              <Field
                label={i === 0 ? 'With the change' : 'With another change'}
                error={errors.candidates?.[i]?.label?.message}
              >
                <Input
                  {...register(`candidates.${i}.label`, { required: `Name setup ${LETTERS[i]}.` })}
                  placeholder={i === 0 ? 'electric fan' : 'electric fan and thermostat'}
                />
              </Field>
            </div>
            {i > 0 && (
              <button type="button" className="btn" onClick={() => candidates.remove(i)}>
                Remove
              </button>
            )}
          </div>
          <Field
            label={`What was changed for ${LETTERS[i]}, items separated by semicolons`}
            {...(i === 0
              ? {
                  hint: 'Name a fuel, tune, hood or fan change here: whatever differs and is not named makes the setups not comparable.',
                }
              : {})}
          >
            <Input {...register(`candidates.${i}.changes`)} placeholder="part fitted: electric cooling fan" />
          </Field>
        </div>
      ))}
      {candidates.fields.length < LETTERS.length && (
        <button
          type="button"
          className="btn justify-self-start"
          onClick={() => candidates.append({ label: '', changes: '' })}
        >
          Compare one more setup
        </button>
      )}
      <label className="flex items-center gap-2">
        <input type="checkbox" {...register('returnCheck')} />
        Return check: the first setup goes back on at the end
      </label>
    </section>
  );
}
