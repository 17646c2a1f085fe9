import {
  alsoSeen,
  sideOfSetup,
  toSi,
  type CandidateVerdict,
  type Job,
  type Judgement,
  type JudgedPull,
} from '@prandel/core';
import { channelName, channelReading, plain, shown, signed, withUnit, type ShownUnits } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { memo, useMemo } from 'react';
import { ask } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';
import { capital } from './ChannelCards.tsx';

/** Everything else that was logged of a pair, with a pointwise interval and no verdict word; a cooler's own figures below. */
export const AlsoSeenCard = memo(function AlsoSeenCard({
  jobId,
  job,
  judgement,
  v,
  units,
}: {
  jobId: string;
  job: Job;
  judgement: Judgement;
  v: CandidateVerdict;
  units: ShownUnits;
}) {
  const rows = useMemo(() => alsoSeen(job, judgement, v.candidate), [job, judgement, v.candidate]);
  const cooler = coolerRows(job, judgement, v.candidate);
  const bench = useBenchFlow(jobId, v.candidate);
  if (rows.length === 0 && cooler.length === 0 && bench.length === 0) return null;
  return (
    <section className="sheet card" aria-label="Also seen">
      <h3>Also seen</h3>
      <table className="table mt-1 [&_td]:!py-0.5">
        <thead>
          <tr>
            <th />
            <th className="r">{v.baseline}</th>
            <th className="r">{v.candidate}</th>
            <th className="r">
              {v.candidate} {'\u2212'} {v.baseline}
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => {
            const { to, unit, digits } = channelReading(row.channel, units);
            const step = (d: number) => to(d) - to(0);
            return (
              <tr key={row.channel}>
                <td>
                  {capital(channelName(row.channel))}
                  {row.read === 'peak' ? ', hottest' : ''}
                  {row.byHand && <span className="text-wait ml-1 text-[11px]">by hand</span>}
                </td>
                <td className="r">{plain(to(row.baseline), digits)}</td>
                <td className="r">{plain(to(row.candidate), digits)}</td>
                <td className="r whitespace-nowrap">
                  {signed(step(row.difference), digits)}{' '}
                  {Number.isFinite(row.half) ? `±${withUnit(plain(Math.abs(step(row.half)), digits), unit)}` : 'no ±'}
                </td>
              </tr>
            );
          })}
          {cooler.map(({ words, values: [a, b], digits }) => (
            <tr key={words}>
              <td>{words}</td>
              <td className="r">{plain(a, digits)}</td>
              <td className="r">{plain(b, digits)}</td>
              <td className="r">{signed(b - a, digits)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {bench.map((words) => (
        <p key={words} className="mt-1 text-[12px]">
          {words}
        </p>
      ))}
      <p className="text-ink-2 mt-1 text-[12px]">
        Plain means; the ± is the scatter of the pulls alone, so none of it is a verdict.
      </p>
    </section>
  );
});

/** What a bench said of the parts that a setup has fitted: a property of the part, beside the result and never in it. */
function useBenchFlow(jobId: string, candidate: string): string[] {
  const { pressure, temperature } = useUnits();
  const fitted = useQuery({
    queryKey: ['job', jobId, 'parts'],
    queryFn: () => ask('get', '/api/jobs/{id}/parts', { params: { path: { id: jobId } } }),
    staleTime: 60_000,
  });
  return (fitted.data ?? []).flatMap((part) => {
    const { setupId, name, benchFlowLS: flow, benchDropKpa: drop, benchAirC: air, benchSource: source } = part;
    if (setupId !== candidate || flow === null) return [];
    const at = drop === null ? '' : ` at ${shown(toSi(drop, 'kPa'), pressure)} ${pressure}`;
    const warm = air === null ? '' : `, ${shown(air, temperature)} ${temperature}`;
    const by = source === '' ? ' (no source given)' : ` (${source})`;
    return [`On a flow bench ${name} passes ${plain(flow, 0)} L/s${at}${warm}${by}.`];
  });
}

/** Effectiveness and loss of pressure of the cooler, means of the two sides; what was not logged is left out. */
function coolerRows(job: Job, { pulls }: Judgement, candidate: string) {
  const side = sideOfSetup(job, candidate);
  const mean = (of: number | null, read: (p: JudgedPull) => number) => {
    const own = pulls
      .filter((p) => p.used && sideOfSetup(job, p.setupId) === of)
      .map(read)
      .filter(Number.isFinite);
    return own.length > 0 ? own.reduce((a, b) => a + b, 0) / own.length : NaN;
  };
  const row = (words: string, digits: number, read: (p: JudgedPull) => number) => {
    const values = [mean(0, read), mean(side, read)] as const;
    return values.every(Number.isFinite) ? [{ words, digits, values }] : [];
  };
  return [
    ...row('Effectiveness of the cooler', 2, (p) => p.readings.effectiveness),
    ...row('Loss of pressure over the cooler, kPa', 1, (p) => p.readings.pressureDropKpa),
  ];
}
