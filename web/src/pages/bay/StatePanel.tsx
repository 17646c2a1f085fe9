import type { LiveSheet } from '@prandel/core';
import { CircleStop, ClipboardCheck, Hourglass, OctagonX, Pause, Play, PlugZap, Square, Wrench } from 'lucide-react';
import type { ReactNode } from 'react';
import type { LiveTrace } from '../../live/useLiveBay.ts';
import { stopwatch } from './bayLooks.ts';

const WORDS: Record<LiveSheet['state'], { word: string; icon: ReactNode }> = {
  'no-job': { word: 'No car', icon: <Square aria-hidden /> },
  hold: { word: 'HOLD', icon: <Pause fill="currentColor" aria-hidden /> },
  ready: { word: 'READY', icon: <Play fill="currentColor" aria-hidden /> },
  pulling: { word: 'PULLING', icon: <CircleStop aria-hidden /> },
  review: { word: 'REVIEW', icon: <ClipboardCheck aria-hidden /> },
  cooling: { word: 'COOLING', icon: <Hourglass aria-hidden /> },
  blocked: { word: 'BLOCKED', icon: <OctagonX aria-hidden /> },
  'sensor-lost': { word: 'SENSOR LOST', icon: <PlugZap aria-hidden /> },
  fitting: { word: 'FITTING', icon: <Wrench aria-hidden /> },
  between: { word: 'Between rounds', icon: <Square aria-hidden /> },
  stop: { word: 'STOP', icon: <OctagonX aria-hidden /> },
};

/** The one huge state, the reasons for it, and what to do. */
export function StatePanel({ sheet, trace }: { sheet: LiveSheet; trace: LiveTrace | null }) {
  const { word, icon } = WORDS[sheet.state];
  const next = sheet.round?.next;
  return (
    <section className="state" data-state={sheet.state} aria-live="polite" aria-label="State of the bay">
      <h1 className="state-word">
        {icon}
        {word}
      </h1>
      {(sheet.state === 'hold' || sheet.state === 'cooling') && <Waiting sheet={sheet} />}
      {sheet.state === 'ready' && next && (
        <>
          <div className="state-pull">Pull {next.position}</div>
          <p className="state-say">
            {next.status === 'settle' ? 'Settle pull: recorded, not counted.' : 'This one counts.'} Full throttle starts
            the recording.
          </p>
          {sheet.reasons.map((reason) => (
            <p key={reason} className="state-say">
              {reason}
            </p>
          ))}
        </>
      )}
      {sheet.state === 'pulling' && <Pulling sheet={sheet} trace={trace} />}
      {sheet.state === 'review' && sheet.review && <Review sheet={sheet} />}
      {sheet.state === 'fitting' && sheet.fitting && (
        <>
          <div className="state-count">{stopwatch((sheet.atMs - Date.parse(sheet.fitting.startedAt)) / 1000)}</div>
          <p className="state-say">
            Setup {sheet.fitting.setup} goes on, nothing else. Then look at pickup, ground, clamps and leaks.
          </p>
        </>
      )}
      {sheet.state === 'between' && <Between sheet={sheet} />}
      {(sheet.state === 'blocked' || sheet.state === 'sensor-lost' || sheet.state === 'stop') && (
        <ul className="state-reasons">
          {sheet.reasons.map((reason) => (
            <li key={reason}>{reason}</li>
          ))}
        </ul>
      )}
      {sheet.state === 'sensor-lost' && (
        <p className="state-say">Pulls are recorded but cannot count until it is back.</p>
      )}
      {sheet.state === 'stop' && (
        <p className="state-say">Close the throttle and let the rollers run out. Then look.</p>
      )}
      {sheet.override && sheet.state !== 'pulling' && (
        <p className="state-say font-[650]">Gate overridden for the next pull: {sheet.override.reason}.</p>
      )}
    </section>
  );
}

function Waiting({ sheet }: { sheet: LiveSheet }) {
  return (
    <>
      {sheet.waitS === null && sheet.state === 'hold' ? null : sheet.waitS === null ? (
        <div className="state-count quiet">wait</div>
      ) : (
        <div className="state-count" data-testid="countdown">
          {stopwatch(sheet.waitS)}
        </div>
      )}
      <ul className={`state-reasons ${sheet.waitS === null && sheet.state === 'hold' ? 'large' : ''}`}>
        {sheet.reasons.slice(0, 3).map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
      </ul>
      {sheet.waitRangeS && <p className="state-say">{rangeWords(sheet.waitRangeS)}</p>}
      <WaitBar sheet={sheet} />
    </>
  );
}

/** How much of the pause is over: from the end of the last pull to READY. */
function WaitBar({ sheet: { rows, waitS } }: { sheet: LiveSheet }) {
  const since = rows.find((r) => r.key === 'interval')?.value;
  if (since === null || since === undefined || waitS === null) return null;
  const share = (since * 60) / Math.max(1, since * 60 + waitS);
  return (
    <div className="state-bar" aria-hidden>
      <div style={{ transform: `scaleX(${1 - share})` }} />
    </div>
  );
}

function rangeWords([low, high]: readonly [number, number]): string {
  const minute = (s: number) => Math.round(s / 60);
  if (high < 90) return `Between ${Math.round(low)} and ${Math.round(high)} s.`;
  return low < 45 ? `At most ${minute(high)} min.` : `Between ${minute(low)} and ${minute(high)} min.`;
}

function Pulling({ sheet, trace }: { sheet: LiveSheet; trace: LiveTrace | null }) {
  const live = (key: string) => {
    const value = sheet.readings[key]?.value;
    return value === undefined ? '–' : value.toFixed(0);
  };
  const at = trace?.names.indexOf('engine_rpm') ?? -1;
  const rpm = trace?.rows.at(-1)?.[at];
  return (
    <>
      <div className="state-count">{rpm === null || rpm === undefined ? '–' : Math.round(rpm / 10) * 10}</div>
      <p className="state-say">rpm, {trace?.rows.length ?? 0} samples kept</p>
      <dl className="state-live">
        <div>
          <dt>Intake</dt>
          <dd className="num">{live('intakeC')} °C</dd>
        </div>
        <div>
          <dt>Coolant</dt>
          <dd className="num">{live('coolantC')} °C</dd>
        </div>
        <div>
          <dt>Oil</dt>
          <dd className="num">{live('oilC')} °C</dd>
        </div>
      </dl>
    </>
  );
}

/** Findings before figures: whether a pull counts is judged before its power is admired. */
function Review({ sheet }: { sheet: LiveSheet }) {
  const { findings, leftS, pullId } = sheet.review!;
  const pull = sheet.round?.pulls.find((p) => p.id === pullId);
  const worth = findings.filter((f) => f.severity !== 'info');
  return (
    <>
      <ul className="state-reasons" data-testid="findings">
        {pull?.marks.map((mark) => (
          <li key={mark}>{mark}</li>
        ))}
        {worth.map((f) => (
          <li key={f.text}>{f.text}</li>
        ))}
        {worth.length === 0 && !pull?.marks.length && <li>Nothing wrong was found with pull {pull?.position}.</li>}
      </ul>
      <p className="state-say">
        {pull?.status === 'set-aside'
          ? `Set aside: ${pull.reason}`
          : `${pull?.status === 'settle' ? 'Kept as a settle pull' : 'Counts'} in ${Math.ceil(leftS)} s unless set aside.`}
      </p>
    </>
  );
}

function Between({ sheet }: { sheet: LiveSheet }) {
  if (sheet.planComplete)
    return (
      <p className="state-say" data-testid="bay-verdict">
        {sheet.verdict ? `${sheet.verdict.sentence} ${sheet.verdict.next}` : 'Every planned pull is in.'}
      </p>
    );
  const done = sheet.round?.complete ?? false;
  if (done)
    return (
      <p className="state-say">
        Round {sheet.round!.number} of {sheet.round!.setup} is complete.{' '}
        {sheet.nextSetup === sheet.round!.setup
          ? `The plan asks for another round of ${sheet.nextSetup}, some 50 min after this one.`
          : 'Start the fitting clock for the next setup.'}
      </p>
    );
  const card = sheet.job?.card;
  return (
    <ul className="state-reasons">
      <li>Fluids and room to temperature, straps and extraction checked.</li>
      {card?.gear && <li>Gear {card.gear}.</li>}
      {card?.safeRpm && (
        <li>
          Safe from {card.safeRpm[0]} to {card.safeRpm[1]} rpm.
        </li>
      )}
      {card?.notes && <li>{card.notes}</li>}
    </ul>
  );
}
