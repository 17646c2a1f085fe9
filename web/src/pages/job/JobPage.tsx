import { dayTrackSvg, nextStep, resultSentence, verdictReasonWords } from '@prandel/presentation';
import type { Job } from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { Download, Gauge, Import } from 'lucide-react';
import { useMemo } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { ask } from '../../api/client.ts';
import type { BayListed } from '../../api/client.ts';
import { useBays, useJob, useUnits } from '../../api/hooks.ts';
import { useJudgement } from '../../judging/useJudgement.ts';
import { DropFiles } from '../../parts/DropFiles.tsx';
import { Notice } from '../../parts/Field.tsx';
import { Badge, VerdictTag } from '../../parts/marks.tsx';
import { EarlyLook } from '../../parts/EarlyLook.tsx';
import { useCompareAhead } from '../compare/comparePageAhead.ts';
import { keepDropped } from '../../parts/droppedFiles.ts';
import { BaselineCard } from './BaselineCard.tsx';
import { CalibrationCard } from './CalibrationCard.tsx';
import { DayCard } from './DayCard.tsx';
import { EvidenceCard } from './EvidenceCard.tsx';
import { LoggersCard } from './LoggersCard.tsx';
import { PullTable } from './PullTable.tsx';
import { QuestionCard } from './QuestionCard.tsx';
import { StateTable } from './StateTable.tsx';
import { SearchCard } from '../faults/SearchCard.tsx';
import { SealCard } from '../seal/SealCard.tsx';
import { Changeable, For, useMay } from '../../parts/May.tsx';

/** A job: its question, the states of its setups, every pull with its findings. */
export function JobPage() {
  const { id = '' } = useParams();
  const go = useNavigate();
  const stored = useJob(id);
  const units = useUnits();
  const bays = useBays();
  const job = stored.data?.job ?? null;
  // Pulls of two bays are never compared: a job that was begun on one goes on there or nowhere.
  const fits = (b: BayListed) => !b.job && (job?.pulls.length === 0 || b.id === stored.data?.links.bayId);
  const bay = bays.data?.find((b) => b.job === id) ?? bays.data?.find(fits) ?? null;
  const { judgement, failed, busy } = useJudgement(id, job);
  useCompareAhead();
  const mayChange = useMay('technician');
  const log = useQuery({
    queryKey: ['log', id],
    queryFn: () => ask('get', '/api/jobs/{id}/log', { params: { path: { id } } }),
  });
  const files = useQuery({
    queryKey: ['files', id],
    queryFn: () => ask('get', '/api/jobs/{id}/files', { params: { path: { id } } }),
  });
  const track = useMemo(() => (job && judgement ? dayTrackSvg(job, judgement, 1216, 11) : ''), [job, judgement]);
  if (stored.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    );
  if (!job || !stored.data) return <div className="progress" role="progressbar" aria-label="Loading the job" />;
  const page = (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-start gap-3">
        <div className="min-w-0 grow">
          <h1>{job.title}</h1>
          <p className="text-ink-2 mt-0.5">{subtitle(job)}</p>
        </div>
        {bay && (bay.job === id || mayChange) && (
          <Link className="btn" to={bay.job === id ? `/bays/${bay.id}` : `/bays/${bay.id}?job=${id}`}>
            <Gauge size={15} aria-hidden />
            {bay.job === id ? 'Run sheet' : `Put it on ${bay.label}`}
          </Link>
        )}
        <a className="btn" href={`/api/jobs/${id}/package`}>
          <Download size={15} aria-hidden />
          Export package
        </a>
        <For role="technician">
          <Link className="btn" to={`/jobs/${id}/import`}>
            <Import size={15} aria-hidden />
            Import pulls
          </Link>
        </For>
        <Link className="btn pri" to={`/jobs/${id}/compare`}>
          Compare
        </Link>
      </div>
      {busy && <div className="progress" role="progressbar" aria-label="Judging" />}
      {failed && <Notice kind="bad">{failed}</Notice>}
      <EarlyLook job={job} />
      {job.pulls.length === 0 && (
        <div className="sheet p-8 text-center text-[15px]">
          No pulls yet.{' '}
          <For role="technician">
            <Link className="underline" to={`/jobs/${id}/import`}>
              Import the files of setup {job.question.baselineSetup}
            </Link>{' '}
            first, or drop{' '}
            <Link className="underline" to={`/jobs/${id}/day`}>
              a whole day of files
            </Link>{' '}
            here.
          </For>
        </div>
      )}
      {judgement && job.pulls.length > 0 && (
        <section className="sheet card grid gap-2" aria-label="Verdicts">
          {judgement.verdicts.map((v) => (
            <div key={`${v.candidate} ${v.measure}`} className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
              <Badge id={v.candidate} setups={job.setups} />
              <span className="w-[190px] text-[15px]">
                <VerdictTag verdict={v.verdict} measure={v.measure} word="long" size={13} />
              </span>
              <span className="min-w-0 flex-1 basis-[420px]">
                {resultSentence(job, v, units, judgement.window)}{' '}
                <span className="text-ink-2">
                  {v.verdict === 'not-comparable' ? verdictReasonWords(v, v.conditions.findings, units) : nextStep(v)}
                </span>
              </span>
            </div>
          ))}
          {track && <div className="mt-1 hidden md:block" dangerouslySetInnerHTML={{ __html: track }} />}
        </section>
      )}
      {job.pulls.length > 0 && <SealCard stored={stored.data} />}
      <Changeable className="grid items-start gap-3 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_420px]">
        <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] gap-3 [&>*]:min-w-0">
          {job.setups.map((setup) => (
            <PullTable key={setup.id} setup={setup} stored={stored.data} judgement={judgement} />
          ))}
        </div>
        <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] gap-3 [&>*]:min-w-0">
          <QuestionCard key={stored.data.version} stored={stored.data} judgement={judgement} />
          <BaselineCard stored={stored.data} />
          <SearchCard stored={stored.data} judgement={judgement} />
          <DayCard stored={stored.data} />
          <StateTable stored={stored.data} />
          <CalibrationCard key={`calibration ${stored.data.version}`} stored={stored.data} />
          <LoggersCard stored={stored.data} />
          {files.data && files.data.length > 0 && (
            <section className="sheet card">
              <h3>Original files</h3>
              <ul className="mt-1 max-h-[150px] overflow-auto" tabIndex={0} aria-label="Original files">
                {files.data.map((f) => (
                  <li key={f.id}>
                    <a className="underline" href={`/api/jobs/${id}/files/${f.id}`}>
                      {f.name}
                    </a>
                  </li>
                ))}
              </ul>
            </section>
          )}
          {log.data && <EvidenceCard log={log.data} job={id} zone={job.timeZone} />}
        </div>
      </Changeable>
    </div>
  );
  return mayChange ? (
    <DropFiles
      words="Drop the day here: it is laid out first"
      onDrop={(dropped) => {
        keepDropped(dropped);
        void go(`/jobs/${id}/day`);
      }}
    >
      {page}
    </DropFiles>
  ) : (
    page
  );
}

function subtitle(job: Job): string {
  return [
    job.vehicle.label,
    job.id,
    job.vehicle.aspiration &&
      { natural: 'naturally aspirated', turbo: 'turbocharged', supercharged: 'supercharged' }[job.vehicle.aspiration],
    job.bay.label,
  ]
    .filter(Boolean)
    .join(' · ');
}
