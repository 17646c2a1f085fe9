import { plain, shown, USUAL_UNITS, type ShownUnits, differenceIn, withUnit } from '@prandel/presentation';
import { factsNamed, type LiveSheet } from '@prandel/core';
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
          {sheet.halfWidths.length === 0 && sheet.planSees.length > 0 ? (
            <>
              <dt>Plan sees from</dt>
              <dd className="num">{sheet.planSees.map((sees) => seesFrom(sees, units)).join(', ')}</dd>
            </>
          ) : (
            <>
              <dt>Interval so far</dt>
              <dd className="num">
                {sheet.halfWidths.length === 0
                  ? '–'
                  : sheet.halfWidths.map((h) => `±${halfWords(h, units)}`).join(', ')}
              </dd>
            </>
          )}
        </div>
      </dl>
      {sheet.track && sheet.job && <DayStrip track={sheet.track} setups={sheet.job.setups} />}
    </section>
  );
}

function halfWords({ value, unit }: LiveSheet['halfWidths'][number], units: ShownUnits): string {
  const read = differenceIn(unit, units);
  return withUnit(plain(read.to(value), read.digits), read.unit);
}

/** Rounded up: a plan sees no more than that. */
function seesFrom({ measure, from }: LiveSheet['planSees'][number], units: ShownUnits): string {
  const { scale, unit } = factsNamed(measure);
  const { to, digits, unit: own } = differenceIn(scale === 'log' ? '%' : unit, units);
  return `±${withUnit(plain(Math.ceil(10 ** digits * to(from) - 1e-9) / 10 ** digits, digits), own)}`;
}
