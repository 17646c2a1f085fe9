import { STATE_FIELDS, STATE_LABELS, stateRows, type Setup } from '@prandel/core';
import { useState } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { Badge } from '../../parts/marks.tsx';
import { setupEdit } from './setupEdit.ts';
import { SetupDetails } from './SetupDetails.tsx';
import { TuneDigest } from './TuneDigest.tsx';

/** The recorded state of every setup beside each other: what differs, and whether it was declared. */
export function StateTable({ stored: { job, version, rowId } }: { stored: StoredJob }) {
  const [draft, setDraft] = useState<Setup[] | null>(null);
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const setups = draft ?? job.setups;
  const shownJob = { ...job, setups };
  const differing = new Map(
    job.question.candidateSetups.flatMap((c) =>
      stateRows(shownJob, c, [], []).map((row) => [`${c}:${row.key}`, row.status] as const),
    ),
  );
  const edit = (id: string, patch: Partial<Setup>) =>
    setDraft((now) => (now ?? [...job.setups]).map((s) => (s.id === id ? { ...s, ...patch } : s)));
  const save = () =>
    draft &&
    change.mutate(
      {
        version,
        setups: draft.flatMap(
          (s) =>
            setupEdit(
              job.setups.find((old) => old.id === s.id)!,
              s,
            ) ?? [],
        ),
      },
      { onSuccess: () => setDraft(null) },
    );
  return (
    <section className="sheet card" aria-label="State of the setups">
      <div className="flex items-center gap-2">
        <h3 className="grow">State of each setup</h3>
        {draft ? (
          <>
            <button className="btn sm" onClick={() => setDraft(null)}>
              Cancel
            </button>
            <button className="btn sm pri" disabled={change.isPending} onClick={save}>
              Save
            </button>
          </>
        ) : (
          <button className="btn sm" onClick={() => setDraft([...job.setups])}>
            Edit
          </button>
        )}
      </div>
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
      <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="State table">
        <table className="table mt-1">
          <thead>
            <tr>
              <th>
                <span className="sr-only">State</span>
              </th>
              {setups.map((s) => (
                <th key={s.id}>
                  <Badge id={s.id} setups={setups} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {STATE_FIELDS.map((key) => (
              <tr key={key}>
                <td className="text-ink-2 whitespace-nowrap">{STATE_LABELS[key]}</td>
                {setups.map((s) => {
                  const status = differing.get(`${s.id}:${key}`);
                  return (
                    <td
                      key={s.id}
                      className={
                        status === 'differs' ? 'text-act font-[620]' : status === 'declared' ? 'font-[620]' : ''
                      }
                    >
                      {draft ? (
                        <input
                          className="input !min-h-[26px] min-w-[64px] !px-1.5 !py-0.5 text-[12px]"
                          aria-label={`${STATE_LABELS[key]} of ${s.id}`}
                          value={s.state[key] ?? ''}
                          onChange={(e) => edit(s.id, { state: { ...s.state, [key]: e.target.value } })}
                        />
                      ) : (
                        <span className="break-words">{s.state[key] ?? '–'}</span>
                      )}
                      {draft && key === 'tuneDigest' && (
                        <TuneDigest
                          label={`Tune file of ${s.id}`}
                          onDigest={(digest) => edit(s.id, { state: { ...s.state, tuneDigest: digest } })}
                        />
                      )}
                      {status === 'differs' && <div className="text-[11px]">differs, not declared</div>}
                      {status === 'declared' && <div className="text-ink-2 text-[11px]">declared change</div>}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {draft &&
        setups
          .filter((s) => s.id !== job.question.baselineSetup && !s.returnsTo)
          .map((s) => <SetupDetails key={s.id} setup={s} onEdit={(patch) => edit(s.id, patch)} />)}
      <p className="text-ink-3 mt-1.5 text-[11.5px]">
        A state that differs and is not a declared change makes the pair not comparable; one that nobody recorded never
        counts as different.
      </p>
    </section>
  );
}
