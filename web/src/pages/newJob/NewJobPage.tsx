import { useMutation } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useForm } from 'react-hook-form';
import { useNavigate } from 'react-router';
import { ask, queries } from '../../api/client.ts';
import { useBays } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import type { RecordRow } from '../../parts/RecordField.tsx';
import { droppedWaiting } from '../../parts/droppedFiles.ts';
import { IntakeFields } from './IntakeFields.tsx';
import {
  broughtBy,
  DROPPED_FORM,
  EMPTY_FORM,
  newRecords,
  NOTHING_CHOSEN,
  requestOf,
  type ChosenRecords,
  type JobForm,
} from './jobForm.ts';
import { QuestionFields } from './QuestionFields.tsx';
import { SetupFields } from './SetupFields.tsx';
import { VehicleFields } from './VehicleFields.tsx';

/** The question, the vehicle and its setups, written down before the first counted pull. */
export function NewJobPage() {
  const go = useNavigate();
  const [waiting] = useState(droppedWaiting);
  const form = useForm<JobForm>({ defaultValues: waiting > 0 ? DROPPED_FORM : EMPTY_FORM });
  const bays = useBays().data ?? [];
  const firstBay = bays[0]?.label;
  useEffect(() => {
    // The shop's own bay, until somebody types another.
    if (firstBay && !form.formState.dirtyFields.bay) form.resetField('bay', { defaultValue: firstBay });
  }, [firstBay, form]);
  const [chosen, setChosen] = useState(NOTHING_CHOSEN);
  const choose = (part: Partial<ChosenRecords>) => setChosen((before) => ({ ...before, ...part }));
  const open = useMutation({
    mutationFn: async ({ form: v }: { form: JobForm; next: 'import' | 'plan' | 'day' }) => {
      const request = requestOf(v, chosen);
      let vehicleId = request.vehicleId;
      // On record first, so that the job belongs to its car; one that cannot be added is no reason not to open the job.
      for (const body of newRecords(v, chosen)) {
        const made = await ask('post', '/api/records', { body }).catch(() => undefined);
        if (body.kind === 'vehicle') vehicleId = made?.id;
      }
      return ask('post', '/api/jobs', { body: { ...request, ...(vehicleId ? { vehicleId } : {}) } });
    },
    onSuccess: async ({ id }, { next }) => {
      await Promise.all(['jobs', 'records'].map((key) => queries.invalidateQueries({ queryKey: [key] })));
      await go(`/jobs/${id}/${next}`);
    },
  });
  const takeVehicle = (vehicle: RecordRow | null) => {
    choose({ vehicle });
    if (vehicle) for (const [name, value] of broughtBy(vehicle)) form.setValue(name, value);
  };
  return (
    <form
      className="mx-auto grid max-w-[1080px] gap-3 p-4"
      noValidate
      onSubmit={(e) => void form.handleSubmit((v) => open.mutate({ form: v, next: waiting > 0 ? 'day' : 'import' }))(e)}
    >
      <h1>New job</h1>
      {waiting > 0 && (
        <Notice kind="plain">
          {waiting} {waiting === 1 ? 'file waits' : 'files wait'}. Write the question; they are laid out next. What else
          you know of the car can be said now or later.
        </Notice>
      )}
      <QuestionFields form={form} />
      <div className="grid gap-3 md:grid-cols-2">
        <SetupFields form={form} />
        <VehicleFields form={form} onVehicle={takeVehicle} />
      </div>
      <IntakeFields form={form} onChosen={choose} />
      <datalist id="bays">
        {bays.map((b) => (
          <option key={b.id} value={b.label} />
        ))}
      </datalist>
      {open.error && <Notice kind="bad">{open.error.message}</Notice>}
      <div className="flex justify-end gap-2">
        <button
          type="button"
          className="btn min-h-[38px] px-6"
          disabled={open.isPending}
          onClick={() => void form.handleSubmit((v) => open.mutate({ form: v, next: 'plan' }))()}
        >
          Open the job and plan the day
        </button>
        <button className="btn pri min-h-[38px] px-6" disabled={open.isPending}>
          {waiting > 0
            ? `Open the job and lay out ${waiting} ${waiting === 1 ? 'file' : 'files'}`
            : 'Open the job and import pulls'}
        </button>
      </div>
    </form>
  );
}
