import { measureName, type DeclaredMeasure, type Job, type RoadPass } from '@prandel/core';
import { measureWords, ROAD_CAUTION } from '@prandel/presentation';
import { TriangleAlert } from 'lucide-react';
import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJob, useJobChange } from '../../api/hooks.ts';
import { useJudgement } from '../../judging/useJudgement.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { Changeable, useMay } from '../../parts/May.tsx';
import { PassTable } from './PassTable.tsx';
import { RoadCarForm } from './RoadCarForm.tsx';
import { RoadVerdict } from './RoadVerdict.tsx';
import { SpeedLogCard } from './SpeedLogCard.tsx';

const USUAL_SPEEDS = [80, 120] as const;

/** The measure of the passes: what was declared, else between the speeds of the newest pass; `declared` says which. */
function roadMeasure(job: Job, speeds: readonly [number, number]): { measure: DeclaredMeasure; declared: boolean } {
  const own = job.question.measures.find((m) => m.id === 'roadTime');
  if (own) return { measure: own, declared: true };
  return { measure: { id: 'roadTime', fromKmH: speeds[0], toKmH: speeds[1], meaningful: 1 }, declared: false };
}

/** The road check of a job: passes typed or found in a log, their verdict, and the rollers' forecast beside it. */
export function RoadPage() {
  const { id = '' } = useParams();
  const stored = useJob(id);
  if (!stored.data)
    return stored.error ? (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    ) : (
      <div className="progress" role="progressbar" aria-label="Loading the job" />
    );
  return <RoadCheck stored={stored.data} />;
}

function RoadCheck({ stored }: { stored: StoredJob }) {
  const { job, version, rowId } = stored;
  const mayChange = useMay('technician');
  const last = job.roadPasses?.at(-1);
  const [speeds, setSpeeds] = useState<readonly [number, number]>(last ? [last.fromKmH, last.toKmH] : USUAL_SPEEDS);
  const [closed, setClosed] = useState(false);
  const { measure, declared } = roadMeasure(job, speeds);
  // What was not asked is only looked at: it is judged beside what was asked, and gets no word.
  const looked = useMemo<Job>(
    () =>
      declared
        ? job
        : { ...job, question: { ...job.question, measures: [...job.question.measures.slice(0, 2), measure] } },
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the measure is made of these
    [job, declared, speeds],
  );
  const { judgement, judged, failed, busy } = useJudgement(rowId, looked);
  const keep = useJobChange<Partial<Schemas['JobEdit']>>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: { version, ...edit } }),
  );
  const passes = job.roadPasses ?? [];
  const [undo, setUndo] = useState<readonly RoadPass[] | null>(null);
  const put = (list: readonly RoadPass[], before: readonly RoadPass[] | null = null) =>
    keep.mutate({ roadPasses: [...list] }, { onSuccess: () => setUndo(before) });
  const counted = job.pulls.some((p) => p.status === 'counted');
  const directions = [...new Set(passes.map((p) => p.direction))].filter(Boolean);
  const between = [measure.fromKmH!, measure.toKmH!] as const;
  const taking = closed && mayChange;
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-start gap-3">
        <div className="min-w-0 grow">
          <h1>Road check</h1>
          <p className="text-ink-2 mt-0.5">
            {job.title} · {job.vehicle.label}
          </p>
        </div>
        <Link className="btn" to={`/jobs/${rowId}`}>
          The job
        </Link>
        <Link className="btn pri" to={`/jobs/${rowId}/compare`}>
          Compare
        </Link>
      </div>
      {busy && <div className="progress" role="progressbar" aria-label="Judging" />}
      {failed && <Notice kind="bad">{failed}</Notice>}
      {keep.error && <Notice kind="bad">{keep.error.message}</Notice>}
      {!closed && mayChange && (
        <section className="notice flex flex-wrap items-center gap-4 !p-4" aria-label="Before you drive">
          <TriangleAlert size={26} aria-hidden className="text-wait shrink-0" />
          <p className="min-w-0 flex-1 basis-[380px] text-[15px] leading-snug">{ROAD_CAUTION}</p>
          <button className="btn pri min-h-[44px] px-6 text-[15px]" onClick={() => setClosed(true)}>
            The course is closed
          </button>
        </section>
      )}
      {!declared && (
        <section className="sheet card flex flex-wrap items-end gap-3" aria-label="Speeds">
          <Field label="From, km/h">
            <Input
              className="!w-[90px]"
              inputMode="numeric"
              defaultValue={speeds[0]}
              onBlur={(e) => setSpeeds([Number(e.target.value) || speeds[0], speeds[1]])}
            />
          </Field>
          <Field label="To, km/h">
            <Input
              className="!w-[90px]"
              inputMode="numeric"
              defaultValue={speeds[1]}
              onBlur={(e) => setSpeeds([speeds[0], Number(e.target.value) || speeds[1]])}
            />
          </Field>
          <p className="text-ink-2 min-w-0 flex-1 basis-[300px] text-[12.5px]">
            The question does not ask for the time on the road, so passes are shown with their interval and without a
            verdict.{' '}
            {counted ? (
              <>
                It froze at the first counted pull;{' '}
                <Link className="underline" to={`/jobs/${rowId}`}>
                  amend it
                </Link>{' '}
                with a reason if the road is to decide too.
              </>
            ) : job.question.measures.length >= 3 ? (
              'It already has three measures.'
            ) : (
              'Ask now, before the first counted pull:'
            )}
          </p>
          {!counted && job.question.measures.length < 3 && (
            <button
              className="btn"
              disabled={keep.isPending || !mayChange}
              onClick={() =>
                keep.mutate({
                  question: { measures: [...job.question.measures, measure] as Schemas['MeasureDto'][] },
                })
              }
            >
              Ask for {between.join(' to ')} km/h too
            </button>
          )}
        </section>
      )}
      <div className="grid items-start gap-3 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_430px]">
        <div className="grid min-w-0 gap-3">
          <PassTable
            job={job}
            between={between}
            passes={passes}
            directions={directions}
            taking={taking}
            busy={keep.isPending}
            onAdd={(pass) => put([...passes, pass])}
            onRemove={(at) =>
              put(
                passes.filter((_, i) => i !== at),
                passes,
              )
            }
            undo={undo ? () => put(undo) : null}
          />
          {taking && (
            <SpeedLogCard
              rowId={rowId}
              job={job}
              between={between}
              directions={directions}
              busy={keep.isPending}
              onKeep={(found) => put([...passes, ...found], passes)}
            />
          )}
        </div>
        <aside className="grid min-w-0 gap-3">
          {judgement &&
            judged &&
            judged.question.candidateSetups.map((candidate) => {
              const v = judgement.verdicts.find((x) => x.candidate === candidate && x.measure === measureName(measure));
              return v ? (
                <RoadVerdict
                  key={candidate}
                  {...{ judgement, v, measure, declared }}
                  job={{ ...judged, ...(job.road ? { road: job.road } : {}) }}
                />
              ) : null;
            })}
          <Changeable>
            <RoadCarForm
              key={JSON.stringify(job.road)}
              job={job}
              busy={keep.isPending}
              onKeep={(road) => keep.mutate({ road })}
            />
          </Changeable>
        </aside>
      </div>
      <p className="text-ink-3 text-[12px]">
        {`${measureWords(measureName(measure)).name.charAt(0).toUpperCase()}${measureWords(measureName(measure)).name.slice(1)}. `}
        Each direction has a level of its own, so wind and slope of one way do not pass for a gain.
      </p>
    </div>
  );
}
