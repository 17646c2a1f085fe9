import { interval, plain, shown, type ShownUnits } from '@prandel/presentation';
import {
  bestShifts,
  gearRuns,
  USE_PRESETS,
  type BestShift,
  type Job,
  type Judgement,
  type UseGain,
  type UseProfile,
} from '@prandel/core';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { StoredJob } from '../../api/client.ts';
import { Badge } from '../../parts/marks.tsx';
import { GearFields } from './GearFields.tsx';
import { TakeAway } from '../../parts/TakeAway.tsx';
import { UseFields } from './UseFields.tsx';
import { useUseGains, useWindowGains } from './useShootout.ts';

const BECAUSE: Record<BestShift['because'], string> = {
  'curves-meet': '',
  limiter: 'limiter',
  'curve-ends': 'end of the curve',
};

/** Gears and use: where to shift, the range between shifts, and which part wins in which use. */
export function UseTab({
  stored: { rowId, version },
  job,
  judged,
  judgement,
  units,
}: {
  stored: StoredJob;
  job: Job;
  /** As it was judged; null before. */
  judged: Job | null;
  judgement: Judgement | null;
  units: ShownUnits;
}) {
  const own = job.use;
  const profiles = useMemo(
    (): readonly UseProfile[] => [
      ...(own && !Object.values(USE_PRESETS).some((p) => p.name === own.name) ? [own] : []),
      ...Object.values(USE_PRESETS),
    ],
    [own],
  );
  const gains = useUseGains(rowId, judged, judgement, profiles);
  return (
    <div className="grid gap-2.5">
      <section className="sheet card grid gap-2" aria-label="Use">
        <h3>How the car is used</h3>
        <UseFields key={`use ${JSON.stringify(job.use)}`} {...{ rowId, job, version }} />
        {gains && gains.some((list) => list.length > 0) && <Profiles {...{ job, profiles, gains }} />}
      </section>
      <section className="sheet card grid gap-2" aria-label="Gears">
        <h3>The gears</h3>
        <GearFields key={`gears ${JSON.stringify(job.gearing)}`} {...{ rowId, job, version }} />
        {job.gearing && judgement && judged && <Shifts {...{ rowId, job, judged, judgement, units }} />}
      </section>
      {job.gearing && judgement && <Runs {...{ rowId, job, judgement }} />}
    </div>
  );
}

/** The parts in order under each use, side by side. */
function Profiles({
  job,
  profiles,
  gains,
}: {
  job: Job;
  profiles: readonly UseProfile[];
  gains: readonly (readonly UseGain[])[];
}) {
  const rows = profiles.flatMap((p, i) =>
    gains[i]!.map((g) => ({
      use: p.name,
      setup: g.candidate,
      percent: g.estimate,
      low: g.low,
      high: g.high,
      covered: g.covered,
    })),
  );
  return (
    <div>
      <div className="flex items-center gap-2">
        <p className="text-ink-2 grow text-[12.5px]">
          The mean gain in each use, in the order of what is sure. A part can win at the top and lose on the street.
        </p>
        <TakeAway name={`${job.id} use`} rows={rows} />
      </div>
      <div className="mt-1 grid gap-2 sm:grid-cols-2 lg:grid-cols-4" data-testid="profiles">
        {profiles.map((profile, i) => {
          const list = [...gains[i]!].sort((a, b) => b.low - a.low);
          return (
            <div key={profile.name} className="rounded border border-[var(--rule)] px-2.5 py-1.5">
              <b>{profile.name}</b>
              {list[0] && list[0].covered < 0.995 && (
                <span className="text-ink-2 text-[11.5px]">
                  {' '}
                  · {plain(100 * list[0].covered, 0)} % of it was pulled
                </span>
              )}
              {list.length === 0 && <p className="text-ink-2 text-[12px]">Nothing of it was pulled.</p>}
              <ol className="mt-1 grid gap-0.5 text-[12.5px]">
                {list.map((g) => {
                  const read = interval(g.estimate, g.low, g.high);
                  const sure = g.low > 0 ? 'text-[var(--gain)]' : g.high < 0 ? 'text-[var(--loss)]' : 'text-ink-2';
                  return (
                    <li key={g.candidate} className="flex items-baseline gap-1.5">
                      <Badge id={g.candidate} setups={job.setups} />
                      <b className={sure}>{read.estimate} %</b>
                      <span className="text-ink-2 text-[11.5px]">
                        {read.low} to {read.high}
                      </span>
                    </li>
                  );
                })}
              </ol>
            </div>
          );
        })}
      </div>
    </div>
  );
}

/** Best shifts, and what each setup does between two of them. */
function Shifts({
  rowId,
  job,
  judged,
  judgement,
  units,
}: {
  rowId: string;
  job: Job;
  judged: Job;
  judgement: Judgement;
  units: ShownUnits;
}) {
  const all = [job.question.baselineSetup, ...job.question.candidateSetups];
  const shifts = useMemo(
    () =>
      all.map((id) => {
        const curve = judgement.setups.find((s) => s.setupId === id)?.power;
        return { id, list: curve && curve.values.length > 1 ? bestShifts(curve, job.gearing!) : [] };
      }),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the setups are the judgement's
    [judgement, job.gearing],
  );
  const [gear, setGear] = useState(1);
  const base = shifts[0]!.list;
  const chosen = base.find((s) => s.gear === gear) ?? base[0];
  const window = useMemo(
    (): readonly (readonly [number, number])[] =>
      chosen ? [[Math.ceil(chosen.intoRpm / 25) * 25, Math.floor(chosen.atRpm / 25) * 25]] : [],
    [chosen],
  );
  const seen = useWindowGains(rowId, judged, judgement, window)?.[0];
  if (base.length === 0) return <p className="text-ink-2">One gear has no shift.</p>;
  const rows = shifts.flatMap(({ id, list }) =>
    list.map((s) => ({
      setup: id,
      from: s.gear,
      to: s.gear + 1,
      'shift rpm': s.atRpm,
      into: s.intoRpm,
      because: s.because,
      'mean W': s.meanW,
    })),
  );
  return (
    <>
      <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Best shifts">
        <table className="table">
          <thead>
            <tr className="text-ink-2 text-left text-[11.5px]">
              <th className="font-[450]">
                Best shift, rpm <TakeAway name={`${job.id} shifts`} rows={rows} />
              </th>
              {base.map((s) => (
                <th key={s.gear} className="r font-[450]">
                  {s.gear} to {s.gear + 1}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shifts.map(({ id, list }) => (
              <tr key={id}>
                <td>
                  <Badge id={id} setups={job.setups} /> {job.setups.find((s) => s.id === id)?.label}
                </td>
                {base.map((b) => {
                  const own = list.find((s) => s.gear === b.gear);
                  return (
                    <td key={b.gear} className="r whitespace-nowrap">
                      {own ? (
                        <>
                          <b>{plain(own.atRpm, 0)}</b>
                          <span className="text-ink-2 block text-[11px] leading-tight">
                            {BECAUSE[own.because] || `into ${plain(own.intoRpm, 0)}`}
                          </span>
                        </>
                      ) : (
                        '–'
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {chosen && (
        <div className="grid gap-1.5">
          <div className="flex flex-wrap items-center gap-2">
            <span className="text-[12.5px]">Between shifts in gear</span>
            <div className="seg" role="group" aria-label="Gear">
              {base.map((s) => (
                <button
                  key={s.gear}
                  type="button"
                  aria-pressed={s.gear === chosen.gear}
                  onClick={() => setGear(s.gear)}
                >
                  {s.gear + 1}
                </button>
              ))}
            </div>
            <span className="text-ink-2 text-[12.5px]">
              {window[0]?.join('–')} rpm, as {job.question.baselineSetup} is shifted. Also seen: only the declared
              window decides.
            </span>
          </div>
          <ul className="flex flex-wrap gap-x-5 gap-y-1 text-[13px]" data-testid="also-seen">
            {seen?.gains.map(({ candidate, gain }) => {
              const read = interval(gain.percent!, gain.lowPercent!, gain.highPercent!);
              return (
                <li key={candidate}>
                  <Badge id={candidate} setups={job.setups} /> <b>{read.estimate} %</b>{' '}
                  <span className="text-ink-2">
                    {read.low} to {read.high}; mean{' '}
                    {shown(
                      shifts.find((s) => s.id === candidate)?.list.find((s) => s.gear === chosen.gear)?.meanW,
                      units.power,
                    )}{' '}
                    {units.power}
                  </span>
                </li>
              );
            })}
            {seen?.gains.length === 0 && <li className="text-ink-2">Not every pull covers this range.</li>}
          </ul>
        </div>
      )}
    </>
  );
}

/** Times through the gears. */
function Runs({ rowId, job, judgement }: { rowId: string; job: Job; judgement: Judgement }) {
  const [typed, setTyped] = useState({ from: '60', to: '140' });
  const [from, to] = [Number(typed.from), Number(typed.to)];
  const able = from > 0 && to > from && to <= 400;
  const runs = useMemo(() => (able ? gearRuns(job, judgement, from, to) : []), [able, job, judgement, from, to]);
  const base = Array.isArray(runs) ? runs[0]?.run?.seconds : undefined;
  const rows = Array.isArray(runs)
    ? runs.map(({ setupId, run }) => ({
        setup: setupId,
        'from km/h': from,
        'to km/h': to,
        s: run?.seconds ?? '',
        gears: run?.gears.join(' ') ?? '',
      }))
    : [];
  return (
    <section className="sheet card grid gap-2" aria-label="Through the gears">
      <div className="flex flex-wrap items-center gap-2">
        <h3 className="grow">Through the gears</h3>
        <label className="flex items-center gap-1.5">
          from
          <input
            className="input !min-h-[28px] w-[64px] !py-0.5 text-right"
            aria-label="From km/h"
            inputMode="decimal"
            value={typed.from}
            onChange={(e) => setTyped({ ...typed, from: e.target.value })}
          />
        </label>
        <label className="flex items-center gap-1.5">
          to
          <input
            className="input !min-h-[28px] w-[64px] !py-0.5 text-right"
            aria-label="To km/h"
            inputMode="decimal"
            value={typed.to}
            onChange={(e) => setTyped({ ...typed, to: e.target.value })}
          />
          km/h
        </label>
        <TakeAway name={`${job.id} through the gears`} rows={rows} />
      </div>
      {!able && <p className="text-ink-2">From a lower to a higher speed, up to 400 km/h.</p>}
      {runs === 'no-car' && (
        <p className="text-ink-2">
          Mass, drag and rolling of the car are needed:{' '}
          <Link className="underline" to={`/jobs/${rowId}/road`}>
            type them under Road
          </Link>
          .
        </p>
      )}
      {Array.isArray(runs) && (
        <ul className="flex flex-wrap gap-x-6 gap-y-1.5">
          {runs.map(({ setupId, run }) => (
            <li key={setupId} className="flex items-baseline gap-2">
              <Badge id={setupId} setups={job.setups} />
              {run ? (
                <>
                  <b className="num text-[19px]">{run.seconds.toFixed(2)} s</b>
                  <span className="text-ink-2 text-[12px]">
                    {base !== undefined && setupId !== job.question.baselineSetup
                      ? `${plain(run.seconds - base, 2)} s · `
                      : ''}
                    gears {run.gears.join(', ')}
                  </span>
                </>
              ) : (
                <span className="text-ink-2">the curve does not reach</span>
              )}
            </li>
          ))}
        </ul>
      )}
      <p className="text-ink-3 text-[11.5px]">
        A forecast from the rollers with the car’s mass, drag and rolling: no verdict. A shift takes{' '}
        {plain(job.gearing?.shiftSeconds ?? 0.4, 1)} s without drive.
      </p>
    </section>
  );
}
