import { useQuery } from '@tanstack/react-query';
import { Plus } from 'lucide-react';
import { Link, useNavigate } from 'react-router';
import { ask } from '../../api/client.ts';
import { useBays } from '../../api/hooks.ts';
import { useSheets } from '../../live/useSheets.ts';
import { DropFiles } from '../../parts/DropFiles.tsx';
import { For, useMay } from '../../parts/May.tsx';
import { Notice } from '../../parts/Field.tsx';
import { keepDropped } from '../../parts/droppedFiles.ts';
import { AirTiles } from './AirTiles.tsx';
import { NeedsYou } from './NeedsYou.tsx';
import { TodayJob } from './TodayJob.tsx';

const MOST_JOBS = 6;

/** The jobs of the day with their day tracks, the bay's air now, and what needs a person next. */
export function TodayPage() {
  const go = useNavigate();
  const may = useMay('technician');
  const bays = useBays();
  const jobs = useQuery({ queryKey: ['jobs', 'today'], queryFn: () => ask('get', '/api/jobs') });
  const sheets = useSheets(bays.data ?? []);
  const inBays = new Set(bays.data?.flatMap((b) => b.job ?? []) ?? []);
  // A bay by files has no station of its own to show.
  const aired = sheets.filter(({ bay }) => bay.instruments.weather ?? bay.instruments.rollers);
  const airing = aired.filter(({ bay }) => bay.job);
  const now = new Date(sheets[0]?.sheet?.atMs ?? Date.now());
  const rows = (jobs.data?.jobs ?? [])
    .filter(
      (job) =>
        inBays.has(job.id) ||
        [job.dayAt, job.openedAt].some((at) => at !== null && isOfTheDay(Date.parse(at), now.getTime())),
    )
    .slice(0, MOST_JOBS);
  const page = (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-baseline gap-3">
        <h1>{now.toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' })}</h1>
        <span className="text-ink-2">
          {rows.length === 0 ? 'Nothing on today' : `${rows.length} ${rows.length === 1 ? 'job' : 'jobs'}`}
          {bays.data ? `, ${bays.data.length} ${bays.data.length === 1 ? 'bay' : 'bays'}` : ''}
        </span>
        <span className="grow" />
        <For role="technician">
          <Link className="btn pri" to="/jobs/new">
            <Plus size={15} aria-hidden />
            New job
          </Link>
        </For>
      </div>
      {(jobs.error ?? bays.error) && <Notice kind="bad">{(jobs.error ?? bays.error)!.message}</Notice>}
      <YearsComing />
      {jobs.isPending && <div className="progress" role="progressbar" aria-label="Loading the day" />}
      {(airing.length > 0 ? airing : aired.slice(0, 1)).map(
        ({ bay, sheet }) => sheet && <AirTiles key={bay.id} sheet={sheet} bay={bay.label} named={airing.length > 1} />,
      )}
      <div className="grid items-start gap-3 lg:grid-cols-[minmax(0,1fr)_312px]">
        <section className="sheet divide-y divide-rule" aria-label="Day tracks">
          {rows.map((job) => (
            <TodayJob key={job.id} row={job} live={sheets.find((s) => s.sheet?.job?.id === job.id)?.sheet ?? null} />
          ))}
          {jobs.data && rows.length === 0 && (
            <p className="p-8 text-center text-[15px]">
              No job today.{' '}
              <For role="technician">
                <Link className="underline" to="/jobs/new">
                  Open one
                </Link>{' '}
                or look at{' '}
              </For>
              <Link className="underline" to="/jobs">
                earlier jobs
              </Link>
              .
              <For role="technician">
                <span className="text-ink-2 block text-[13px]">Or drop the files of a day here.</span>
              </For>
            </p>
          )}
        </section>
        <NeedsYou bays={sheets.filter(({ bay }) => bay.job ?? bay.instruments.rollers)} rows={rows} />
      </div>
    </div>
  );
  return may ? (
    <DropFiles
      words="Drop the day here: a new job is made of it"
      onDrop={(dropped) => {
        keepDropped(dropped);
        void go('/jobs/new');
      }}
    >
      {page}
    </DropFiles>
  ) : (
    page
  );
}

/** How far the demo's two years are, while they come in. */
function YearsComing() {
  const years = useQuery({
    queryKey: ['demo-years'],
    queryFn: () => ask('get', '/api/demo-years'),
    refetchInterval: ({ state: { data } }) => (data?.years && data.years.made < data.years.of ? 2000 : false),
  });
  const own = years.data?.years;
  if (!own || own.made >= own.of) return null;
  return (
    <Notice kind="plain">
      The demo’s two years are being made in the background: {own.made} of {own.of} days. Everything can be used
      meanwhile.
      <progress className="mt-1 block w-full" value={own.made} max={own.of} aria-label="Days made" />
    </Notice>
  );
}

/** Within the last day, or planned within the next half. */
function isOfTheDay(atMs: number, nowMs: number): boolean {
  const hours = (nowMs - atMs) / 3_600_000;
  return hours < 24 && hours > -12;
}
