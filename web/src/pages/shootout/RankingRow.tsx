import {
  bandCellsSvg,
  costGapWords,
  costSourceWords,
  differenceIn,
  gainInterval,
  intervalStripSvg,
  money as moneyWords,
  plain,
  rankBarSvg,
  rankWords,
  unrankedWords,
  type ShownUnits,
  type StripScale,
} from '@prandel/presentation';
import type { Job, RankedBy, Standing, Standings, UseGain } from '@prandel/core';
import { Badge, VerdictTag } from '../../parts/marks.tsx';

const ROW = 34;

/** A setup of the ranking: its place, verdict, interval, bands and what it costs. */
export function RankingRow({
  s,
  job,
  units,
  scale,
  places,
  span,
  by,
  use,
  place,
  ties,
}: {
  s: Standing;
  job: Job;
  units: ShownUnits;
  scale: StripScale;
  places: number;
  span: readonly [number, number];
  by: RankedBy;
  use: readonly UseGain[] | null;
  place: number | null;
  ties: Standings['ties'];
}) {
  const { verdict: v, cost } = s;
  const read = v.gain ? gainInterval(v.gain, units) : null;
  const to = v.gain ? differenceIn(v.gain.unit, units).to : null;
  const setup = job.setups.find((own) => own.id === s.setup);
  const tied = place === null ? [] : ties.flatMap((t, i) => (place - 1 >= t[0] && place - 1 <= t[1] ? [i] : []));
  const used = use?.find((u) => u.candidate === s.setup);
  return (
    <tr data-setup={s.setup} data-place={place ?? ''}>
      <td className="whitespace-nowrap">
        <div className="flex items-center gap-1.5">
          <span className="flex h-[38px] gap-[3px]" aria-hidden>
            {tied.map((i) => (
              <span key={i} className="border-ink-2 w-[5px] border-y border-l" />
            ))}
          </span>
          {s.rank && place !== null ? (
            <span>
              <b className="num text-[19px] leading-none">{rankWords(s.rank)}</b>
              <span className="block" dangerouslySetInnerHTML={{ __html: rankBarSvg(s.rank, places, place, 46, 10) }} />
            </span>
          ) : (
            <span className="text-ink-3 px-2">–</span>
          )}
        </div>
      </td>
      <td className="min-w-[170px]">
        <span className="flex items-center gap-2">
          <Badge id={s.setup} setups={job.setups} />
          <span className="min-w-0">
            <span className="block text-[13.5px] leading-tight font-[620]">{setup?.label}</span>
            <span className="text-ink-2 block text-[11.5px] leading-tight">
              {v.pulls.candidate.used} counted pulls
              {setup?.addedAt ? ', added on the day' : ''}
              {setup?.closedCourseOnly ? ', closed course only' : ''}
              {setup?.cure ? ', a cure, no part' : ''}
              {setup?.permanent ? ', cannot come off again' : ''}
            </span>
          </span>
        </span>
      </td>
      <td className="min-w-[112px]">
        <VerdictTag verdict={v.verdict} measure={v.measure} />
        {place === null && (
          <span className="text-ink-2 block max-w-[200px] text-[11.5px] leading-tight">{unrankedWords(s)}</span>
        )}
      </td>
      <td className="whitespace-nowrap">
        <span
          className="inline-block align-middle"
          dangerouslySetInnerHTML={{
            __html: intervalStripSvg(
              scale,
              v.gain && to
                ? { estimate: to(v.gain.value), low: to(v.gain.lowValue), high: to(v.gain.highValue) }
                : null,
              v.verdict,
              ROW,
            ),
          }}
        />
        <span className={`ml-1 align-middle text-[12.5px] ${v.verdict === 'not-comparable' ? 'line-through' : ''}`}>
          {read ? (
            <>
              <b>{read.estimate}</b> ±{read.half} {read.unit}
            </>
          ) : (
            'no estimate'
          )}
          {by === 'use' && used && (
            <span className="text-ink-2 block">
              in use {plain(used.estimate, 1)} % ({plain(used.low, 1)} to {plain(used.high, 1)})
            </span>
          )}
        </span>
      </td>
      <td>
        {v.bands.length > 0 && <span dangerouslySetInnerHTML={{ __html: bandCellsSvg(v.bands, span, 150, 14) }} />}
      </td>
      <td className="r whitespace-nowrap">
        {cost?.total != null ? (
          <b className="num text-[16px]">{moneyWords(cost.total, cost.currency)}</b>
        ) : (
          <span className="text-ink-2 block max-w-[110px] text-[11.5px] leading-tight whitespace-normal">
            {cost ? costGapWords(cost) : 'no cost'}
          </span>
        )}
        {s.dominated.how && (
          <span className="text-ink-2 block text-[11px] leading-tight">
            {s.dominated.by ?? 'leaving it'} {s.dominated.how === 'surely' ? 'surely' : 'likely'} does more for less
          </span>
        )}
      </td>
      <td className="r whitespace-nowrap">
        {cost?.hours != null ? plain(cost.hours, 2) : '–'}
        <span className="text-ink-3 block text-[11px] leading-tight">{costSourceWords(cost?.hoursFrom ?? null)}</span>
      </td>
      <td className="r whitespace-nowrap">
        {s.perSureUnit !== null ? (
          <>
            <b className="num text-[16px]">{moneyWords(s.perSureUnit, cost?.currency ?? null)}</b>
            <span className="text-ink-3 block text-[11px] leading-tight">
              {moneyWords(s.perUnit, cost?.currency ?? null)} at the estimate
            </span>
          </>
        ) : (
          <span className="text-ink-2 text-[11.5px]">{s.unranked ? 'no gain to price' : 'no price'}</span>
        )}
      </td>
    </tr>
  );
}
