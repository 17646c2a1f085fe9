import { fittingTable, type FittingTime, type Job } from '@prandel/core';
import { Badge } from '../../parts/marks.tsx';

const SOURCE = { typed: 'typed', parts: 'hours of the parts', plan: 'minutes of fitting' } as const;

/** Minutes from setup to setup; what nobody typed comes from the hours of the parts, else from the plan's own minutes. */
export function FittingTable({
  job,
  times,
  fittingMinutes,
  onChange,
}: {
  job: Job;
  times: readonly FittingTime[];
  fittingMinutes: number;
  onChange: (times: FittingTime[]) => void;
}) {
  const all = [job.question.baselineSetup, ...job.question.candidateSetups];
  const table = fittingTable(job, times, fittingMinutes);
  const put = (from: string, to: string, text: string) => {
    const rest = times.filter((t) => t.from !== from || t.to !== to);
    const minutes = Number(text.replace(',', '.'));
    if (text.trim() === '') return onChange(rest);
    if (minutes >= 0 && minutes <= 2880) onChange([...rest, { from, to, minutes }]);
  };
  return (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Minutes from setup to setup">
      <table className="table">
        <thead>
          <tr className="text-ink-2 text-left text-[11.5px]">
            <th className="font-[450]">from, to</th>
            {all.map((id) => (
              <th key={id} className="!text-center">
                <Badge id={id} setups={job.setups} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {all.map((from) => (
            <tr key={from}>
              <th className="text-left">
                <Badge id={from} setups={job.setups} />
              </th>
              {all.map((to) => {
                const own = table.find((t) => t.from === from && t.to === to);
                return (
                  <td key={to} className="!text-center">
                    {own ? (
                      <input
                        className={`input !min-h-[26px] w-[56px] !px-1 !py-0 text-center text-[12.5px] ${own.source === 'typed' ? 'font-[650]' : 'text-ink-2'}`}
                        inputMode="numeric"
                        aria-label={`Minutes from ${from} to ${to}`}
                        title={SOURCE[own.source]}
                        value={own.source === 'typed' ? own.minutes : ''}
                        placeholder={String(Math.round(own.minutes))}
                        onChange={(e) => put(from, to, e.target.value)}
                      />
                    ) : (
                      '·'
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
