import { crossedWords, type LiveSheet } from '@prandel/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Unplug } from 'lucide-react';
import { useEffect } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { useSession } from '../../api/hooks.ts';
import { useLiveBay } from '../../live/useLiveBay.ts';
import { BayActions } from './BayActions.tsx';
import { BayCurves } from './BayCurves.tsx';
import { bayLook } from './bayLooks.ts';
import { GateRail } from './GateRail.tsx';
import { StatePanel } from './StatePanel.tsx';
import './bay.css';

/** The run sheet: one huge state, its reasons, the round, four actions. Read from two metres, used in gloves. */
export function RunSheetPage() {
  const { bay = '' } = useParams();
  const go = useNavigate();
  const session = useSession();
  const { sheet, trace, lostSince } = useLiveBay(session.data ? bay : null);
  useEffect(() => {
    document.documentElement.dataset.mood = 'bay';
    return () => {
      document.documentElement.dataset.mood = 'desk';
    };
  }, []);
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
  const action = useMutation({
    mutationFn: (body: Record<string, unknown>) => ask('POST', `/bays/${bay}/actions`, body),
    onSettled: () => queries.invalidateQueries({ queryKey: ['job'] }),
  });
  const act = (name: string, more: Record<string, unknown> = {}) => action.mutate({ action: name, ...more });
  if (!sheet)
    return (
      <main className="bay-empty">
        <h1>{lostSince ? 'No line to the server. It is tried again by itself.' : 'Listening to the bay …'}</h1>
      </main>
    );
  return (
    <div className="bay">
      <Head sheet={sheet} />
      {lostSince !== null && (
        <div className="bay-lost" role="alert">
          <Unplug size={28} aria-hidden /> No line to the server. Pulls go on being recorded there; this screen catches
          up by itself.
        </div>
      )}
      {sheet.job ? (
        <main className="bay-main">
          <div className="bay-left">
            <StatePanel sheet={sheet} trace={trace} />
            {sheet.state !== 'pulling' && <BayCurves sheet={sheet} trace={null} />}
          </div>
          <div className="bay-right">
            {sheet.state === 'pulling' ? <BayCurves sheet={sheet} trace={trace} /> : <GateRail rows={sheet.rows} />}
            <Round sheet={sheet} />
          </div>
        </main>
      ) : (
        <Choose onOpen={(job) => act('open-job', { job })} />
      )}
      <Caution sheet={sheet} failed={action.error?.message ?? null} />
      {sheet.job && <BayActions sheet={sheet} act={act} />}
    </div>
  );
}

function Head({ sheet }: { sheet: LiveSheet }) {
  const look = sheet.round ? bayLook(sheet.job?.setups ?? [], sheet.round.setup) : null;
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
      <Link to="/" className="bay-desk">
        Desk
      </Link>
      <span className="bay-clock num">{clock}</span>
    </header>
  );
}

/** The round as cells: settle, counted, set aside, next, to come. What repeats, and how narrow the interval has become. */
function Round({ sheet }: { sheet: LiveSheet }) {
  const { round } = sheet;
  if (!round) return null;
  const planned = round.settle + round.counted + round.pulls.filter((p) => p.status === 'set-aside').length;
  const look = bayLook(sheet.job?.setups ?? [], round.setup);
  const cells = Math.max(planned, round.pulls.length + (round.complete ? 0 : 1));
  return (
    <section className="round" aria-label="Round">
      <div className="round-cells">
        {Array.from({ length: cells }, (_, i) => {
          const pull = round.pulls[i];
          const next = i === round.pulls.length && !round.complete;
          const kind = pull ? pull.status : next ? 'next' : 'to-come';
          const style =
            pull?.status === 'counted'
              ? { background: look.line, color: look.on }
              : pull
                ? { borderColor: look.line }
                : {};
          const words = pull
            ? pull.status === 'set-aside'
              ? 'aside'
              : pull.peakW === null
                ? '–'
                : pull.status === 'settle'
                  ? 'settle'
                  : (pull.peakW / 1000).toFixed(1)
            : next
              ? 'next'
              : '–';
          return (
            <div
              key={i}
              className="round-cell"
              data-kind={kind}
              style={style}
              title={pull?.reason ?? pull?.marks.join('; ') ?? ''}
            >
              <span>
                {i + 1}
                {pull?.marks.length ? ' !' : ''}
              </span>
              <b className="num">{words}</b>
            </div>
          );
        })}
      </div>
      <dl className="round-facts">
        <div>
          <dt>Pattern</dt>
          <dd>{sheet.settled === 'settled' ? 'settled' : sheet.settled === 'not-settled' ? 'still moving' : '–'}</dd>
        </div>
        <div>
          <dt>Repeats within</dt>
          <dd className="num">
            {sheet.repeatabilityPercent === null ? '–' : `${sheet.repeatabilityPercent.toFixed(2)} %`}
          </dd>
        </div>
        <div>
          <dt>Interval so far</dt>
          <dd className="num">{sheet.halfWidthPercent === null ? '–' : `±${sheet.halfWidthPercent.toFixed(1)} %`}</dd>
        </div>
      </dl>
    </section>
  );
}

const INSTRUMENT_NAMES = {
  rollers: 'Rollers',
  weather: 'Weather station',
  bus: 'Vehicle bus',
  aux: 'Auxiliary channels',
};

function lostWords({ kind, state, words, lastGood, ageS }: LiveSheet['instruments'][number]): string {
  const name = INSTRUMENT_NAMES[kind];
  if (state === 'implausible') return `${name}: ${words}`;
  const last = lastGood && ageS !== null ? ` Last heard ${Math.round(ageS)} s ago: ${lastGood}.` : '';
  return `${name} silent: look at its cable.${last}`;
}

function Caution({ sheet, failed }: { sheet: LiveSheet; failed: string | null }) {
  const warned = sheet.crossed.find((c) => c.level === 'warn');
  const lost = sheet.instruments.filter((i) => i.state !== 'connected');
  const text =
    failed ??
    (sheet.waiting > 0
      ? `The database does not take anything: ${sheet.waiting} samples wait in memory. Free the disk or start the database; do not stop the server.`
      : null) ??
    (warned
      ? `Watch out. ${crossedWords(warned)}`
      : lost.length > 0
        ? lost.map(lostWords).join(' ')
        : sheet.state === 'fitting'
          ? 'Hot exhaust and coolant. Fuel vapour with an open fuel system: extinguisher at hand.'
          : 'Before every pull: straps tight, extraction hose on, nobody in line with the wheels.');
  return (
    <div className="caution" role={failed || warned || sheet.waiting > 0 ? 'alert' : 'note'}>
      {text}
    </div>
  );
}

function Choose({ onOpen }: { onOpen: (job: string) => void }) {
  const jobs = useQuery({ queryKey: ['jobs', 'bay'], queryFn: () => ask<Schemas['JobPage']>('GET', '/jobs') });
  return (
    <main className="bay-choose">
      <h1>Which car is on the rollers?</h1>
      {jobs.data?.jobs.slice(0, 6).map((job) => (
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
