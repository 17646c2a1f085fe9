import { VERDICT_STYLES } from '@prandel/presentation';
import { VERDICTS } from '@prandel/core';
import { keepPreviousData, useInfiniteQuery, useMutation } from '@tanstack/react-query';
import { FolderInput, Plus } from 'lucide-react';
import { useCallback, useMemo, useRef } from 'react';
import { Link, useNavigate } from 'react-router';
import { ask, queries, Refusal, refusedByServer, send, type Schemas } from '../../api/client.ts';
import { useBays } from '../../api/hooks.ts';
import { Choice } from '../../parts/Choice.tsx';
import { Notice } from '../../parts/Field.tsx';
import { useJobSearch } from './jobSearch.ts';
import { useWork } from '../../parts/useWork.ts';
import { WorkBar } from '../../parts/WorkBar.tsx';
import { useCompareAhead } from '../compare/comparePageAhead.ts';
import { DeletedJobs } from './DeletedJobs.tsx';
import { JobTable } from './JobTable.tsx';
import { For } from '../../parts/May.tsx';

const ANY = 'any';

const COUNTED_TO = 1000;

/** Jobs of the shop that match a search, with their verdicts. */
export function JobsPage() {
  const go = useNavigate();
  useCompareAhead();
  const { wanted, narrow, order, orderBy, isNarrowed, search } = useJobSearch();
  const bays = useBays();
  const picker = useRef<HTMLInputElement>(null);
  const work = useWork();
  const jobs = useInfiniteQuery({
    queryKey: ['jobs', 'list', search],
    initialPageParam: '',
    placeholderData: keepPreviousData,
    getNextPageParam: (page: Schemas['JobPage']) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      ask('get', '/api/jobs', { params: { query: { ...search, ...(pageParam ? { after: pageParam } : {}) } } }),
    // Verdicts that are being worked out come with the next look.
    refetchInterval: ({ state }) =>
      state.data?.pages.some((p) => p.jobs.some((j) => j.state === 'pending')) ? 1000 : false,
  });
  const take = useMutation({
    mutationFn: (file: File) => {
      const form = new FormData();
      form.append('file', file);
      return work.run('sending', ({ task, ...own }) => send<Schemas['Made']>(`/api/packages?task=${task}`, form, own));
    },
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ['jobs'] });
      await go(`/jobs/${id}`);
    },
  });
  const { data, fetchNextPage, isFetching } = jobs;
  const rows = useMemo(() => data?.pages.flatMap((p) => p.jobs) ?? [], [data]);
  const more = useCallback(() => {
    if (!isFetching) void fetchNextPage();
  }, [isFetching, fetchNextPage]);
  const total = jobs.data?.pages[0]?.total ?? null;
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1>Jobs</h1>
        <input
          className="input !w-[300px]"
          placeholder="Car, part, customer, question, number"
          aria-label="Find a job in this list"
          defaultValue={wanted.q}
          onChange={(e) => narrow({ q: e.target.value })}
        />
        <Choice
          label="Verdict"
          value={wanted.verdict || ANY}
          options={[[ANY, 'Any verdict'], ...VERDICTS.map((v) => [v, VERDICT_STYLES[v].word] as const)]}
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
        <label className="text-ink-2 inline-flex items-center gap-1.5">
          Opened from
          <input
            type="date"
            className="input !w-[140px]"
            value={wanted.from}
            onChange={(e) => narrow({ from: e.target.value })}
          />
        </label>
        <label className="text-ink-2 inline-flex items-center gap-1.5">
          to
          <input
            type="date"
            className="input !w-[140px]"
            aria-label="Opened until"
            value={wanted.until}
            onChange={(e) => narrow({ until: e.target.value })}
          />
        </label>
        {total !== null && (
          <span className="text-ink-2" role="status">
            {total === 1
              ? '1 job'
              : `${total > COUNTED_TO ? 'over ' : ''}${Math.min(total, COUNTED_TO).toLocaleString('en-GB')} jobs`}
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
        <JobTable rows={rows} order={order} onOrder={orderBy} onEnd={jobs.hasNextPage ? more : null} />
      )}
      {jobs.isFetchingNextPage && <div className="progress" role="progressbar" aria-label="Loading more jobs" />}
      <For role="technician">
        <DeletedJobs />
      </For>
    </div>
  );
}
