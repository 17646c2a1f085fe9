import { matters, measureWords } from '@prandel/presentation';
import { measureName, type Judgement } from '@prandel/core';
import { Controller, useForm } from 'react-hook-form';
import { Fragment, useState } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange, useUnits } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { MeasuresField, measuresOf, rowsOf, rowsProblem, type MeasureRow } from '../../parts/MeasuresField.tsx';

interface Form {
  text: string;
  low: string;
  high: string;
  measures: MeasureRow[];
  cooling: boolean;
  amendment: string;
}

/** What is to be decided, fixed before the first counted pull; a later change is written into the job's log. */
export function QuestionCard({
  stored: { job, version, rowId },
  judgement,
}: {
  stored: StoredJob;
  judgement: Judgement | null;
}) {
  const { question } = job;
  const units = useUnits();
  const [editing, setEditing] = useState(false);
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const form = useForm<Form>({
    values: {
      text: question.text || job.title,
      low: String(question.windowRpm?.[0] ?? ''),
      high: String(question.windowRpm?.[1] ?? ''),
      measures: rowsOf(question.measures),
      cooling: question.partChangesIntakeTemperature,
      amendment: '',
    },
  });
  const recorded =
    judgement && job.pulls.length > 0
      ? [...new Set(judgement.pulls.flatMap((p) => p.readings.channels.map(({ name }) => name)))]
      : null;
  const counted = job.pulls.some((p) => p.status === 'counted');
  const save = (v: Form) => {
    const window = v.low && v.high ? [Number(v.low), Number(v.high)] : null;
    const { baselineSetup, candidateSetups } = question;
    change.mutate(
      {
        version,
        ...(v.amendment.trim() ? { amendment: v.amendment } : {}),
        question: {
          text: v.text,
          baselineSetup,
          candidateSetups: [...candidateSetups],
          measures: measuresOf(v.measures, question.measures),
          windowRpm: window,
          partChangesIntakeTemperature: v.cooling,
        },
      },
      { onSuccess: () => setEditing(false) },
    );
  };
  return (
    <section className="sheet card grid gap-2" aria-label="The question">
      <div className="flex items-center">
        <h3 className="grow">The question</h3>
        {!editing && (
          <button className="btn sm" onClick={() => setEditing(true)}>
            {counted ? 'Amend' : 'Edit'}
          </button>
        )}
      </div>
      {!editing ? (
        <>
          <p className="text-[14px] leading-snug">{question.text || job.title}</p>
          <dl className="text-ink-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 text-[12.5px] [&_dd]:text-right [&_dd]:text-ink">
            <dt>Compared</dt>
            <dd>
              {question.candidateSetups.length > 0
                ? `${question.candidateSetups.join(', ')} against ${question.baselineSetup}`
                : 'nothing: a commissioning day'}
            </dd>
            <dt>Agreed window</dt>
            <dd>{question.windowRpm ? `${question.windowRpm.join('–')} rpm` : 'not declared'}</dd>
            {question.measures.map((m, i) => (
              <Fragment key={measureName(m)}>
                <dt>{i === 0 ? (question.measures.length > 1 ? 'Measures' : 'Measure') : ''}</dt>
                <dd>
                  {measureWords(measureName(m)).name}, {matters(measureName(m), m.meaningful, units)} would matter
                </dd>
              </Fragment>
            ))}
            <dt>Plan</dt>
            <dd>
              {question.plan.length > 0
                ? question.plan.map((s) => `${s.setup} ${s.settle}+${s.counted}`).join(', ')
                : 'none written down'}
            </dd>
            {question.partChangesIntakeTemperature && (
              <>
                <dt>Intake air</dt>
                <dd>the part is meant to change it</dd>
              </>
            )}
          </dl>
          {job.day?.amendments?.map(({ at, who, reason, what }) => (
            <Notice key={at}>
              Amended by {who} on {at.slice(0, 10)}, after the first counted pull: {what}. Reason: {reason}.
            </Notice>
          ))}
        </>
      ) : (
        <form className="grid gap-2" onSubmit={(e) => void form.handleSubmit(save)(e)}>
          {counted && (
            <>
              <Notice>
                The question froze at the first counted pull. A change is shown as an amendment with its reason.
              </Notice>
              <Field label="Why it is amended">
                <Input {...form.register('amendment')} />
              </Field>
            </>
          )}
          <Field label="What is to be decided">
            <textarea className="input" rows={3} {...form.register('text', { required: true })} />
          </Field>
          <Controller
            control={form.control}
            name="measures"
            rules={{ validate: (rows) => rowsProblem(rows) ?? true }}
            render={({ field }) => (
              <MeasuresField rows={field.value} recorded={recorded} units={units} onEdit={field.onChange} />
            )}
          />
          <div className="grid grid-cols-2 gap-2">
            <Field label="From, rpm">
              <Input inputMode="numeric" {...form.register('low')} />
            </Field>
            <Field label="To, rpm">
              <Input inputMode="numeric" {...form.register('high')} />
            </Field>
          </div>
          <label className="flex items-center gap-2">
            <input type="checkbox" {...form.register('cooling')} />
            The part is meant to change intake air
          </label>
          {change.error && <Notice kind="bad">{change.error.message}</Notice>}
          <div className="flex justify-end gap-2">
            <button
              type="button"
              className="btn sm"
              onClick={() => {
                form.reset();
                setEditing(false);
              }}
            >
              Cancel
            </button>
            <button className="btn sm pri" disabled={change.isPending}>
              Save
            </button>
          </div>
        </form>
      )}
    </section>
  );
}
