import {
  differenceIn,
  firstWords,
  frontierSvg,
  money as moneyWords,
  nextQuestion,
  plain,
  stripHeadSvg,
  stripScale,
  tellCustomer,
  type ShownUnits,
} from '@prandel/presentation';
import {
  frontierChances,
  OUTCOME_FIELDS,
  withinBudget,
  type Job,
  type Judgement,
  type RankedBy,
  type Standing,
  type Standings,
  type UseGain,
} from '@prandel/core';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { StoredJob } from '../../api/client.ts';
import { Badge } from '../../parts/marks.tsx';
import { OUTCOME_LABELS } from './outcomeLabels.ts';
import { TakeAway } from '../../parts/TakeAway.tsx';
import { RankingRow } from './RankingRow.tsx';
import { useJointGains } from './useShootout.ts';

const STRIP = 190;

/** The ranking, the frontier, and what may be said. */
export function RankingTab({
  stored: { rowId },
  job,
  judged,
  judgement,
  list,
  units,
  measure,
  by,
  use,
}: {
  stored: StoredJob;
  job: Job;
  /** The job as it was judged, without what only costs are reckoned with. */
  judged: Job;
  judgement: Judgement;
  list: Standings;
  units: ShownUnits;
  measure: string;
  by: RankedBy;
  use: readonly UseGain[] | null;
}) {
  const [budget, setBudget] = useState('');
  const joint = useJointGains(rowId, judged, judgement, measure);
  const all = [...list.ranked, ...list.unranked];
  const currency = job.money?.currency ?? all.find((s) => s.cost?.currency)?.cost?.currency ?? '';
  const unit = all.find((s) => s.verdict.gain)?.verdict.gain?.unit ?? 'W';
  const read = differenceIn(unit, units);
  const scale = stripScale(
    all.flatMap(({ verdict: { gain } }) => (gain ? [read.to(gain.lowValue), read.to(gain.highValue)] : [])),
    STRIP,
  );
  const chances = useMemo(() => {
    if (!joint) return null;
    const priced = joint.candidates.map((c) => all.find((s) => s.setup === c)?.cost?.total ?? null);
    if (priced.some((c) => c === null)) return null;
    const shares = frontierChances(priced as number[], joint.draws);
    return new Map(joint.candidates.map((c, i) => [c, shares[i]!]));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- `all` is made of `list`
  }, [joint, list]);
  const frontier = useMemo(
    () => frontierSvg({ setups: job.setups, standings: list, units, currency, width: 620, height: 292, fontSize: 11 }),
    [job.setups, list, units, currency],
  );
  const limit = budget.trim() === '' ? null : Number(budget.replace(',', '.'));
  const bought = limit !== null && limit >= 0 ? withinBudget(list, limit) : null;
  const places = list.ranked.length + list.unranked.filter((s) => s.rank !== null).length;
  const range = judgement.window ?? [3000, 6000];
  const bands = all.flatMap((s) => s.verdict.bands);
  const span: [number, number] =
    bands.length > 0
      ? [Math.min(...bands.map((b) => b.fromRpm)), Math.max(...bands.map((b) => b.toRpm))]
      : [range[0], range[1]];
  const rows = all.map((s) => rowOf(s, job, chances?.get(s.setup) ?? null));
  const row = { job, units, scale, places, span, by, use, chances };
  return (
    <div className="grid gap-2.5">
      <section className="sheet overflow-x-auto px-3 py-2" aria-label="Ranking" tabIndex={0}>
        <div className="flex flex-wrap items-center gap-2">
          <h3 className="grow" data-testid="first">
            {firstWords(job, list)}
          </h3>
          <TakeAway name={`${job.id} ranking`} rows={rows} />
        </div>
        <table className="table mt-1">
          <thead>
            <tr className="text-ink-2 text-left text-[11.5px]">
              <th className="w-[86px] font-[450]">Place</th>
              <th className="font-[450]">Part, against {job.question.baselineSetup}</th>
              <th className="font-[450]">Verdict</th>
              <th className="font-[450]">
                <div>
                  {judgement.window ? `${judgement.window.join('–')} rpm, ` : ''}
                  {read.unit}
                </div>
                <div dangerouslySetInnerHTML={{ __html: stripHeadSvg(scale, 10.5) }} />
              </th>
              <th className="font-[450]">
                By engine speed
                <div className="text-ink-3 text-[10.5px]">
                  {span[0]}–{span[1]} rpm
                </div>
              </th>
              <th className="r font-[450]">All in</th>
              <th className="r font-[450]">Hours</th>
              <th className="r font-[450]">Per sure {unit === 'W' ? 'kW' : unit}</th>
            </tr>
          </thead>
          <tbody>
            {list.ranked.map((s, i) => (
              <RankingRow key={s.setup} s={s} {...row} place={i + 1} ties={list.ties} />
            ))}
            {list.ranked.length > 0 && list.unranked.length > 0 && (
              <tr>
                <td colSpan={8} className="text-ink-2 !border-b-2 !border-[var(--rule-strong)] !py-1 text-[11.5px]">
                  Not ranked: nothing is divided by a gain that is not verified.
                </td>
              </tr>
            )}
            {list.unranked.map((s) => (
              <RankingRow key={s.setup} s={s} {...row} place={null} ties={[]} />
            ))}
          </tbody>
        </table>
        <p className="text-ink-3 mt-1 text-[11.5px]">
          A place is an interval: from 1 + the number that are surely better to the number that are not surely worse;
          all intervals hold at once. Parts within one bracket cannot be told apart on this day.
        </p>
      </section>
      <div className="grid items-start gap-2.5 lg:grid-cols-[minmax(0,648px)_minmax(0,1fr)]">
        <section className="sheet card" aria-label="Gain against cost">
          <div className="flex flex-wrap items-center gap-2">
            <h3 className="grow">Gain against all-in cost</h3>
            <label className="flex items-center gap-1.5 text-[12.5px]">
              Within
              <input
                className="input !min-h-[28px] w-[82px] !py-0.5 text-right"
                inputMode="decimal"
                aria-label="Budget"
                value={budget}
                onChange={(e) => setBudget(e.target.value)}
              />
              {currency}
            </label>
            <TakeAway name={`${job.id} frontier`} svg={frontier} />
          </div>
          {limit !== null && (
            <p className="mt-1 text-[13px] font-[560]" data-testid="budget">
              {!(limit >= 0)
                ? 'Type an amount such as 250.'
                : bought
                  ? `The best sure gain for that: ${bought.setup} (${labelOf(job, bought.setup)}), ${moneyWords(bought.cost!.total, bought.cost!.currency)} in all.`
                  : 'No verified part fits that budget.'}
            </p>
          )}
          {frontier ? (
            <div className="mt-1" dangerouslySetInnerHTML={{ __html: frontier }} />
          ) : (
            <p className="text-ink-2 mt-2">
              No part has both a gain and a price yet.{' '}
              <Link className="underline" to={`/jobs/${rowId}/which/costs`}>
                Type what they cost
              </Link>
              .
            </p>
          )}
          {chances && (
            <p className="text-ink-2 mt-1 text-[12px]" data-testid="chances">
              Chance that nothing cheaper gains more:{' '}
              {[...chances].map(([c, share]) => `${c} ${plain(100 * share, 0)} %`).join(', ')}.
            </p>
          )}
        </section>
        <section className="sheet card grid content-start gap-1.5" aria-label="What you can tell the customer">
          <h3>What you can tell the customer</h3>
          {tellCustomer(job, list, units).map((words) => (
            <p key={words} className="border-b border-[var(--rule-faint)] pb-1.5 text-[13.5px] last:border-b-0">
              {words}
            </p>
          ))}
          <h3 className="mt-1">Worth asking next</h3>
          <p className="text-[13.5px]" data-testid="next-question">
            {nextQuestion(job, list)}
          </p>
          <Outcomes job={job} list={all} />
        </section>
      </div>
    </div>
  );
}

const labelOf = (job: Job, id: string) => job.setups.find((s) => s.id === id)?.label ?? id;

/** What else the parts do; shown beside the rank, never mixed into it. */
function Outcomes({ job, list }: { job: Job; list: readonly Standing[] }) {
  const noted = list.flatMap(({ setup }) => {
    const own = job.setups.find((s) => s.id === setup)?.outcomes;
    return own && Object.keys(own).length > 0 ? [{ setup, own }] : [];
  });
  if (noted.length === 0) return null;
  return (
    <>
      <h3 className="mt-1">Beside the power</h3>
      <ul className="grid gap-1 text-[12.5px]">
        {noted.map(({ setup, own }) => (
          <li key={setup} className="flex gap-2">
            <Badge id={setup} setups={job.setups} />
            <span>
              {OUTCOME_FIELDS.flatMap((f) =>
                own[f] ? [`${OUTCOME_LABELS[f].toLowerCase()}: ${own[f]}${f === 'difficulty' ? ' of 5' : ''}`] : [],
              ).join('; ')}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

/** A row of the ranking as a table takes it along. */
function rowOf(s: Standing, job: Job, chance: number | null): Record<string, unknown> {
  const { gain } = s.verdict;
  return {
    setup: s.setup,
    part: labelOf(job, s.setup),
    verdict: s.verdict.verdict,
    'place from': s.rank?.from ?? '',
    'place to': s.rank?.to ?? '',
    unranked: s.unranked ?? '',
    gain: gain?.value ?? '',
    low: gain?.lowValue ?? '',
    high: gain?.highValue ?? '',
    unit: gain?.unit ?? '',
    'sure low': s.sure?.low ?? '',
    'sure unit': s.sure?.unit ?? '',
    cost: s.cost?.total ?? '',
    currency: s.cost?.currency ?? '',
    hours: s.cost?.hours ?? '',
    'hours from': s.cost?.hoursFrom ?? '',
    'cost per unit': s.perUnit ?? '',
    'cost per sure unit': s.perSureUnit ?? '',
    dominated: s.dominated.how ?? '',
    'chance on the frontier': chance ?? '',
  };
}
