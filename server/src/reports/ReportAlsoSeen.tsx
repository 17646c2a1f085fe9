import { alsoSeen } from '@prandel/core';
import { channelName, channelReading, plain, signed, withUnit } from '@prandel/presentation';
import type { ReportInput } from './reportInput.ts';

/** What else was logged of each pair, with a pointwise interval and no verdict word; nothing where nothing else was. */
export function ReportAlsoSeen({ input: { job, judgement, units } }: { input: ReportInput }) {
  const lists = job.question.candidateSetups
    .map((candidate) => ({ candidate, rows: alsoSeen(job, judgement, candidate) }))
    .filter(({ rows }) => rows.length > 0);
  if (lists.length === 0) return null;
  return (
    <section>
      <h2>
        Also seen<span>plain means; ± is the scatter of the pulls alone, so none of it is a verdict</span>
      </h2>
      {lists.map(({ candidate, rows }) => (
        <table key={candidate}>
          <thead>
            <tr>
              <th />
              <th className="r">{job.question.baselineSetup}</th>
              <th className="r">{candidate}</th>
              <th className="r">difference</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => {
              const { to, unit, digits } = channelReading(row.channel, units);
              const step = (d: number) => to(d) - to(0);
              const name = channelName(row.channel);
              return (
                <tr key={row.channel}>
                  <td>
                    {name.charAt(0).toUpperCase()}
                    {name.slice(1)}
                    {row.read === 'peak' ? ', hottest' : ', mean over the window'}
                    {row.byHand ? ' (read by hand)' : ''}
                  </td>
                  <td className="r">{plain(to(row.baseline), digits)}</td>
                  <td className="r">{plain(to(row.candidate), digits)}</td>
                  <td className="r">
                    {signed(step(row.difference), digits)}{' '}
                    {Number.isFinite(row.half)
                      ? `±${withUnit(plain(Math.abs(step(row.half)), digits), unit)}`
                      : `${unit}, no ±`}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      ))}
      {job.loggers?.length ? (
        <p className="small">
          From other loggers:{' '}
          {job.loggers.map((l) => `${l.name} (${l.channels.map(channelName).join(', ')})`).join('; ')}.
        </p>
      ) : null}
    </section>
  );
}
