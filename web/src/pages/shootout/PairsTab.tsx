import { differenceInterval, type ShownUnits } from '@prandel/presentation';
import { differenceBetween, isSurelyBetter, type Job, type Judgement, type Standings } from '@prandel/core';
import type { StoredJob } from '../../api/client.ts';
import { Badge } from '../../parts/marks.tsx';
import { TakeAway } from '../../parts/TakeAway.tsx';

/** Every setup against every other: the row less the column. */
export function PairsTab({
  job,
  judgement,
  list,
  units,
  measure,
}: {
  stored: StoredJob;
  job: Job;
  judgement: Judgement;
  list: Standings;
  units: ShownUnits;
  measure: string;
}) {
  const order = [...list.ranked, ...list.unranked].map((s) => s.setup);
  const all = [...order, job.question.baselineSetup];
  const small = all.length > 8;
  const rows = all.flatMap((a) =>
    all.flatMap((b) => {
      const d = a === b ? null : differenceBetween(job, judgement, measure, a, b);
      return d ? [{ setup: a, against: b, estimate: d.estimate, low: d.low, high: d.high, unit: d.unit }] : [];
    }),
  );
  return (
    <section className="sheet card" aria-label="Every pair">
      <div className="flex flex-wrap items-center gap-2">
        <h3 className="grow">Every setup against every other: the row less the column</h3>
        <TakeAway name={`${job.id} pairs`} rows={rows} />
      </div>
      <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Table of pairs">
        <table className="table mt-2">
          <thead>
            <tr>
              <th>
                <span className="sr-only">Setup</span>
              </th>
              {all.map((id) => (
                <th key={id} className="!text-center">
                  <Badge id={id} setups={job.setups} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {all.map((a) => (
              <tr key={a}>
                <th className="text-left whitespace-nowrap">
                  <Badge id={a} setups={job.setups} />{' '}
                  {!small && <span className="font-[450]">{job.setups.find((s) => s.id === a)?.label}</span>}
                </th>
                {all.map((b) => {
                  const d = a === b ? null : differenceBetween(job, judgement, measure, a, b);
                  const read = d && differenceInterval(d, units);
                  const apart = isSurelyBetter(list.pairs, a, b) || isSurelyBetter(list.pairs, b, a);
                  const own = d !== null && (d.low > 0 || d.high < 0);
                  const sure = [...list.ranked, ...list.unranked].find(
                    (s) => s.setup === (a === job.question.baselineSetup ? b : a),
                  )?.sure;
                  const withBase =
                    [a, b].includes(job.question.baselineSetup) && sure && (sure.low > 0 || sure.high < 0);
                  return (
                    <td
                      key={b}
                      className={`!text-center whitespace-nowrap ${own ? (d.low > 0 ? 'bg-[var(--gain-bg)]' : 'bg-[var(--loss-bg)]') : ''}`}
                    >
                      {read ? (
                        <>
                          <span className={apart || withBase ? 'font-[680]' : ''}>{read.estimate}</span>
                          <span className="text-ink-2 block text-[11px] leading-tight">±{read.half}</span>
                        </>
                      ) : (
                        <span className="text-ink-3">{a === b ? '·' : '–'}</span>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="text-ink-2 mt-2 text-[12px]">
        {rows[0] ? `In ${rows[0].unit === 'W' ? units.power : rows[0].unit}, at 95 % each. ` : ''}Filled: this pair can
        be told apart. Bold: also when all pairs are looked at at once; ranks rest on those.
      </p>
    </section>
  );
}
