import { USUAL_DAY, type Job } from '@prandel/core';
import { useForm } from 'react-hook-form';
import type { Schemas } from '../../api/client.ts';
import { useRecords } from '../../api/hooks.ts';
import { Field, Input } from '../../parts/Field.tsx';

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
  const cards = useRecords('model-card').data?.records ?? [];
  const customers = useRecords('customer').data?.records ?? [];
  const subjects = [...new Set([...SUBJECTS, ...Object.keys(day.intake)])];
  const key = (subject: string) => `i${subjects.indexOf(subject)}`;
  const { register, handleSubmit, formState } = useForm<Form>({
    defaultValues: {
      customer: day.customer ?? '',
      claim: day.claim ?? '',
      card: '',
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
      ...(v.card ? { cardId: v.card } : {}),
    });
  };
  return (
    <form className="grid gap-2" aria-label="Customer, claim and intake" onSubmit={(e) => void handleSubmit(send)(e)}>
      <Field label="Customer">
        <Input list="customers-of-day" {...register('customer')} />
      </Field>
      <datalist id="customers-of-day">
        {customers.map((c) => (
          <option key={c.id} value={c.label} />
        ))}
      </datalist>
      <Field label="Claim that is tested">
        <Input {...register('claim')} />
      </Field>
      <Field label="Model card" hint="Gates, settle pulls and limits follow the card from now on.">
        <select className="input" {...register('card')}>
          <option value="">{day.modelCard.label || 'none'}</option>
          {cards.map((c) => (
            <option key={c.id} value={c.id}>
              {c.label}
              {c.label === day.modelCard.label ? ', as it is now' : ''}
            </option>
          ))}
        </select>
      </Field>
      {subjects.map((subject) => (
        <Field key={subject} label={subject}>
          <Input {...register(`intake.${key(subject)}`)} />
        </Field>
      ))}
      <div className="flex justify-end gap-2">
        <button type="button" className="btn sm" onClick={onCancel}>
          Cancel
        </button>
        <button className="btn sm pri" disabled={pending || !formState.isDirty}>
          Save
        </button>
      </div>
    </form>
  );
}
