import { dayTrackSvg, gainInterval, type ShownUnits, withUnit } from '@prandel/presentation';
import type { Gain, LiveSheet, Verdict } from '@prandel/core';
import { useMemo } from 'react';
import { Link } from 'react-router';
import type { Schemas } from '../../api/client.ts';
import { useJob, useUnits } from '../../api/hooks.ts';
import { useJudgement } from '../../judging/useJudgement.ts';
import { Badge, VerdictTag } from '../../parts/marks.tsx';

const LIVE_WORDS: Partial<Record<LiveSheet['state'], string>> = {
  hold: 'Hold',
  cooling: 'Cooling',
  ready: 'Ready',
  pulling: 'Pulling',
  review: 'In review',
  blocked: 'Blocked',
  'sensor-lost': 'Sensor lost',
  fitting: 'Fitting',
  between: 'Between rounds',
  stop: 'Stopped',
};

/** One job of the day: its track, where it stands, and its verdict once every planned pull is in. */
export function TodayJob({ row, live }: { row: Schemas['JobRow']; live: LiveSheet | null }) {
  const stored = useJob(row.id);
  const units = useUnits();
  const job = stored.data?.job ?? null;
  const { judgement } = useJudgement(row.id, job);
  const track = useMemo(() => (job && judgement ? dayTrackSvg(job, judgement, 880, 11) : ''), [job, judgement]);
  const open = live !== null && !live.planComplete;
  return (
    <article
      className="px-4 py-3"
      data-live={live !== null}
      style={live ? { boxShadow: 'inset 4px 0 0 var(--ink)' } : {}}
    >
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <Link to={`/jobs/${row.id}`} className="text-[15px] font-[650] hover:underline">
          {row.vehicle || row.number}
        </Link>
        <span className="text-ink-2 min-w-0 flex-1">{row.title}</span>
        {live && (
          <b className={live.state === 'hold' || live.state === 'stop' ? 'text-wait' : ''}>
            {live.state === 'between' && live.planComplete ? 'Plan is in' : LIVE_WORDS[live.state]}, on the rollers
          </b>
        )}
      </div>
      {track && <div className="mt-1" dangerouslySetInnerHTML={{ __html: track }} />}
      <div className="mt-1 flex flex-wrap gap-x-6 gap-y-1">
        {row.pulls === 0 && <span className="text-ink-3">No pulls yet.</span>}
        {job &&
          judgement &&
          row.pulls > 0 &&
          judgement.verdicts.map((v) => (
            <span key={v.candidate} className="flex items-center gap-2">
              <Badge id={v.candidate} setups={job.setups} />
              {open ? (
                <span className="text-ink-2">
                  {v.pulls.candidate.counted} counted, no verdict before the planned pulls are in
                </span>
              ) : (
                <>
                  <VerdictTag verdict={v.verdict satisfies Verdict} measure={v.measure} word="long" />
                  {v.gain && v.verdict !== 'not-comparable' && <GainFigure gain={v.gain} units={units} />}
                </>
              )}
            </span>
          ))}
      </div>
    </article>
  );
}

function GainFigure({ gain, units }: { gain: Gain; units: ShownUnits }) {
  const { estimate, half, unit } = gainInterval(gain, units);
  return <span className="num text-[14px]">{withUnit(`${estimate} ±${half}`, unit)}</span>;
}
