import { plain, shown, temperatureStep, USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import type { LiveSheet } from '@prandel/core';
import { bayStyle } from './bayStyles.ts';
import { DayStrip } from './DayStrip.tsx';

/** The round as cells: settle, counted, set aside, next, to come. What repeats, and how narrow the interval has become. */
export function Round({ sheet, units = USUAL_UNITS }: { sheet: LiveSheet; units?: ShownUnits }) {
  const { round } = sheet;
  if (!round) return null;
  const planned = round.settle + round.counted + round.pulls.filter((p) => p.status === 'set-aside').length;
  const look = bayStyle(sheet.job?.setups ?? [], round.setup);
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
                  : shown(pull.peakW, units.power, 1)
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
          {sheet.halfWidth === null && sheet.planSeesFromPercent !== null ? (
            <>
              <dt>Plan sees from</dt>
              <dd className="num">±{plain(Math.ceil(10 * sheet.planSeesFromPercent - 1e-9) / 10, 1)} %</dd>
            </>
          ) : (
            <>
              <dt>Interval so far</dt>
              <dd className="num">{sheet.halfWidth === null ? '–' : `±${halfWords(sheet.halfWidth, units)}`}</dd>
            </>
          )}
        </div>
      </dl>
      {sheet.track && sheet.job && <DayStrip track={sheet.track} setups={sheet.job.setups} />}
    </section>
  );
}

function halfWords({ value, unit }: NonNullable<LiveSheet['halfWidth']>, units: ShownUnits): string {
  return unit === '%'
    ? `${plain(value, 1)} %`
    : `${plain(temperatureStep(value, units.temperature), 1)} ${units.temperature}`;
}
