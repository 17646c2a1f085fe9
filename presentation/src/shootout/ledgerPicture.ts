import type { Ledger, Setup } from '@prandel/core';
import { differenceIn, signed, type ShownUnits } from '../figures.ts';
import { axisOver, ticksOf } from '../geometry.ts';
import { DESK, setupStyles } from '../palette.ts';
import { escaped } from '../svgText.ts';
import { svgOf } from './intervalStrip.ts';

/** Steps of a build: the running total after each, its bar, and what the step added. A part is a dot, a retune a square, a cure hollow. */
export function ledgerSvg(
  { steps }: Ledger,
  setups: readonly Setup[],
  units: ShownUnits,
  { width, height, fontSize }: { readonly width: number; readonly height: number; readonly fontSize: number },
): string {
  const known = steps.filter((s) => s.total !== null);
  if (known.length === 0) return '';
  const read = differenceIn(known[0]!.total!.unit, units);
  const looks = setupStyles(setups);
  const ends = known.flatMap(({ total }) => [read.to(total!.low), read.to(total!.high)]);
  const axis = axisOver(Math.min(0, ...ends), Math.max(0, ...ends), 5);
  const [left, right, top, bottom] = [44, width - 16, fontSize + 16, height - 34];
  const x = (i: number) => left + ((i + 0.5) / (steps.length + 1)) * (right - left);
  const y = (v: number) => bottom - ((v - axis.min) / (axis.max - axis.min)) * (bottom - top);
  const parts = [`<rect x="${left}" y="${top}" width="${right - left}" height="${bottom - top}" fill="${DESK.well}"/>`];
  const text = (tx: number, ty: number, words: string, more = '') =>
    `<text x="${tx.toFixed(1)}" y="${ty.toFixed(1)}" font-size="${fontSize}" fill="${DESK.ink3}" ${more}>${escaped(words)}</text>`;
  const ticks = ticksOf(axis);
  for (const v of ticks.values)
    parts.push(
      `<line x1="${left}" x2="${right}" y1="${y(v).toFixed(1)}" y2="${y(v).toFixed(1)}" stroke="${v === 0 ? DESK.ink2 : DESK.faint}"/>`,
      text(left - 6, y(v) + fontSize * 0.36, signed(v, ticks.digits), 'text-anchor="end"'),
    );
  let before = 0;
  // Lines first: a point stands on top of the lines that meet at it.
  steps.forEach(({ total }, i) => {
    if (!total) return;
    const now = read.to(total.estimate);
    parts.push(
      `<path d="M${x(i).toFixed(1)} ${y(before).toFixed(1)}H${((x(i) + x(i + 1)) / 2).toFixed(1)}V${y(now).toFixed(1)}H${x(i + 1).toFixed(1)}" fill="none" stroke="${DESK.ruleStrong}" stroke-width="1.4"/>`,
    );
    before = now;
  });
  parts.push(
    `<circle cx="${x(0).toFixed(1)}" cy="${y(0).toFixed(1)}" r="4.4" fill="${DESK.ink}"/>`,
    text(x(0), height - 14, steps[0]!.parent, 'text-anchor="middle" font-weight="640"'),
  );
  steps.forEach(({ setup, kind, total, gain }, i) => {
    const look = looks.get(setup.id)!;
    const at = x(i + 1);
    parts.push(text(at, height - 14, setup.id, 'text-anchor="middle" font-weight="640"'));
    if (!total) return;
    const now = read.to(total.estimate);
    parts.push(
      `<line x1="${at.toFixed(1)}" x2="${at.toFixed(1)}" y1="${y(read.to(total.low)).toFixed(1)}" y2="${y(read.to(total.high)).toFixed(1)}" stroke="${look.line}" stroke-width="3" stroke-opacity=".6"/>`,
    );
    const fill = kind === 'cure' ? DESK.sheet : look.line;
    parts.push(
      kind === 'retune'
        ? `<rect x="${(at - 5).toFixed(1)}" y="${(y(now) - 5).toFixed(1)}" width="10" height="10" fill="${fill}"/>`
        : `<circle cx="${at.toFixed(1)}" cy="${y(now).toFixed(1)}" r="5.2" fill="${fill}" stroke="${look.line}" stroke-width="2"/>`,
    );
    if (gain)
      parts.push(
        `<text x="${(at - 9).toFixed(1)}" y="${(y(now) - 8).toFixed(1)}" text-anchor="end" font-size="${fontSize + 1}" font-weight="640" fill="${DESK.ink}" paint-order="stroke" stroke="${DESK.well}" stroke-width="4">${signed(read.to(gain.estimate))}</text>`,
      );
  });
  parts.push(
    text(
      left,
      fontSize + 2,
      `${read.unit} against the baseline after each step; the figure is what the step added`,
      'font-weight="560"',
    ),
  );
  return svgOf(width, height, parts, `Running total of ${steps.map((s) => s.setup.id).join(', ')}`);
}
