import { matters, measureWords } from '@prandel/presentation';
import { CORRECTION_IDS, CORRECTION_NAMES, isCorrectionId, measureName, type Job } from '@prandel/core';
import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import { ask, type Schemas } from '../../api/client.ts';
import { useJob, useJobChange, useUnits } from '../../api/hooks.ts';
import { useJudgement } from '../../judging/useJudgement.ts';
import { Choice } from '../../parts/Choice.tsx';
import { DieselFields } from '../../parts/DieselFields.tsx';
import { EarlyLook } from '../../parts/EarlyLook.tsx';
import { Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';
import { Comparison } from './Comparison.tsx';

const WIDTHS = [
  ['0', 'no averaging'],
  ['100', '100 rpm'],
  ['200', '200 rpm'],
  ['400', '400 rpm'],
] as const;
/** Curves over each other, the verdict beside them, everything recomputed at once when the method changes. */
export function ComparePage() {
  const { id = '' } = useParams();
  const stored = useJob(id);
  const units = useUnits();
  const [method, setMethod] = useState<
    Partial<Pick<Job['method'], 'correction' | 'averagingWidthRpm' | 'compressionIgnition'>>
  >({});
  const saved = stored.data?.job ?? null;
  const job = useMemo(() => saved && { ...saved, method: { ...saved.method, ...method } }, [saved, method]);
  const { judgement, judged, curves, difference, busy, failed, milliseconds, judgeOnce } = useJudgement(id, job);
  const keep = useJobChange<Schemas['JobEdit']>(id, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id } }, body: edit }),
  );
  const parts = useMemo(
    () => (judged && judgement ? { curves, difference, judged, judgement } : null),
    [curves, difference, judged, judgement],
  );
  const { mutate, isPending } = keep;
  const version = stored.data?.version;
  const keepChannels = useMemo(
    () => (isPending || version === undefined ? null : (channels: string[]) => mutate({ version, day: { channels } })),
    [isPending, version, mutate],
  );
  if (stored.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    );
  if (!job || !stored.data || !saved)
    return <div className="progress" role="progressbar" aria-label="Loading the job" />;
  const changed =
    job.method.correction !== saved.method.correction ||
    job.method.averagingWidthRpm !== saved.method.averagingWidthRpm ||
    job.method.compressionIgnition !== saved.method.compressionIgnition;
  const save = () =>
    keep.mutate(
      {
        version: stored.data.version,
        method: {
          ...{ correction: job.method.correction, averagingWidthRpm: job.method.averagingWidthRpm },
          ...(job.method.compressionIgnition ? { compressionIgnition: job.method.compressionIgnition } : {}),
        },
      },
      { onSuccess: () => setMethod({}) },
    );
  return (
    <div className="mx-auto grid max-w-[1280px] gap-2.5 px-4 pt-2.5 pb-4">
      <div className="flex flex-wrap items-center gap-3">
        <div className="min-w-0 flex-1 basis-[420px]">
          <h1>{job.title}</h1>
          <p className="text-ink-2 mt-0.5 text-[12.5px]">
            {job.vehicle.label} · {job.id} ·{' '}
            {job.question.windowRpm ? `agreed over ${job.question.windowRpm.join('–')} rpm: ` : 'no window agreed: '}
            {job.question.measures
              .map(
                (m) =>
                  `${measureWords(measureName(m)).name}, ${matters(measureName(m), m.meaningful, units)} would matter`,
              )
              .join('; ')}
          </p>
        </div>
        <Choice
          label="Correction standard"
          value={job.method.correction}
          options={CORRECTION_IDS.map((c) => [c, CORRECTION_NAMES[c]] as const)}
          onChange={(c) => isCorrectionId(c) && setMethod((m) => ({ ...m, correction: c }))}
        />
        <Choice
          label="Averaging width"
          value={String(job.method.averagingWidthRpm)}
          options={
            WIDTHS.some(([w]) => w === String(job.method.averagingWidthRpm))
              ? WIDTHS.map(([w, words]) => [w as string, words as string] as const)
              : [
                  ...WIDTHS.map(([w, words]) => [w as string, words as string] as const),
                  [String(job.method.averagingWidthRpm), `${job.method.averagingWidthRpm} rpm`] as const,
                ]
          }
          onChange={(w) => setMethod((m) => ({ ...m, averagingWidthRpm: Number(w) }))}
        />
        {changed && (
          <>
            <button className="btn sm" onClick={() => setMethod({})}>
              As it was
            </button>
            <For role="technician">
              <button className="btn sm" disabled={keep.isPending} onClick={save}>
                Keep for the job
              </button>
            </For>
          </>
        )}
        <Link className="btn pri" to={`/jobs/${id}/report`}>
          Report
        </Link>
      </div>
      {job.method.correction === 'iso-1585-ci' && (
        <section className="sheet card" aria-label="Compression ignition">
          <DieselFields
            value={job.method.compressionIgnition ?? null}
            onChange={(engine) => engine && setMethod((m) => ({ ...m, compressionIgnition: engine }))}
          />
        </section>
      )}
      {keep.error && <Notice kind="bad">{keep.error.message}</Notice>}
      <div className="-my-1 h-[2px]">
        {busy && <div className="progress" role="progressbar" aria-label="Judging" />}
      </div>
      {failed && <Notice kind="bad">{failed}</Notice>}
      <EarlyLook job={job} />
      {parts && (
        <div
          data-judged-in={milliseconds === null ? undefined : Math.round(milliseconds)}
          data-method={`${job.method.correction} ${job.method.averagingWidthRpm}`}
          data-busy={busy}
        >
          <Comparison
            key={id}
            {...{ rowId: id, saved, units, parts, judgeOnce }}
            bayId={stored.data.links.bayId}
            onKeepChannels={keepChannels}
          />
        </div>
      )}
    </div>
  );
}
