import { matters, measureWords, permanentNotes } from '@prandel/presentation';
import {
  crossedIn,
  isCurved,
  ledgerOf,
  measureFacts,
  measureName,
  USE_PRESETS,
  type Job,
  type RankedBy,
} from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { Link, NavLink, useParams } from 'react-router';
import { ask } from '../../api/client.ts';
import { useJob, useUnits } from '../../api/hooks.ts';
import { useJudgement } from '../../judging/useJudgement.ts';
import { Choice } from '../../parts/Choice.tsx';
import { EarlyLook } from '../../parts/EarlyLook.tsx';
import { Notice } from '../../parts/Field.tsx';
import { CostsTab } from './CostsTab.tsx';
import { CrossedTab } from './CrossedTab.tsx';
import { CurvesTab } from './CurvesTab.tsx';
import { LedgerTab } from './LedgerTab.tsx';
import { PairsTab } from './PairsTab.tsx';
import { RankingTab } from './RankingTab.tsx';
import { RateField } from './RateField.tsx';
import { UseTab } from './UseTab.tsx';
import { useRecordedParts, useStandings, useUseGains } from './useShootout.ts';

const RANKS: readonly (readonly [RankedBy, string])[] = [
  ['sure', 'Rank by the sure gain'],
  ['estimate', 'Rank by the estimate'],
  ['value', 'Rank by cost per sure kW'],
  ['hours', 'Rank by hours'],
  ['use', 'Rank by the use of the car'],
];

const TABS = [
  ['ranking', 'Ranking'],
  ['costs', 'Costs'],
  ['pairs', 'Every pair'],
  ['crossed', 'Crossed'],
  ['steps', 'Steps'],
  ['use', 'Gears and use'],
  ['curves', 'Curve facts'],
] as const;

/** Several setups on one car: which part, and is it worth it. */
export function ShootoutPage() {
  const { id = '', tab = 'ranking' } = useParams();
  const stored = useJob(id);
  const units = useUnits();
  const [by, setBy] = useState<RankedBy>('sure');
  const [asked, setAsked] = useState<string | null>(null);
  const [rate, setRate] = useState<number | null>(null);
  const money = useQuery({ queryKey: ['money'], queryFn: () => ask('get', '/api/money') });
  const saved = stored.data?.job ?? null;
  // Another rate is tried on this page only; the pulls are judged without it.
  const { judgement, judged, step, busy, failed } = useJudgement(id, saved);
  const job = useMemo((): Job | null => {
    if (!saved) return null;
    const own = saved.money ?? { currency: money.data?.currency ?? null, hourlyRate: money.data?.hourlyRate ?? null };
    return { ...saved, money: rate === null ? own : { ...own, hourlyRate: rate } };
  }, [saved, rate, money.data]);
  const names = saved?.question.measures.map(measureName) ?? [];
  const measure = names.find((name) => name === asked) ?? names[0] ?? 'windowMeanPower';
  const recorded = useRecordedParts(id);
  const whole = step === 'all' ? judgement : null;
  const profile = saved?.use ?? USE_PRESETS.street;
  const profiles = useMemo(() => [profile], [profile]);
  const use = useUseGains(id, judged, by === 'use' ? whole : null, profiles);
  const list = useStandings(job, whole, measure, by, recorded, use?.[0] ?? null);
  const ledger = useMemo(
    () => (job && whole ? ledgerOf(job, whole, measure, recorded) : null),
    [job, whole, measure, recorded],
  );
  const crossed = useMemo(() => (job && whole ? crossedIn(job, whole, measure) : []), [job, whole, measure]);
  if (stored.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    );
  if (!job || !stored.data || !saved)
    return <div className="progress" role="progressbar" aria-label="Loading the job" />;
  const candidates = job.question.candidateSetups;
  const shared = { stored: stored.data, job, units, measure };
  const asksOfCurves = job.question.measures.some((m) => isCurved(measureFacts(m)));
  return (
    <div className="mx-auto grid max-w-[1280px] gap-2.5 px-4 pt-2.5 pb-4">
      <div className="flex flex-wrap items-start gap-3">
        <div className="min-w-0 flex-1 basis-[460px]">
          <h1>Which part, and is it worth it?</h1>
          <p className="text-ink-2 mt-0.5 text-[12.5px]">
            {job.vehicle.label} · {job.title} · {candidates.length} {candidates.length === 1 ? 'setup' : 'setups'}{' '}
            against {job.question.baselineSetup} · {measureWords(measure).name},{' '}
            {matters(measure, job.question.measures.find((m) => measureName(m) === measure)?.meaningful ?? 1, units)}{' '}
            would matter
          </p>
        </div>
        <RateField
          money={job.money ?? { currency: null, hourlyRate: null }}
          saved={money.data ?? null}
          onTry={setRate}
        />
        {names.length > 1 && (
          <Choice
            label="Measure"
            value={measure}
            options={names.map((n) => [n, measureWords(n).name] as const)}
            onChange={setAsked}
          />
        )}
        <Choice
          label="Order of the ranking"
          value={by}
          options={asksOfCurves ? RANKS : RANKS.slice(0, -1)}
          onChange={setBy}
        />
        <Link className="btn pri" to={`/jobs/${id}/report`}>
          Report
        </Link>
      </div>
      <nav className="seg justify-self-start" aria-label="Views of the setups">
        {TABS.map(([key, words]) => (
          <NavLink
            key={key}
            to={key === 'ranking' ? `/jobs/${id}/which` : `/jobs/${id}/which/${key}`}
            end
            className={({ isActive }) =>
              `flex items-center border-l border-[var(--rule)] px-3 first:border-l-0 ${isActive ? 'bg-[#edeae1] font-[620] text-ink' : 'text-ink-2'}`
            }
          >
            {words}
          </NavLink>
        ))}
      </nav>
      <div className="-my-1 h-[2px]">
        {busy && <div className="progress" role="progressbar" aria-label="Judging" />}
      </div>
      {failed && <Notice kind="bad">{failed}</Notice>}
      {permanentNotes(job).map((words) => (
        <Notice key={words}>{words}</Notice>
      ))}
      <EarlyLook job={job} />
      {candidates.length === 0 ? (
        <Empty id={id} words="A commissioning day compares nothing." />
      ) : tab === 'costs' ? (
        <CostsTab {...shared} recorded={recorded} />
      ) : tab === 'use' ? (
        <UseTab {...shared} judgement={whole} judged={judged} />
      ) : tab === 'crossed' ? (
        <CrossedTab {...shared} crossed={crossed} />
      ) : saved.pulls.length === 0 ? (
        <Empty id={id} words="No pulls yet." />
      ) : !whole || !list || !judged ? (
        busy ? null : (
          <Empty id={id} words="Nothing can be judged yet." />
        )
      ) : tab === 'pairs' ? (
        <PairsTab {...shared} judgement={whole} list={list} />
      ) : tab === 'steps' ? (
        <LedgerTab {...shared} ledger={ledger} />
      ) : tab === 'curves' ? (
        <CurvesTab {...shared} judgement={whole} />
      ) : (
        <RankingTab {...shared} judged={judged} judgement={whole} list={list} by={by} use={use?.[0] ?? null} />
      )}
    </div>
  );
}

function Empty({ id, words }: { id: string; words: string }) {
  return (
    <div className="sheet p-8 text-center text-[15px]">
      {words}{' '}
      <Link className="underline" to={`/jobs/${id}/plan`}>
        Plan the rounds
      </Link>
      , pull them on a bay, or{' '}
      <Link className="underline" to={`/jobs/${id}/day`}>
        drop the day’s files
      </Link>
      .
    </div>
  );
}
