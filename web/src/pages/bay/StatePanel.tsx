import {
  gainInterval,
  nextStep,
  oddPullWords,
  plain,
  reasonWords,
  resultSentence,
  shown,
  USUAL_UNITS,
  measureWords,
  verdictLook,
  withUnit,
  type ShownUnits,
  pullFindingWords,
  verdictReasonWords,
} from '@prandel/presentation';
import { fromSi, type LiveSheet, type SheetVerdict } from '@prandel/core';
import { CircleStop, ClipboardCheck, Hourglass, OctagonX, Pause, Play, PlugZap, Square, Wrench } from 'lucide-react';
import type { ReactNode } from 'react';
import { VerdictShape } from '../../parts/marks.tsx';
import type { LiveTrace } from '../../live/useLiveBay.ts';
import { stopwatch } from './bayStyles.ts';

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
export function StatePanel({
  sheet,
  trace,
  units = USUAL_UNITS,
}: {
  sheet: LiveSheet;
  trace: LiveTrace | null;
  units?: ShownUnits;
}) {
  const { icon } = WORDS[sheet.state];
  const word = sheet.state === 'between' ? betweenWord(sheet) : WORDS[sheet.state].word;
  const next = sheet.round?.next;
  const reasons = sheet.reasons.map((reason) => reasonWords(reason, units));
  return (
    <section className="state" data-state={sheet.state} aria-live="polite" aria-label="State of the bay">
      <h1 className="state-word">
        {icon}
        {word}
      </h1>
      {(sheet.state === 'hold' || sheet.state === 'cooling') && <Waiting sheet={sheet} reasons={reasons} />}
      {sheet.state === 'ready' && next && (
        <>
          <div className="state-pull">Pull {next.position}</div>
          <p className="state-say">
            {next.status === 'settle'
              ? 'Settle pull: recorded, not counted.'
              : sheet.round?.countedSoFar === 0 && sheet.settled === 'not-settled'
                ? 'The settle pulls still move. Make one more first, or this one counts.'
                : 'This one counts.'}
          </p>
          {reasons.map((reason) => (
            <p key={reason} className="state-say">
              {reason}
            </p>
          ))}
        </>
      )}
      {sheet.state === 'pulling' && <Pulling sheet={sheet} trace={trace} units={units} />}
      {sheet.state === 'review' && sheet.review && <Review sheet={sheet} />}
      {sheet.state === 'fitting' && sheet.fitting && (
        <>
          <div className="state-count">{stopwatch((sheet.atMs - Date.parse(sheet.fitting.startedAt)) / 1000)}</div>
          <p className="state-say">
            Setup {sheet.fitting.setup} goes on, nothing else. Then look at pickup, ground, clamps and leaks.
          </p>
        </>
      )}
      {sheet.state === 'between' && <Between sheet={sheet} units={units} />}
      {(sheet.state === 'blocked' || sheet.state === 'sensor-lost' || sheet.state === 'stop') && (
        <ul className="state-reasons large">
          {reasons.map((reason) => (
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

/** Where a job stands while nobody pulls and nobody fits. */
function betweenWord({ planComplete, round }: LiveSheet): string {
  if (planComplete) return 'The plan is in';
  return round?.complete ? 'Round complete' : round?.pulls.length ? 'Between rounds' : 'Check first';
}

function Waiting({ sheet, reasons }: { sheet: LiveSheet; reasons: readonly string[] }) {
  return (
    <>
      {sheet.waitS === null && sheet.state === 'hold' ? null : sheet.waitS === null ? (
        <div className="state-count quiet">wait</div>
      ) : (
        <div className="state-wait">
          <div className="state-count" data-testid="countdown">
            {stopwatch(sheet.waitS)}
          </div>
          {sheet.waitRangeS && <p className="state-say">{rangeWords(sheet.waitRangeS)}</p>}
        </div>
      )}
      <ul className={`state-reasons ${sheet.waitS === null && sheet.state === 'hold' ? 'large' : ''}`}>
        {reasons.slice(0, 3).map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
      </ul>
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

function Pulling({ sheet, trace, units }: { sheet: LiveSheet; trace: LiveTrace | null; units: ShownUnits }) {
  const live = (key: string) => {
    const value = sheet.readings[key]?.value;
    return value === undefined ? '–' : `${plain(fromSi(value, units.temperature), 0)} ${units.temperature}`;
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
          <dd className="num">{live('intakeC')}</dd>
        </div>
        <div>
          <dt>Coolant</dt>
          <dd className="num">{live('coolantC')}</dd>
        </div>
        <div>
          <dt>Oil</dt>
          <dd className="num">{live('oilC')}</dd>
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
          <li key={`${f.code} ${f.fromRpm}`}>{pullFindingWords(f)}</li>
        ))}
        {worth.length === 0 && !pull?.marks.length && <li>Nothing wrong was found with pull {pull?.position}.</li>}
      </ul>
      <p className="state-say">Its curve and figures come once that is judged.</p>
      <p className="state-say">
        {pull?.status === 'set-aside'
          ? `Set aside: ${pull.reason}`
          : `${pull?.status === 'settle' ? 'Kept as a settle pull' : 'Counts'} in ${Math.ceil(leftS)} s unless set aside.`}
      </p>
    </>
  );
}

function Between({ sheet, units }: { sheet: LiveSheet; units: ShownUnits }) {
  if (sheet.planComplete) return <Judged sheet={sheet} units={units} />;
  const { round, nextSetup } = sheet;
  const odd = round?.pulls.find((p) => p.odd);
  if (round?.complete)
    return (
      <>
        <p className="state-say">
          Round {round.number} of {round.setup} is complete.{' '}
          {nextSetup === round.setup
            ? `The plan asks for another round of ${nextSetup}; the gate says when.`
            : 'Start the fitting clock for the next setup.'}
        </p>
        {odd && (
          <p className="state-say font-[650]">
            {oddPullWords(odd)} Make one pull more while {round.setup} is on the car; nothing is thrown away.
          </p>
        )}
        {sheet.baseline && <Baseline baseline={sheet.baseline} units={units} />}
      </>
    );
  const card = sheet.job?.card;
  const fitted = sheet.job?.setups.some((s) => s.id === round?.setup && s.id !== sheet.job?.setups[0]?.id);
  return (
    <ul className="state-checks">
      <li>{fitted ? 'Straps again after the fitting' : 'Straps'}, exhaust extraction, fans</li>
      <li>Carbon monoxide alarm on, hearing protection</li>
      <li>Rpm pickup and its ground{fitted ? ', clamps, leaks' : ''}</li>
      <li>Fluids and room to temperature</li>
      {(card?.gear || card?.safeRpm) && (
        <li>
          {card.gear && `Gear ${card.gear}`}
          {card.gear && card.safeRpm && ', '}
          {card.safeRpm && `safe from ${card.safeRpm[0]} to ${card.safeRpm[1]} rpm`}
        </li>
      )}
      {card?.notes && <li>{card.notes}</li>}
    </ul>
  );
}

/** Once every planned pull is in: what each candidate's verdict is, and what would settle an open one. */
function Judged({ sheet, units }: { sheet: LiveSheet; units: ShownUnits }) {
  const { verdicts, extension } = sheet;
  if (verdicts.length === 0) return <p className="state-say">Every planned pull is in.</p>;
  const asked = { setups: sheet.job?.setups ?? [] };
  const several = new Set(verdicts.map((v) => v.measure)).size > 1;
  const next = (v: SheetVerdict) =>
    v.verdict === 'not-comparable'
      ? verdictReasonWords(v, v.blocking, units)
      : extension && v.morePullsNeeded?.pulls
        ? ''
        : nextStep(v);
  const rounds = extension?.rounds.map((r) => `${r.counted} of ${r.setup}`).join(', then ');
  return (
    <div data-testid="bay-verdict" className={verdicts.length > 1 ? 'state-verdicts many' : 'state-verdicts'}>
      {verdicts.map((v) => (
        <div key={`${v.candidate} ${v.measure}`}>
          <p className="state-verdict" data-verdict={v.verdict}>
            <VerdictShape verdict={v.verdict} measure={v.measure} size={verdicts.length > 1 ? 24 : 34} />
            {verdicts.length > 1 && `${v.candidate}${several ? `, ${measureWords(v.measure).name}` : ''}: `}
            {verdictLook(v.verdict, v.measure).word}
            {v.gain && v.verdict !== 'not-comparable' && <Figure gain={v.gain} units={units} />}
          </p>
          <p className="state-say">
            {resultSentence(asked, v, units, sheet.window)} {next(v)}
          </p>
        </div>
      ))}
      {extension && (
        <p className="state-say">
          {extension.declared ? 'The declared extension' : 'An extension nobody declared'}, {rounds}, about{' '}
          {Math.round(extension.minutes / 5) * 5} min, would settle it about every second time.
        </p>
      )}
    </div>
  );
}

function Figure({ gain, units }: { gain: NonNullable<SheetVerdict['gain']>; units: ShownUnits }) {
  const { estimate, half, unit } = gainInterval(gain, units);
  return <span className="num">{withUnit(`${estimate} ±${half}`, unit)}</span>;
}

/** A range, not a number: a baseline that repeats but reads low is itself a finding. */
function Baseline({ baseline, units }: { baseline: NonNullable<LiveSheet['baseline']>; units: ShownUnits }) {
  const { peakW, range, stands, suspect } = baseline;
  if (peakW === null || range === null) return null;
  const cars = `${shown(range.lowW, units.power, 0)} to ${shown(range.highW, units.power, 0)} ${units.power} of ${range.cars} cars of this model`;
  if (stands !== 'low')
    return (
      <p className="state-say">
        The baseline peaks at {shown(peakW, units.power, 0)} {units.power}, {stands === 'inside' ? 'inside' : 'above'}{' '}
        the {cars}.
      </p>
    );
  return (
    <p className="state-say font-[650]">
      The baseline peaks at {shown(peakW, units.power, 0)} {units.power}, below the {cars}.{' '}
      {suspect
        ? `Before fitting, look: ${suspect.label}, about ${suspect.minutes} min.`
        : 'Every suspect was looked at.'}
    </p>
  );
}
