import { implausible, type Job, type PlausibleQuantity, type RoadCar } from '@prandel/core';
import { useForm } from 'react-hook-form';
import { Field, Input } from '../../parts/Field.tsx';

interface Form {
  massKg: string;
  overallRatio: string;
  tyreRadiusM: string;
  dragAreaM2: string;
  rolling: string;
}

/** A usual rolling coefficient of a car's tyre; value from memory, a setting. */
const USUAL_ROLLING = 0.012;

const number = (text: string) => (text.trim() === '' ? NaN : Number(text.replace(',', '.')));
const fits = (quantity: PlausibleQuantity) => (text: string) => implausible(quantity, number(text)) ?? true;

/** What the forecast from the rollers needs of the car; without a drag area it is fitted to the baseline's passes. */
export function RoadCarForm({ job, busy, onKeep }: { job: Job; busy: boolean; onKeep: (road: RoadCar) => void }) {
  const { road, vehicle } = job;
  const { register, handleSubmit, formState } = useForm<Form>({
    defaultValues: {
      massKg: String(road?.massKg ?? vehicle.massKg ?? ''),
      overallRatio: String(road?.overallRatio ?? ''),
      tyreRadiusM: String(road?.tyreRadiusM ?? ''),
      dragAreaM2: String(road?.dragAreaM2 ?? ''),
      rolling: String(road?.rolling ?? USUAL_ROLLING),
    },
  });
  const { errors } = formState;
  const save = handleSubmit((typed) =>
    onKeep({
      massKg: number(typed.massKg),
      overallRatio: number(typed.overallRatio),
      tyreRadiusM: number(typed.tyreRadiusM),
      dragAreaM2: typed.dragAreaM2.trim() === '' ? null : number(typed.dragAreaM2),
      rolling: number(typed.rolling),
    }),
  );
  return (
    <form className="sheet card grid grid-cols-2 gap-2" aria-label="The car on the road" onSubmit={(e) => void save(e)}>
      <h3 className="col-span-2">The car on the road, for the forecast</h3>
      <Field label="Mass as driven, kg" error={errors.massKg?.message}>
        <Input inputMode="decimal" {...register('massKg', { validate: fits('massKg') })} />
      </Field>
      <Field label="Gear × final drive" error={errors.overallRatio?.message}>
        <Input
          inputMode="decimal"
          placeholder="4.1"
          {...register('overallRatio', { validate: fits('overallRatio') })}
        />
      </Field>
      <Field label="Rolling radius, m" error={errors.tyreRadiusM?.message}>
        <Input inputMode="decimal" placeholder="0.31" {...register('tyreRadiusM', { validate: fits('tyreRadiusM') })} />
      </Field>
      <Field label="Drag area, m² (empty: fitted)" error={errors.dragAreaM2?.message}>
        <Input
          inputMode="decimal"
          placeholder="fitted"
          {...register('dragAreaM2', { validate: (text) => text.trim() === '' || fits('dragAreaM2')(text) })}
        />
      </Field>
      <Field label="Rolling coefficient" error={errors.rolling?.message}>
        <Input inputMode="decimal" {...register('rolling', { validate: fits('rolling') })} />
      </Field>
      <div className="flex items-end justify-end">
        <button className="btn" disabled={busy}>
          Keep the car
        </button>
      </div>
    </form>
  );
}
