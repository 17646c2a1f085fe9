import type { Job, Judgement } from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { X } from 'lucide-react';
import { useState } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { judge } from '../../judging/judge.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';

const MOST = 8;

/** Curves of another job, judged here for their means alone. */
function curvesOf(rowId: string, job: Job): Promise<Judgement> {
  return new Promise((done, failed) => {
    const stop = judge(
      `reference ${rowId}`,
      rowId,
      job,
      ({ judgement }) => {
        stop();
        done(judgement);
      },
      failed,
    );
  });
}

/** Curves of other jobs laid under this one's: grey, named, never compared. */
export function ReferencesCard({ stored: { rowId, version }, job }: { stored: StoredJob; job: Job }) {
  const [q, setQ] = useState('');
  const [failed, setFailed] = useState('');
  const found = useQuery({
    queryKey: ['jobs', 'reference', q],
    queryFn: () => ask('get', '/api/jobs', { params: { query: { q } } }),
    enabled: q.trim().length >= 3,
  });
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const kept = job.references ?? [];
  const asDto = (list: typeof kept) => list.map((r) => ({ ...r, values: [...r.values] }));
  const take = async (id: string) => {
    try {
      const other = await ask('get', '/api/jobs/{id}', { params: { path: { id } } });
      const judgement = await curvesOf(id, other.job);
      const setupId = other.job.question.baselineSetup;
      const own = judgement.setups.find((s) => s.setupId === setupId && s.power.values.length > 1);
      if (!own) throw new Error(`Setup ${setupId} of ${other.job.id} has no curve.`);
      const known = Array.from(own.power.values);
      const first = known.findIndex(Number.isFinite);
      const last = known.findLastIndex(Number.isFinite);
      const pull = judgement.pulls.find((p) => p.setupId === setupId && p.used);
      const at = other.job.pulls.find((p) => p.id === pull?.id)?.startedAt ?? null;
      const label = other.job.setups.find((s) => s.id === setupId)?.label ?? setupId;
      const curve = {
        name: `${other.job.vehicle.label || other.job.title}, ${label} (${other.job.id})`.slice(0, 200),
        ...{ at, bay: other.job.bay.label },
        correction: pull?.factor == null ? null : other.job.method.correction,
        first: own.power.first + first,
        values: known.slice(first, last + 1).map((v) => (Number.isFinite(v) ? Math.round(v) : 0)),
      };
      change.mutate({ version, references: [...asDto(kept), curve] }, { onSuccess: () => setQ('') });
      setFailed('');
    } catch (error) {
      setFailed((error as Error).message);
    }
  };
  return (
    <section className="sheet card grid gap-2" aria-label="Reference curves">
      <h3>Curves laid under the comparison</h3>
      <p className="text-ink-2 text-[12.5px]">
        A curve of another job, day or car, drawn grey and dashed on Compare with its name. It is not compared and
        enters no number.
      </p>
      {kept.map((r, i) => (
        <div key={`${r.name} ${i}`} className="flex items-center gap-2 text-[13px]">
          <svg width="26" height="8" aria-hidden>
            <line x1="0" x2="26" y1="4" y2="4" stroke="var(--ink-3)" strokeWidth="2" strokeDasharray="4 3" />
          </svg>
          <span className="grow">
            {r.name} · {r.at ? r.at.slice(0, 10) : 'no date'} · {r.bay || 'another bay'}
          </span>
          <For role="technician">
            <button
              type="button"
              className="btn sm"
              aria-label={`Take ${r.name} away`}
              onClick={() => change.mutate({ version, references: asDto(kept.filter((_, k) => k !== i)) })}
            >
              <X size={14} aria-hidden />
            </button>
          </For>
        </div>
      ))}
      <For role="technician">
        {kept.length < MOST && (
          <Field
            label="Lay the baseline of another job under it"
            hint="Number, car, question or part; three letters at least"
          >
            <Input value={q} onChange={(e) => setQ(e.target.value)} />
          </Field>
        )}
        {found.data && q.trim().length >= 3 && (
          <ul className="grid gap-1">
            {found.data.jobs
              .filter((row) => row.id !== rowId && row.pulls > 0)
              .slice(0, 6)
              .map((row) => (
                <li key={row.id}>
                  <button
                    type="button"
                    className="btn sm"
                    disabled={change.isPending}
                    onClick={() => void take(row.id)}
                  >
                    {row.number} · {row.vehicle} · {row.title}
                  </button>
                </li>
              ))}
            {found.data.jobs.length === 0 && <li className="text-ink-2">No job with these words.</li>}
          </ul>
        )}
      </For>
      {failed && <Notice kind="bad">{failed}</Notice>}
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
    </section>
  );
}
