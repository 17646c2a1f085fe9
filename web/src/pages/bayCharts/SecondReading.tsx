import { useMutation } from '@tanstack/react-query';
import { useForm } from 'react-hook-form';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';

interface Form {
  own: string;
  other: string;
  source: Schemas['NewSecondReading']['source'];
}

const number = (text: string) => Number(text.replace(',', '.'));
const pressure = (text: string) => (number(text) >= 500 && number(text) <= 1100) || 'A pressure in hPa, 500 to 1100.';

/** A reading beside the station: of another instrument in the bay, or what the nearest airport tells. */
export function SecondReading({ bay, elevationM }: { bay: string; elevationM: number | null }) {
  const { register, handleSubmit, reset, formState, watch } = useForm<Form>({
    defaultValues: { own: '', other: '', source: 'instrument' },
  });
  const { errors } = formState;
  const keep = useMutation({
    mutationFn: ({ own, other, source }: Form) =>
      ask('post', '/api/bays/{id}/charts/second', {
        params: { path: { id: bay } },
        body: { source, ownHpa: number(own), otherHpa: number(other) },
      }),
    onSuccess: () => reset(),
    onSettled: () =>
      Promise.all(['bay-charts', 'bay-signals'].map((key) => queries.invalidateQueries({ queryKey: [key] }))),
  });
  const airport = watch('source') === 'airport';
  return (
    <For role="technician">
      <form
        className="flex flex-wrap items-start gap-3"
        noValidate
        onSubmit={(e) => void handleSubmit((v) => keep.mutate(v))(e)}
      >
        <Field label="Held against">
          <select className="input" {...register('source')}>
            <option value="instrument">a second instrument in the bay</option>
            <option value="airport">the QNH of the nearest airport</option>
          </select>
        </Field>
        <div className="w-[170px]">
          <Field label="The bay’s station, hPa" error={errors.own?.message}>
            <Input inputMode="decimal" {...register('own', { validate: pressure })} />
          </Field>
        </div>
        <div className="w-[170px]">
          <Field label={airport ? 'QNH, hPa' : 'The other one, hPa'} error={errors.other?.message}>
            <Input inputMode="decimal" {...register('other', { validate: pressure })} />
          </Field>
        </div>
        <button className="btn mt-[21px]" disabled={keep.isPending}>
          Keep the reading
        </button>
        {airport && (
          <span className="text-ink-2 mt-[26px]">
            {elevationM === null ? 'The bay’s elevation is not known.' : `Brought to the bay’s ${elevationM} m.`}
          </span>
        )}
      </form>
      {keep.error && <Notice kind="bad">{keep.error.message}</Notice>}
    </For>
  );
}
