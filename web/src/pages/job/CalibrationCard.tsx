import type { Bay } from '@prandel/core';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useBays, useJobChange } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { changedRollers, rollerFieldsOf, rollersWrong, type RollerFields } from '../bays/rollerFields.ts';
import { RollerInputs } from '../bays/RollerInputs.tsx';

type Form = RollerFields & { reason: string };

/** The rollers the job was run on as they were calibrated then; what was wrong or missing is corrected with a reason. */
export function CalibrationCard({ stored: { job, rowId, version, links } }: { stored: StoredJob }) {
  const [open, setOpen] = useState(false);
  const { bay } = job;
  const known: [string, string | null][] = [
    ['Rollers', bay.kind],
    ['Roller inertia', bay.rollerInertiaKgM2 === null ? 'not known' : `${bay.rollerInertiaKgM2} kg·m²`],
    ['Loss torque', bay.lossTorqueNm ? `${bay.lossTorqueNm.join('; ')} N·m` : 'not known'],
    ['Read-out', bay.readoutScale === 1 ? 'native' : `× ${bay.readoutScale}`],
    ['Calibrated since', bay.calibrationEpoch],
  ];
  return (
    <section className="sheet card grid gap-2" aria-label="Calibration">
      <div className="flex items-center">
        <h3 className="grow">Calibration{bay.label && ` of ${bay.label}`}</h3>
        {!open && (
          <button className="btn sm" onClick={() => setOpen(true)}>
            Correct
          </button>
        )}
      </div>
      {links.bayId === null && (
        <p className="text-ink-2 text-[12.5px]">
          Another shop’s rollers: they are no bay of this shop, and the job teaches none.
        </p>
      )}
      {open ? (
        <CalibrationForm bay={bay} bayId={links.bayId} rowId={rowId} version={version} onDone={() => setOpen(false)} />
      ) : (
        <dl className="text-ink-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 text-[12.5px] [&_dd]:text-right [&_dd]:text-ink">
          {known.map(
            ([name, value]) =>
              value && (
                <div key={name} className="contents">
                  <dt>{name}</dt>
                  <dd>{value}</dd>
                </div>
              ),
          )}
        </dl>
      )}
    </section>
  );
}

function CalibrationForm({
  bay,
  bayId,
  rowId,
  version,
  onDone,
}: {
  bay: Bay;
  bayId: string | null;
  rowId: string;
  version: number;
  onDone: () => void;
}) {
  const form = useForm<Form>({ defaultValues: { ...rollerFieldsOf(bay), reason: '' } });
  const { register, handleSubmit, formState, setValue } = form;
  const [wrong, setWrong] = useState<string | null>(null);
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const now = useBays().data?.find((b) => b.id === bayId)?.rollers;
  const save = (v: Form) => {
    const problem = rollersWrong(v);
    setWrong(problem);
    if (problem) return;
    const facts = changedRollers(v, (names) => names.some((name) => formState.dirtyFields[name]));
    if (Object.keys(facts).length === 0) return setWrong('Nothing was changed.');
    change.mutate({ version, calibration: { ...facts, reason: v.reason.trim() } }, { onSuccess: onDone });
  };
  const asNow = (rollers: Bay) => {
    for (const [name, value] of Object.entries(rollerFieldsOf(rollers)))
      setValue(name as keyof RollerFields, value as string, { shouldDirty: true });
  };
  return (
    <form
      className="grid gap-2"
      noValidate
      onSubmit={(e) => void handleSubmit(save)(e)}
      aria-label="Correct the calibration"
    >
      <p className="text-ink-2 text-[12.5px]">
        Every pull of this job is worked out anew with it. The bay’s own settings stay as they are.
      </p>
      {now && (
        <button type="button" className="btn sm justify-self-start" onClick={() => asNow(now)}>
          As {bay.label} is set now
        </button>
      )}
      <div className="grid gap-2 sm:grid-cols-2">
        <RollerInputs register={register} />
      </div>
      <Field label="Why it is corrected" hint="Stands in the log." error={formState.errors.reason?.message}>
        <Input {...register('reason', { required: 'Say why.', minLength: { value: 3, message: 'Say why.' } })} />
      </Field>
      {(wrong ?? change.error?.message) && <Notice kind="bad">{wrong ?? change.error?.message}</Notice>}
      <div className="flex justify-end gap-2">
        <button type="button" className="btn sm" onClick={onDone}>
          Cancel
        </button>
        <button className="btn sm pri" disabled={change.isPending}>
          Correct the calibration
        </button>
      </div>
    </form>
  );
}
