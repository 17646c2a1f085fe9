import { gainInterval, VERDICT_LOOKS, type ShownUnits } from '@prandel/presentation';
import { VERDICTS } from '@prandel/core';
import { keepPreviousData, useInfiniteQuery, useMutation } from '@tanstack/react-query';
import { FolderInput, Plus } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { Link, useNavigate } from 'react-router';
import { ask, queries, Refusal, refusedByServer, send, type Schemas } from '../api/client.ts';
import { useBays, useUnits } from '../api/hooks.ts';
import { Choice } from '../parts/Choice.tsx';
import { Notice } from '../parts/Field.tsx';
import { VerdictTag } from '../parts/marks.tsx';
import { useJobSearch } from './jobSearch.ts';
import { useWork } from '../parts/useWork.ts';
import { WorkBar } from '../parts/WorkBar.tsx';
import { DeletedJobs, DeleteJob } from './DeletedJobs.tsx';
import { For } from '../parts/May.tsx';

const ANY = 'any';

/** Jobs of the shop that match a search, newest first, with their verdicts. */
export function JobsPage() {
  const units = useUnits();
  const go = useNavigate();
  const { wanted, narrow, isNarrowed, address } = useJobSearch();
  const bays = useBays();
  const search = useRef<HTMLInputElement>(null);
  const picker = useRef<HTMLInputElement>(null);
  const work = useWork();
  const jobs = useInfiniteQuery({
    queryKey: ['jobs', 'list', address],
    initialPageParam: '',
    placeholderData: keepPreviousData,
    getNextPageParam: (page: Schemas['JobPage']) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      ask<Schemas['JobPage']>('GET', `/jobs?${address}${pageParam ? `&after=${encodeURIComponent(pageParam)}` : ''}`),
    // Verdicts that are being worked out come with the next look.
    refetchInterval: ({ state }) =>
      state.data?.pages.some((p) => p.jobs.some((j) => j.state === 'pending')) ? 1000 : false,
  });
  const take = useMutation({
    mutationFn: (file: File) => {
      const form = new FormData();
      form.append('file', file);
      return work.run('sending', ({ task, ...own }) => send<{ id: string }>(`/packages?task=${task}`, form, own));
    },
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ['jobs'] });
      await go(`/jobs/${id}`);
    },
  });
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === '/' && !(e.target as HTMLElement).closest('input,textarea')) {
        e.preventDefault();
        search.current?.focus();
      }
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, []);
  const rows = jobs.data?.pages.flatMap((p) => p.jobs) ?? [];
  const total = jobs.data?.pages[0]?.total ?? null;
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1>Jobs</h1>
        <input
          ref={search}
          className="input !w-[300px]"
          placeholder="Car, part, customer, question, number"
          aria-label="Find a job (press /)"
          defaultValue={wanted.q}
          onChange={(e) => narrow({ q: e.target.value })}
        />
        <Choice
          label="Verdict"
          value={wanted.verdict || ANY}
          options={[[ANY, 'Any verdict'], ...VERDICTS.map((v) => [v, VERDICT_LOOKS[v].word] as const)]}
          onChange={(verdict) => narrow({ verdict: verdict === ANY ? '' : verdict })}
        />
        {(bays.data?.length ?? 0) > 1 && (
          <Choice
            label="Bay"
            value={wanted.bay || ANY}
            options={[[ANY, 'Any bay'], ...bays.data!.map((b) => [b.id, b.label] as const)]}
            onChange={(bay) => narrow({ bay: bay === ANY ? '' : bay })}
          />
        )}
        {total !== null && (
          <span className="text-ink-2" role="status">
            {total === 1 ? '1 job' : `${total.toLocaleString('en-GB')} jobs`}
          </span>
        )}
        <div className="grow" />
        <input
          ref={picker}
          type="file"
          accept=".zip,application/zip"
          className="sr-only"
          aria-label="Job package file"
          tabIndex={-1}
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) take.mutate(file);
            e.target.value = '';
          }}
        />
        <For role="technician">
          <button className="btn" onClick={() => picker.current?.click()} disabled={take.isPending}>
            <FolderInput size={15} aria-hidden />
            Import a job package
          </button>
          <Link className="btn pri" to="/jobs/new">
            <Plus size={15} aria-hidden />
            New job
          </Link>
        </For>
      </div>
      {work.state && <WorkBar state={work.state} what="the package" onCancel={work.cancel} />}
      {take.error && (
        <Notice kind="bad">
          {refusedByServer(take.error) && <b>The package was not imported; nothing was stored.</b>} {take.error.message}
          {take.error instanceof Refusal && take.error.problems.length > 1
            ? ` (${take.error.problems.length} problems)`
            : ''}
        </Notice>
      )}
      {jobs.error && <Notice kind="bad">{jobs.error.message}</Notice>}
      {jobs.isPending && <div className="progress" role="progressbar" aria-label="Loading jobs" />}
      {jobs.data && rows.length === 0 && (
        <div className="sheet p-8 text-center text-[15px]">
          {isNarrowed ? (
            'No job matches.'
          ) : (
            <>
              No jobs yet.{' '}
              <For role="technician">
                <Link className="underline" to="/jobs/new">
                  Open the first one
                </Link>{' '}
                with the question it should answer.
              </For>
            </>
          )}
        </div>
      )}
      {rows.length > 0 && (
        <ul className="sheet divide-y divide-rule">
          {rows.map((job) => (
            <li
              key={job.id}
              className="relative grid grid-cols-1 gap-x-6 gap-y-1 px-4 py-3 hover:bg-well md:grid-cols-[minmax(0,1fr)_minmax(330px,auto)_auto]"
            >
              <div className="min-w-0">
                <Link to={`/jobs/${job.id}`} className="text-[15px] font-[650] after:absolute after:inset-0">
                  {job.title}
                </Link>
                <div className="text-ink-2">
                  {job.vehicle} · {job.number} · {job.pulls} pulls
                </div>
              </div>
              <div className="grid content-center gap-1">
                {job.pulls === 0 && <span className="text-ink-3">No pulls yet.</span>}
                {job.state === 'pending' && <span className="text-ink-3">Being worked out …</span>}
                {job.state === 'not-judged' && <span className="text-act max-w-[46ch]">{job.problem}</span>}
                {job.pulls > 0 &&
                  job.verdicts.map((v) => (
                    <div key={v.candidate} className="flex items-center gap-3">
                      <span className="text-ink-2 w-6 font-[650]">{v.candidate}</span>
                      <span className="w-[170px]">
                        <VerdictTag verdict={v.verdict} word="long" size={12} />
                      </span>
                      <span
                        className={`whitespace-nowrap ${v.verdict === 'not-comparable' ? 'text-ink-3 line-through' : ''}`}
                      >
                        {v.gain && gainWords(v.gain, units)}
                      </span>
                    </div>
                  ))}
              </div>
              <For role="technician">
                <DeleteJob id={job.id} />
              </For>
            </li>
          ))}
        </ul>
      )}
      {jobs.hasNextPage && (
        <button className="btn justify-self-center" onClick={() => void jobs.fetchNextPage()}>
          Older jobs
        </button>
      )}
      <For role="technician">
        <DeletedJobs />
      </For>
    </div>
  );
}

function gainWords(gain: Schemas['GainCell'], units: ShownUnits): string {
  const { estimate, half, unit } = gainInterval(gain, units);
  return `${estimate} ±${half} ${unit}`;
}
