import type { Setup, Standing, Standings } from '@prandel/core';
import { differenceIn, plain, signed, type ShownUnits } from '../figures.ts';
import { axisOver, ticksOf, spread } from '../geometry.ts';
import { DESK, setupStyles } from '../palette.ts';
import { escaped } from '../svgText.ts';
import { svgOf } from './intervalStrip.ts';

/** Gain against all-in cost. */
export interface FrontierView {
  readonly setups: readonly Setup[];
  readonly standings: Standings;
  readonly units: ShownUnits;
  readonly currency: string;
  readonly width: number;
  readonly height: number;
  readonly fontSize: number;
}

interface Point {
  readonly s: Standing;
  readonly cost: number;
  readonly gain: number;
  readonly low: number;
  readonly high: number;
}

/** The step line of the best gain that no cheaper verified setup reaches; points with bars; what is surely needless loses its fill. */
export function frontierSvg({ setups, standings, units, currency, width, height, fontSize }: FrontierView): string {
  const all = [...standings.ranked, ...standings.unranked];
  const unit = all.find((s) => s.verdict.gain)?.verdict.gain?.unit ?? 'W';
  const read = differenceIn(unit, units);
  const points = all.flatMap((s): Point[] => {
    const { gain } = s.verdict;
    return gain && s.cost?.total != null
      ? [
          {
            s,
            cost: s.cost.total,
            gain: read.to(gain.value),
            low: read.to(gain.lowValue),
            high: read.to(gain.highValue),
          },
        ]
      : [];
  });
  if (points.length === 0) return '';
  const looks = setupStyles(setups);
  const [left, right, top, bottom] = [44, width - 14, fontSize + 14, height - 30];
  const costs = axisOver(0, Math.max(...points.map((p) => p.cost)) * 1.08, 6);
  const gains = axisOver(Math.min(0, ...points.map((p) => p.low)), Math.max(...points.map((p) => p.high)), 6);
  const x = (cost: number) => left + ((cost - costs.min) / (costs.max - costs.min)) * (right - left);
  const y = (gain: number) => bottom - ((gain - gains.min) / (gains.max - gains.min)) * (bottom - top);
  const parts = [`<rect x="${left}" y="${top}" width="${right - left}" height="${bottom - top}" fill="${DESK.well}"/>`];
  const text = (tx: number, ty: number, words: string, more = '') =>
    `<text x="${tx.toFixed(1)}" y="${ty.toFixed(1)}" font-size="${fontSize}" fill="${DESK.ink3}" ${more}>${escaped(words)}</text>`;
  const ticks = ticksOf(gains);
  for (const v of ticks.values) {
    const heavy = v === 0;
    parts.push(
      `<line x1="${left}" x2="${right}" y1="${y(v).toFixed(1)}" y2="${y(v).toFixed(1)}" stroke="${heavy ? DESK.ink2 : DESK.faint}"/>`,
      text(left - 6, y(v) + fontSize * 0.36, signed(v, ticks.digits), 'text-anchor="end"'),
    );
  }
  const amounts = ticksOf(costs);
  for (const v of amounts.values)
    parts.push(
      `<line x1="${x(v).toFixed(1)}" x2="${x(v).toFixed(1)}" y1="${top}" y2="${bottom}" stroke="${DESK.faint}"/>`,
      text(x(v), height - 12, plain(v, amounts.digits), 'text-anchor="middle"'),
    );
  // The frontier is of what is verified: a gain that is not sure is no reason to spend.
  const verified = points.filter((p) => p.s.unranked === null).sort((a, b) => a.cost - b.cost || b.gain - a.gain);
  let line = `M${x(0).toFixed(1)} ${y(0).toFixed(1)}`;
  let best = 0;
  for (const p of verified) {
    if (p.gain <= best) continue;
    line += `H${x(p.cost).toFixed(1)}V${y(p.gain).toFixed(1)}`;
    best = p.gain;
  }
  parts.push(`<path d="${line}H${right}" fill="none" stroke="${DESK.ink}" stroke-width="1.6"/>`);
  const heights = spread(
    points.map((p) => y(p.gain)),
    fontSize + 6,
    [top + 6, bottom - 6],
  );
  points.forEach(({ s, cost, gain, low, high }, i) => {
    const look = looks.get(s.setup)!;
    const open = s.unranked !== null;
    const { how } = s.dominated;
    const dash = open || how === 'likely' ? ' stroke-dasharray="3 2.5"' : '';
    const fill = open || how !== null ? DESK.sheet : look.line;
    parts.push(
      `<line x1="${x(cost).toFixed(1)}" x2="${x(cost).toFixed(1)}" y1="${y(low).toFixed(1)}" y2="${y(high).toFixed(1)}" stroke="${look.line}" stroke-width="2.4"${open ? ' stroke-dasharray="3 3"' : ''}/>`,
      `<circle cx="${x(cost).toFixed(1)}" cy="${y(gain).toFixed(1)}" r="5.2" fill="${fill}" stroke="${look.line}" stroke-width="2"${dash}/>`,
    );
    const rightSide = x(cost) < right - 110;
    const tx = x(cost) + (rightSide ? 11 : -11);
    const why = open
      ? 'not verified'
      : how === 'surely'
        ? 'surely needless'
        : how === 'likely'
          ? 'likely needless'
          : '';
    parts.push(
      `<text x="${tx.toFixed(1)}" y="${(heights[i]! + fontSize * 0.36).toFixed(1)}" font-size="${fontSize + 1}" font-weight="650" fill="${look.text}" text-anchor="${rightSide ? 'start' : 'end'}" paint-order="stroke" stroke="${DESK.well}" stroke-width="4">${escaped(s.setup)}${why ? `<tspan font-weight="450" fill="${DESK.ink3}"> ${why}</tspan>` : ''}</text>`,
    );
  });
  parts.push(
    text(
      left,
      fontSize + 2,
      `${read.unit} at 95 %, against cost in ${currency || 'the shop’s currency'}`,
      'font-weight="560"',
    ),
  );
  return svgOf(width, height, parts, `Gain against cost of ${points.map((p) => p.s.setup).join(', ')}`);
}
