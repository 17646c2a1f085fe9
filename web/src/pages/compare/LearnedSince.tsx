import { memo } from 'react';
import { gainInterval, verdictLook, type ShownUnits, withUnit } from '@prandel/presentation';
import type { BayPrior, CandidateVerdict, Job, Judgement } from '@prandel/core';
import { useMutation } from '@tanstack/react-query';
import { ask } from '../../api/client.ts';
import { Notice } from '../../parts/Field.tsx';

/** Judges the job once more with what its bay has learned since, and shows both. What the job was judged with stays. */
export const LearnedSince = memo(function LearnedSince({
  rowId,
  bayId,
  job,
  v,
  units,
  judgeOnce,
}: {
  rowId: string;
  bayId: string;
  job: Job;
  v: CandidateVerdict;
  units: ShownUnits;
  judgeOnce: (job: Job) => Promise<Judgement>;
}) {
  const again = useMutation({
    mutationFn: async () => {
      const params = { path: { id: bayId }, query: { exceptJob: rowId } };
      const { prior } = await ask('get', '/api/bays/{id}/history', { params });
      return { prior, judgement: await judgeOnce({ ...job, bay: { ...job.bay, prior } }) };
    },
  });
  const now = again.data?.judgement.verdicts.find((other) => other.candidate === v.candidate);
  return (
    <section className="sheet card" aria-label="What the bay has learned since">
      <button className="btn sm" disabled={again.isPending} onClick={() => again.mutate()}>
        Judge again with what the bay has learned since
      </button>
      {again.error && <Notice kind="bad">{again.error.message}</Notice>}
      {now && again.data && (
        <table className="table mt-1.5" data-testid="learned-since">
          <tbody>
            <Row words="As judged" prior={job.bay.prior} v={v} units={units} />
            <Row words="With what is known now" prior={again.data.prior} v={now} units={units} />
          </tbody>
        </table>
      )}
      {now && (
        <p className="text-ink-2 mt-1 text-[12px]">The job keeps the first: a later day never rewrites a verdict.</p>
      )}
    </section>
  );
});

function Row({
  words,
  prior,
  v,
  units,
}: {
  words: string;
  prior: BayPrior | null;
  v: CandidateVerdict;
  units: ShownUnits;
}) {
  const g = v.gain && gainInterval(v.gain, units);
  const of = prior ? `${prior.jobs} jobs, ${prior.returnChecks} return checks` : 'nothing known of the bay';
  return (
    <tr>
      <td className="leading-snug">
        {words}
        <span className="text-ink-3 block text-[11.5px]">{of}</span>
      </td>
      <td className="r whitespace-nowrap">{g ? withUnit(`${g.estimate} ±${g.half}`, g.unit) : 'no estimate'}</td>
      <td className="r">{verdictLook(v.verdict, v.measure).word}</td>
    </tr>
  );
}
