import { STATE_FIELDS, type LiveSheet } from '@prandel/core';
import { Lock } from 'lucide-react';
import { useRef, useState } from 'react';
import type { paths } from '../../api/generated/schema.ts';
import { PhotoButton } from '../../parts/PhotoButton.tsx';
import { useKeys } from '../../parts/useKeys.ts';
import { CLOSE_REASONS, DRIVER_AIDS, NOTES, OVERRIDE_REASONS, SET_ASIDE_REASONS } from './bayStyles.ts';
import { HoldButton } from './HoldButton.tsx';

/** What can be done on the run sheet, as the server takes it. */
export type SheetAction = paths['/api/bays/{id}/actions']['post']['requestBody']['content']['application/json'];
export type Act = (action: SheetAction) => void;
type Asking = { title: string; reasons: readonly string[]; then: (reason: string) => void } | null;

/** Four actions at most, each a big button and a key; reasons are one tap, never typed. */
export function BayActions({ sheet, act }: { sheet: LiveSheet; act: Act }) {
  const [asking, setAsking] = useState<Asking>(null);
  const place = useRef<HTMLDivElement>(null);
  const { round, state } = sheet;
  const last = round?.pulls.at(-1);
  const askFor = (title: string, reasons: readonly string[], then: (reason: string) => void) =>
    setAsking({ title, reasons, then });
  const aside = () =>
    last &&
    askFor(`Why is pull ${last.position} set aside?`, SET_ASIDE_REASONS, (reason) =>
      act({ action: 'set-aside', pull: last.id, reason }),
    );
  const note = () => askFor('Note', NOTES, (reason) => act({ action: 'note', reason }));
  const leave = () =>
    askFor(
      `${sheet.planComplete ? 'Take the car off the rollers?' : 'Take the car off before its plan is in?'} Are its driver aids restored?`,
      DRIVER_AIDS,
      (answer) => act({ action: 'leave', driverAidsRestored: answer === DRIVER_AIDS[0] }),
    );
  const fresh = state === 'between' && round !== null && round.pulls.length === 0;
  const space: Partial<Record<LiveSheet['state'], () => void>> = {
    review: () => act({ action: 'keep' }),
    stop: () => act({ action: 'acknowledge-stop' }),
    ...(fresh ? { between: () => act({ action: 'start-round', setup: round.setup }) } : {}),
  };
  const keys: Record<string, (() => void) | undefined> = {
    ' ': space[state],
    a: last && last.status !== 'set-aside' ? aside : undefined,
    e: state !== 'between' && state !== 'fitting' && round ? () => act({ action: 'extra-settle' }) : undefined,
    n: sheet.job ? note : undefined,
  };
  useKeys(['*'], (key, e) => {
    const inControl = e.target instanceof Element && e.target.closest('button,a,input,select,textarea') !== null;
    if (key === 'escape') return setAsking(null);
    if (asking && /^[1-9]$/.test(key)) {
      const reason = asking.reasons[Number(key) - 1];
      if (reason) choose(reason);
      return;
    }
    if (/^[1-4]$/.test(key)) {
      const button = place.current?.querySelectorAll('button')[Number(key) - 1];
      button?.focus();
      // What wants a long press is only brought under the finger: Enter, held, presses it.
      if (button && !button.classList.contains('locked')) button.click();
      return;
    }
    const does = keys[key];
    if (!does || asking || (key === ' ' && inControl)) return;
    e.preventDefault();
    does();
  });
  const choose = (reason: string) => {
    asking?.then(reason);
    setAsking(null);
  };
  if (asking)
    return (
      <div className="bay-actions asking" role="group" aria-label={asking.title}>
        <h2>{asking.title}</h2>
        {asking.reasons.map((reason, i) => (
          <button key={reason} className="bay-btn" onClick={() => choose(reason)} autoFocus={i === 0}>
            {reason}
          </button>
        ))}
        <button className="bay-btn quiet" onClick={() => setAsking(null)}>
          Back
        </button>
      </div>
    );
  return (
    <div className="bay-actions" role="group" aria-label="Actions" ref={place}>
      {state === 'review' && (
        <>
          <button className="bay-btn pri" onClick={() => act({ action: 'keep' })}>
            {last?.status === 'set-aside' ? 'Go on' : last?.status === 'settle' ? 'Keep it' : 'It counts'}
          </button>
          {last?.status !== 'set-aside' && (
            <button className="bay-btn" onClick={aside}>
              Set pull {last?.position} aside
            </button>
          )}
        </>
      )}
      {state === 'pulling' && (
        <div className="bay-btn open" role="status">
          Recording. Lifting the throttle ends the pull.
        </div>
      )}
      {state === 'stop' && (
        <button className="bay-btn pri" onClick={() => act({ action: 'acknowledge-stop' })}>
          I have looked. Go on
        </button>
      )}
      {(state === 'between' || state === 'fitting') && (
        <Between sheet={sheet} act={act} leave={leave} askFor={askFor} />
      )}
      {['hold', 'cooling', 'ready', 'blocked', 'sensor-lost'].includes(state) && (
        <>
          {state === 'blocked' ? (
            STATE_FIELDS.flatMap((state) => {
              const row = sheet.rows.find((r) => r.key === state && r.state === 'differs');
              return row ? [{ state, row }] : [];
            })
              .slice(0, 2)
              .map(({ state, row }) => (
                <button key={state} className="bay-btn pri" onClick={() => act({ action: 'set-point', state })}>
                  {row.label} is set to {row.slot?.baseline} now
                </button>
              ))
          ) : last && last.status !== 'set-aside' ? (
            <button className="bay-btn" onClick={aside}>
              Set pull {last.position} aside
            </button>
          ) : (
            <button className="bay-btn" onClick={note}>
              Add note
            </button>
          )}
          <button className="bay-btn" onClick={() => act({ action: 'extra-settle' })}>
            Extra settle pull
          </button>
          <button
            className="bay-btn"
            onClick={() =>
              askFor('Close the round before its plan is in?', CLOSE_REASONS, (reason) =>
                act({ action: 'close-round', reason }),
              )
            }
          >
            Close round early
          </button>
          {state === 'ready' ? (
            <div className="bay-btn open" role="status">
              Gate open: full throttle starts pull {round?.next.position}
            </div>
          ) : sheet.override ? (
            <button className="bay-btn" onClick={() => act({ action: 'withdraw-override' })}>
              Withdraw the override
            </button>
          ) : (
            <HoldButton
              onHeld={() =>
                askFor('Why is the gate overridden?', OVERRIDE_REASONS, (reason) => act({ action: 'override', reason }))
              }
            >
              <Lock size={30} aria-hidden />
              <span>
                Start pull {round?.next.position}
                <small>opens at READY. Press 3 s to override</small>
              </span>
            </HoldButton>
          )}
        </>
      )}
    </div>
  );
}

function Between({
  sheet,
  act,
  leave,
  askFor,
}: {
  sheet: LiveSheet;
  act: Act;
  leave: () => void;
  askFor: (title: string, reasons: readonly string[], then: (reason: string) => void) => void;
}) {
  const setups = sheet.job?.setups ?? [];
  const on = sheet.round?.setup ?? setups[0]?.id;
  if (sheet.state === 'fitting')
    return (
      <>
        {sheet.job && sheet.fitting && <PhotoButton job={sheet.job.id} startedAt={sheet.fitting.startedAt} big />}
        <button className="bay-btn pri" onClick={() => act({ action: 'stop-fitting', fitting: {} })}>
          Stop the fitting clock: {sheet.fitting?.setup} is on
        </button>
      </>
    );
  const started = (sheet.round?.pulls.length ?? 0) > 0;
  const place = setups.findIndex((s) => s.id === on);
  // The plan says what comes next; without one, the setups follow each other as they are listed.
  const planned = sheet.nextSetup ?? setups[place + 1]?.id ?? null;
  const next = planned === on ? null : planned;
  const others = setups.filter((s) => s.id !== on && s.id !== next);
  const named = (s: (typeof setups)[number]) => `${s.id}, ${s.label}`;
  const base = setups.find((s) => s.returnsTo === null)?.id;
  // Words follow at the desk; here it is one tap.
  const fresh = [...new Set([on, base])].flatMap((id) => (id ? [[id, `Something new, on top of ${id}`] as const] : []));
  // A pull that is unlike the others is made again while its setup is on the car; the first one stays.
  const again = !sheet.planComplete && sheet.round?.complete && sheet.round.pulls.some((p) => p.odd);
  const unfinished = started && !sheet.planComplete && sheet.round !== null && !sheet.round.complete;
  return (
    <>
      {unfinished && (
        <button className="bay-btn pri" onClick={() => act({ action: 'resume-round' })}>
          Go on with the round of {on}
        </button>
      )}
      {again && (
        <button className="bay-btn pri" onClick={() => act({ action: 'resume-round' })}>
          One pull more of {on}
        </button>
      )}
      {!started && on && (
        <button className="bay-btn pri" onClick={() => act({ action: 'start-round', setup: on })}>
          <span>
            Start the round of {on}
            <small>all of that was looked at</small>
          </span>
        </button>
      )}
      {started && next && !sheet.planComplete && (
        <button
          className={sheet.baseline?.suspect || unfinished || again ? 'bay-btn' : 'bay-btn pri'}
          onClick={() => act({ action: 'start-fitting', setup: next })}
        >
          Start fitting {next}
        </button>
      )}
      {sheet.planComplete && sheet.extension && (
        <button className="bay-btn pri" onClick={() => act({ action: 'extend' })}>
          <span>
            Go on with {sheet.extension.rounds.map((r) => `${r.counted} of ${r.setup}`).join(', then ')}
            <small>{sheet.extension.declared ? 'the declared extension' : 'not declared: the report says so'}</small>
          </span>
        </button>
      )}
      {started && on && !again && (
        <button
          className={planned === on && !unfinished ? 'bay-btn pri' : 'bay-btn'}
          onClick={() => act({ action: 'start-round', setup: on })}
        >
          <span>
            Another round of {on}
            {sheet.planComplete && planned !== on && <small>not planned: the report says so</small>}
          </span>
        </button>
      )}
      {sheet.planComplete && sheet.job && (
        <a className={sheet.extension ? 'bay-btn' : 'bay-btn pri'} href={`/jobs/${sheet.job.id}/compare`}>
          See it at the desk
        </a>
      )}
      {started && !unfinished && on && !(sheet.planComplete && sheet.extension) && (
        <button
          className="bay-btn"
          onClick={() =>
            askFor('What is fitted?', [...others.map(named), ...fresh.map(([, words]) => words)], (words) => {
              const known = others.find((s) => named(s) === words);
              const parent = fresh.find(([, own]) => own === words)?.[0];
              if (known) act({ action: 'start-fitting', setup: known.id });
              else if (parent) act({ action: 'fit-new', parent });
            })
          }
        >
          {others.length > 0 && !sheet.planComplete ? 'Fit another setup' : 'Fit something new'}
        </button>
      )}
      <button className="bay-btn" onClick={leave}>
        Car off the rollers
      </button>
    </>
  );
}
