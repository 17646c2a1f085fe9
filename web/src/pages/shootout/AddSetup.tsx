import type { Change, DeclarableState, Job } from '@prandel/core';
import { useState } from 'react';
import { ask, type Schemas } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { ChangesField } from '../../parts/ChangesField.tsx';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { RecordField } from '../../parts/RecordField.tsx';
import { fittedPart, NO_CANDIDATE } from '../newJob/jobForm.ts';

/** One more setup: what it is made from and what is changed; costs and hours can be typed now or later. */
export function AddSetup({ rowId, job, onDone }: { rowId: string; job: Job; onDone: () => void }) {
  const plain = job.setups.filter((s) => s.returnsTo === null);
  const [parent, setParent] = useState(job.question.baselineSetup);
  const [own, setOwn] = useState(NO_CANDIDATE);
  const [figures, setFigures] = useState({ partCost: '', labourHours: '' });
  const [cure, setCure] = useState(false);
  const [permanent, setPermanent] = useState(false);
  const add = useJobChange<Schemas['AddedSetup']>(rowId, (body) =>
    ask('post', '/api/jobs/{id}/setups', { params: { path: { id: rowId } }, body }),
  );
  const number = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')));
  const wrong = Object.values(figures).some((text) => text.trim() !== '' && !(Number(text.replace(',', '.')) >= 0));
  const begun = job.pulls.some((p) => p.status === 'counted');
  const save = () => {
    const { label, changes, declares, closedCourseOnly } = own;
    add.mutate(
      {
        parentId: parent,
        ...(label.trim() ? { label: label.trim() } : {}),
        changes: [...changes],
        declares: [...declares],
        closedCourseOnly,
        partCost: number(figures.partCost),
        labourHours: number(figures.labourHours),
        currency: job.money?.currency ?? null,
        ...(cure ? { cure } : {}),
        ...(permanent ? { permanent } : {}),
      },
      { onSuccess: onDone },
    );
  };
  return (
    <section className="sheet card grid gap-2.5" aria-label="Add a setup">
      <h3>Add a setup</h3>
      {begun && (
        <p className="text-ink-2 text-[12.5px]">
          Pulls already count: it will be shown as added on the day. The question and what is judged so far stay as they
          are.
        </p>
      )}
      <div className="grid items-end gap-2.5 sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_110px_110px]">
        <RecordField
          kind="part"
          label="Its name"
          value={own.label}
          onText={(label) => setOwn({ ...own, label })}
          onRecord={(row) => row && setOwn(fittedPart(row, own))}
          placeholder="small crank pulley"
        />
        <Field label="Made from">
          <select className="input" value={parent} onChange={(e) => setParent(e.target.value)}>
            {plain.map((s) => (
              <option key={s.id} value={s.id}>
                {s.id} · {s.label}
              </option>
            ))}
          </select>
        </Field>
        <Field label={`Parts${job.money?.currency ? `, ${job.money.currency}` : ''}`}>
          <Input
            inputMode="decimal"
            value={figures.partCost}
            onChange={(e) => setFigures({ ...figures, partCost: e.target.value })}
          />
        </Field>
        <Field label="Fitting hours">
          <Input
            inputMode="decimal"
            value={figures.labourHours}
            onChange={(e) => setFigures({ ...figures, labourHours: e.target.value })}
          />
        </Field>
      </div>
      <ChangesField
        setup="the new setup"
        changes={own.changes}
        declares={own.declares}
        onEdit={(patch: { changes: Change[]; declares: DeclarableState[] }) => setOwn({ ...own, ...patch })}
      />
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={cure} onChange={(e) => setCure(e.target.checked)} />
        It puts something right that was wrong with the car: a cure, no part
      </label>
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={permanent} onChange={(e) => setPermanent(e.target.checked)} />
        It cannot come off again: whatever runs after it has it on
      </label>
      {wrong && <Notice kind="bad">Costs and hours are numbers such as 190 or 0.75.</Notice>}
      {add.error && <Notice kind="bad">{add.error.message}</Notice>}
      <div className="flex gap-2">
        <button type="button" className="btn pri" disabled={wrong || add.isPending} onClick={save}>
          Add it
        </button>
        <button type="button" className="btn" onClick={onDone}>
          Leave it
        </button>
      </div>
    </section>
  );
}
