import type { LiveSheet } from '@prandel/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Unplug } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { ask, queries } from '../../api/client.ts';
import { useBays, useSession, useUnits } from '../../api/hooks.ts';
import { setBayOfDevice } from '../../app/mood.ts';
import { useLiveBay } from '../../live/useLiveBay.ts';
import { useKeys } from '../../parts/useKeys.ts';
import { ageOf, useBayFiles } from '../bays/BayFiles.tsx';
import { takenWords } from '@prandel/presentation';
import { SignalNotice } from '../bayCharts/SignalNotice.tsx';
import { BayActions, type Act, type SheetAction } from './BayActions.tsx';
import { BayCurves } from './BayCurves.tsx';
import { bayStyle } from './bayStyles.ts';
import { Caution } from './Caution.tsx';
import { GaugePad } from './GaugePad.tsx';
import { GateRail } from './GateRail.tsx';
import { Round } from './Round.tsx';
import { SearchLine } from './SearchLine.tsx';
import { StatePanel } from './StatePanel.tsx';
import { For } from '../../parts/May.tsx';
import './bay.css';
import './rail.css';
import './round.css';
import './actions.css';

/** The run sheet: one huge state, its reasons, the round, four actions. Read from two metres, used in gloves. */
export function RunSheetPage() {
  const { bay = '' } = useParams();
  const go = useNavigate();
  const session = useSession();
  const units = useUnits();
  const { sheet, trace, lostSince } = useLiveBay(session.data ? bay : null);
  useEffect(() => {
    document.documentElement.dataset.mood = 'bay';
    setBayOfDevice(bay);
    return () => {
      document.documentElement.dataset.mood = 'desk';
    };
  }, [bay]);
  const toDesk = useCallback(() => {
    setBayOfDevice(null);
    void go('/');
  }, [go]);
  const [reading, setReading] = useState(false);
  const gauge = useCallback(() => setReading(true), []);
  useKeys(['b'], () => !reading && toDesk());
  useKeys(['g'], gauge);
  useEffect(() => {
    // The bay's screen must not go dark while nobody can touch it; where this is not allowed, it simply may.
    let lock: WakeLockSentinel | null = null;
    const keep = () => {
      if (document.visibilityState !== 'visible') return;
      navigator.wakeLock?.request('screen').then(
        (own) => (lock = own),
        () => undefined,
      );
    };
    keep();
    document.addEventListener('visibilitychange', keep);
    return () => {
      document.removeEventListener('visibilitychange', keep);
      void lock?.release();
    };
  }, []);
  useEffect(() => {
    if (session.error) void go('/sign-in', { replace: true, state: { back: `/bays/${bay}` } });
  }, [session.error, go, bay]);
  // Nothing stands before a pull that runs, or a stop.
  const busy = sheet?.state === 'pulling' || sheet?.state === 'stop';
  useEffect(() => {
    if (busy) setReading(false);
  }, [busy]);
  const action = useMutation({
    mutationFn: (body: SheetAction) => ask('post', '/api/bays/{id}/actions', { params: { path: { id: bay } }, body }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['job'] }),
  });
  const act: Act = (asked) => action.mutate(asked);
  if (!sheet)
    return (
      <main className="bay-empty">
        <h1>{lostSince ? 'No line to this bay. It is tried again by itself.' : 'Listening to the bay …'}</h1>
        <button className="bay-btn max-w-[300px]" onClick={toDesk}>
          Desk
        </button>
      </main>
    );
  return (
    <div className="bay">
      <Head sheet={sheet} onDesk={toDesk} onGauge={gauge} />
      <div className="bay-lines">
        <SignalNotice bay={bay} className="bay-signal" />
        <FilesLine bay={bay} />
        {!busy && <SearchLine sheet={sheet} />}
      </div>
      {reading && !busy && sheet.job && sheet.round?.pulls.length ? (
        <GaugePad sheet={sheet} onClose={() => setReading(false)} />
      ) : null}
      {lostSince !== null && (
        <div className="bay-lost" role="alert">
          <Unplug size={28} aria-hidden /> No line to the server. Pulls go on being recorded there; this screen catches
          up by itself.
        </div>
      )}
      {sheet.job ? (
        <main className="bay-main">
          <div className="bay-left">
            <StatePanel sheet={sheet} trace={trace} units={units} />
            {showsCurves(sheet) && <BayCurves sheet={sheet} trace={null} units={units} />}
          </div>
          <div className="bay-right">
            {sheet.state === 'pulling' ? (
              <BayCurves sheet={sheet} trace={trace} units={units} />
            ) : (
              <GateRail
                rows={sheet.rows}
                units={units}
                quiet={sheet.state === 'between' || sheet.state === 'fitting'}
              />
            )}
            <Round sheet={sheet} units={units} />
          </div>
        </main>
      ) : (
        <For
          role="technician"
          else={<main className="bay-empty">No car is on the rollers. You may watch what happens here.</main>}
        >
          <Choose unclaimed={sheet.unclaimed} onOpen={(job) => act({ action: 'open-job', job })} />
        </For>
      )}
      <Caution sheet={sheet} units={units} failed={action.error?.message ?? null} />
      {sheet.job && <For role="technician">{!reading && <BayActions sheet={sheet} act={act} />}</For>}
    </div>
  );
}

/** Of a bay by files: the last file and its age, and what waits in the tray. */
function FilesLine({ bay }: { bay: string }) {
  const bays = useBays();
  const own = bays.data?.find((b) => b.id === bay);
  const byFiles = own !== undefined && !own.instruments.rollers;
  const { data } = useBayFiles(bay, byFiles);
  if (!byFiles || !data) return null;
  const { last, tray } = data;
  return (
    <div className="bay-files" role="status">
      <b>By files</b>
      <span>
        {last
          ? `${last.name}, ${ageOf(last.at)} ago: ${last.taken.outcome === 'tray' ? 'in the tray' : takenWords(last.taken)}`
          : data.folder
            ? 'No file yet.'
            : 'No folder is watched.'}
      </span>
      {tray.length > 0 && (
        <Link to="/bays" className="underline">
          {tray.length === 1 ? '1 file in the tray' : `${tray.length} files in the tray`}
        </Link>
      )}
    </div>
  );
}

/** While pulling, the growing curve stands elsewhere; much to say about verdicts takes the place of the last one. */
function showsCurves({ state, curves, verdicts, extension }: LiveSheet): boolean {
  return state !== 'pulling' && curves.length > 0 && verdicts.length < 2 && !extension;
}

function Head({ sheet, onDesk, onGauge }: { sheet: LiveSheet; onDesk: () => void; onGauge: () => void }) {
  const look = sheet.round ? bayStyle(sheet.job?.setups ?? [], sheet.round.setup) : null;
  const clock = new Date(sheet.atMs).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  return (
    <header className="bay-head">
      {sheet.round && look && (
        <span
          className="bay-badge"
          style={
            look.hollow
              ? { color: look.line, boxShadow: `inset 0 0 0 3px ${look.line}` }
              : { background: look.line, color: look.on }
          }
        >
          {sheet.round.setup}
        </span>
      )}
      <b>{sheet.round?.label ?? 'No car on the rollers'}</b>
      <span className="text-ink-2">{sheet.job?.vehicle}</span>
      <span className="grow" />
      {sheet.round && (
        <span className="text-ink-2">
          {sheet.round.countedSoFar} of {sheet.round.counted} counted
        </span>
      )}
      {sheet.job && sheet.round && sheet.round.pulls.length > 0 && (
        <For role="technician">
          <button className="bay-gauge" onClick={onGauge}>
            Gauge
          </button>
        </For>
      )}
      <button className="bay-desk" onClick={onDesk}>
        Desk
      </button>
      <span className="bay-clock num">{clock}</span>
    </header>
  );
}

function Choose({ unclaimed, onOpen }: { unclaimed: number; onOpen: (job: string) => void }) {
  const jobs = useQuery({ queryKey: ['jobs', 'bay'], queryFn: () => ask('get', '/api/jobs') });
  // Whoever came from a job's page finds that job first, however old it is.
  const wanted = useSearchParams()[0].get('job');
  const named = useQuery({
    queryKey: ['job', wanted],
    queryFn: () => ask('get', '/api/jobs/{id}', { params: { path: { id: wanted! } } }),
    enabled: wanted !== null,
  });
  const first = named.data && {
    ...{ id: named.data.rowId, number: named.data.job.id, title: named.data.job.title },
    vehicle: named.data.job.vehicle.label,
  };
  const others = (jobs.data?.jobs ?? []).filter((row) => row.id !== wanted);
  const offered = [...(first ? [first] : []), ...others].slice(0, 6);
  return (
    <main className="bay-choose">
      <h1>Which car is on the rollers?</h1>
      {unclaimed > 0 && (
        <p className="text-wait text-[26px]">
          {unclaimed === 1 ? 'One pull was' : `${unclaimed} pulls were`} made without a job. The job you choose keeps{' '}
          {unclaimed === 1 ? 'it' : 'them'}, set aside.
        </p>
      )}
      {offered.map((job) => (
        <button key={job.id} className="bay-btn" onClick={() => onOpen(job.id)}>
          <span>
            {job.vehicle || job.number}
            <small>{job.title}</small>
          </span>
        </button>
      ))}
      {jobs.data?.jobs.length === 0 && (
        <Link className="bay-btn" to="/jobs/new">
          Open the first job at the desk
        </Link>
      )}
    </main>
  );
}
