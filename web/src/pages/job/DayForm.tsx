import { USUAL_DAY, type Job } from '@prandel/core';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import type { Schemas } from '../../api/client.ts';
import { Field, Input } from '../../parts/Field.tsx';
import { RecordField, type RecordRow } from '../../parts/RecordField.tsx';

type DayEdit = NonNullable<Schemas['JobEdit']['day']>;

/** What is asked of a car when it comes in. */
const SUBJECTS = ['Tune', 'Controller', 'Tyres', 'Oil', 'Parts already fitted', 'Small losses found'] as const;

/** Who brought the car, the claim, what was recorded at intake, and how its model is run. */
export function DayFacts({ job, onEdit }: { job: Job; onEdit: () => void }) {
  const day = job.day ?? USUAL_DAY;
  const { label, gear } = day.modelCard;
  const rows: [string, string | null][] = [
    ['Customer', day.customer],
    ['Claim', day.claim],
    ...Object.entries(day.intake),
    ['Model card', label ? `${label}${gear ? `, gear ${gear}` : ''}` : null],
    ['Method', job.method.name ?? 'usual tolerances'],
  ];
  return (
    <>
      <dl className="text-ink-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 text-[12.5px] [&_dd]:text-right [&_dd]:text-ink">
        {rows
          .filter(([, value]) => value)
          .map(([key, value]) => (
            <div key={key} className="contents">
              <dt>{key}</dt>
              <dd>{value}</dd>
            </div>
          ))}
      </dl>
      <button className="btn sm justify-self-start" onClick={onEdit}>
        Edit customer, claim and intake
      </button>
    </>
  );
}

interface Form {
  customer: string;
  claim: string;
  card: string;
  intake: Record<string, string>;
}

/** Edits them; only what was changed is sent. */
export function DayForm({
  job,
  pending,
  onSave,
  onCancel,
}: {
  job: Job;
  pending: boolean;
  onSave: (edit: DayEdit) => void;
  onCancel: () => void;
}) {
  const day = job.day ?? USUAL_DAY;
  const [card, setCard] = useState<RecordRow | null>(null);
  // The card of the same name may have changed since: chosen anew, the job follows it as it is now.
  const [again, setAgain] = useState(false);
  const subjects = [...new Set([...SUBJECTS, ...Object.keys(day.intake)])];
  const key = (subject: string) => `i${subjects.indexOf(subject)}`;
  const { register, handleSubmit, formState, watch, setValue } = useForm<Form>({
    defaultValues: {
      customer: day.customer ?? '',
      claim: day.claim ?? '',
      card: day.modelCard.label,
      intake: Object.fromEntries(subjects.map((s) => [key(s), day.intake[s] ?? ''])),
    },
  });
  const send = (v: Form) => {
    const { dirtyFields } = formState;
    const intake = subjects
      .filter((s) => dirtyFields.intake?.[key(s)])
      .map((s) => [s, v.intake[key(s)] ?? ''] as const);
    onSave({
      ...(dirtyFields.customer ? { customer: v.customer.trim() || null } : {}),
      ...(dirtyFields.claim ? { claim: v.claim.trim() || null } : {}),
      ...(intake.length > 0 ? { intake: Object.fromEntries(intake) } : {}),
      ...((dirtyFields.card || again) && card ? { cardId: card.id } : {}),
    });
  };
  return (
    <form className="grid gap-2" aria-label="Customer, claim and intake" onSubmit={(e) => void handleSubmit(send)(e)}>
      <RecordField
        kind="customer"
        label="Customer"
        value={watch('customer')}
        onText={(text) => setValue('customer', text, { shouldDirty: true })}
        onRecord={() => undefined}
      />
      <Field label="Claim that is tested">
        <Input {...register('claim')} />
      </Field>
      <RecordField
        kind="model-card"
        label="Model card"
        hint="Gates, settle pulls and limits follow the card from now on."
        value={watch('card')}
        onText={(text) => setValue('card', text, { shouldDirty: true })}
        onRecord={(record, fromList) => {
          setCard(record);
          setAgain(fromList);
        }}
        error={formState.dirtyFields.card && !card ? 'There is no model card of this name.' : undefined}
      />
      {subjects.map((subject) => (
        <Field key={subject} label={subject}>
          <Input {...register(`intake.${key(subject)}`)} />
        </Field>
      ))}
      <div className="flex justify-end gap-2">
        <button type="button" className="btn sm" onClick={onCancel}>
          Cancel
        </button>
        <button className="btn sm pri" disabled={pending || !(formState.isDirty || again)}>
          Save
        </button>
      </div>
    </form>
  );
}
