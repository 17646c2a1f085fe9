import { useFieldArray, type UseFormReturn } from 'react-hook-form';
import { ChangesField } from '../../parts/ChangesField.tsx';
import { Expected } from '../../parts/Expected.tsx';
import { Field, Input } from '../../parts/Field.tsx';
import { RecordField, type RecordRow } from '../../parts/RecordField.tsx';
import { Badge } from '../../parts/marks.tsx';
import { fittedPart, LETTERED, LETTERS, NO_CANDIDATE, type JobForm } from './jobForm.ts';

/** The baseline and what is compared with it. */
export function SetupFields({ form }: { form: UseFormReturn<JobForm> }) {
  const { control, register, formState, getValues, setValue, watch } = form;
  const { errors } = formState;
  const takePart = (i: number, row: RecordRow | null) => {
    if (row) setValue(`candidates.${i}`, fittedPart(row, getValues(`candidates.${i}`)));
  };
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
              <input type="hidden" {...register(`candidates.${i}.label`, { required: `Name setup ${LETTERS[i]}.` })} />
              <RecordField
                kind="part"
                label={i === 0 ? 'With the change' : 'With another change'}
                value={watch(`candidates.${i}.label`)}
                onText={(text) => setValue(`candidates.${i}.label`, text)}
                onRecord={(row) => takePart(i, row)}
                error={errors.candidates?.[i]?.label?.message}
                placeholder={i === 0 ? 'electric fan' : 'electric fan and thermostat'}
              />
            </div>
            {i > 0 && (
              <button type="button" className="btn" onClick={() => candidates.remove(i)}>
                Remove
              </button>
            )}
          </div>
          <ChangesField
            setup={LETTERS[i]!}
            changes={watch(`candidates.${i}.changes`)}
            declares={watch(`candidates.${i}.declares`)}
            onEdit={(patch) => setValue(`candidates.${i}`, { ...getValues(`candidates.${i}`), ...patch })}
          />
          {watch(`candidates.${i}.changes`)
            .flatMap((c) => (c.kind === 'part-fitted' && c.part !== null ? [c.part] : []))
            .map((part) => (
              <Expected key={part} part={part} />
            ))}
          <label className="flex items-center gap-2">
            <input type="checkbox" {...register(`candidates.${i}.closedCourseOnly`)} />
            Closed course only: can be unlawful on the road
          </label>
        </div>
      ))}
      {candidates.fields.length < LETTERS.length && (
        <button type="button" className="btn justify-self-start" onClick={() => candidates.append(NO_CANDIDATE)}>
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
