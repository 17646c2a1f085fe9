import type { Crossed, Difference, Setup } from '@prandel/core';
import { differenceIn, signed, type ShownUnits } from '../figures.ts';
import { axisOver, ticksOf } from '../geometry.ts';
import { DESK, setupStyles } from '../palette.ts';
import { escaped } from '../svgText.ts';
import { svgOf } from './intervalStrip.ts';

/** Two lines, without and with the second factor, over the first without and with; parallel: they add up. */
export function crossedSvg(
  { alone, both, gains, interaction }: Crossed,
  setups: readonly Setup[],
  units: ShownUnits,
  { width, height, fontSize }: { readonly width: number; readonly height: number; readonly fontSize: number },
): string {
  const read = differenceIn(interaction.unit, units);
  const zero: Difference = { estimate: 0, low: 0, high: 0, unit: interaction.unit };
  const [b, c, d] = gains;
  if (!b || !c || !d) return '';
  const looks = setupStyles(setups);
  const ends = [b, c, d].flatMap((g) => [read.to(g.low), read.to(g.high)]);
  const axis = axisOver(Math.min(0, ...ends), Math.max(0, ...ends), 5);
  const [left, right, top, bottom] = [44, width - 150, fontSize + 16, height - 34];
  const xs = [left + (right - left) * 0.2, left + (right - left) * 0.86] as const;
  const y = (v: number) => bottom - ((v - axis.min) / (axis.max - axis.min)) * (bottom - top);
  const parts = [`<rect x="${left}" y="${top}" width="${right - left}" height="${bottom - top}" fill="${DESK.well}"/>`];
  const text = (tx: number, ty: number, words: string, more = '') =>
    `<text x="${tx.toFixed(1)}" y="${ty.toFixed(1)}" font-size="${fontSize}" fill="${DESK.ink3}" ${more}>${escaped(words)}</text>`;
  const ticks = ticksOf(axis);
  for (const v of ticks.values)
    parts.push(
      `<line x1="${left}" x2="${right}" y1="${y(v).toFixed(1)}" y2="${y(v).toFixed(1)}" stroke="${DESK.faint}"/>`,
      text(left - 6, y(v) + fontSize * 0.36, signed(v, ticks.digits), 'text-anchor="end"'),
    );
  const line = (from: Difference, to: Difference, id: string, words: string) => {
    const look = looks.get(id)!;
    const dash = look.dash === 'solid' ? '' : ` stroke-dasharray="${look.dash.join(' ')}"`;
    const [p, q] = [y(read.to(from.estimate)), y(read.to(to.estimate))];
    parts.push(
      `<line x1="${xs[0]}" x2="${xs[1]}" y1="${p.toFixed(1)}" y2="${q.toFixed(1)}" stroke="${look.line}" stroke-width="2.4"${dash}/>`,
    );
    [from, to].forEach((g, i) => {
      if (g !== zero)
        parts.push(
          `<line x1="${xs[i]!}" x2="${xs[i]!}" y1="${y(read.to(g.low)).toFixed(1)}" y2="${y(read.to(g.high)).toFixed(1)}" stroke="${look.line}" stroke-width="3" stroke-opacity=".55"/>`,
        );
      parts.push(
        `<circle cx="${xs[i]!}" cy="${y(read.to(g.estimate)).toFixed(1)}" r="4.4" fill="${DESK.sheet}" stroke="${look.line}" stroke-width="2"/>`,
      );
    });
    parts.push(
      `<text x="${right + 8}" y="${(q + fontSize * 0.36).toFixed(1)}" font-size="${fontSize + 1}" font-weight="640" fill="${look.text}">${escaped(words)}</text>`,
    );
  };
  line(zero, b, 'A', `without ${alone[1]}`);
  line(c, d, both, `with ${alone[1]}`);
  parts.push(
    text(xs[0], height - 14, `without ${alone[0]}`, 'text-anchor="middle"'),
    text(xs[1], height - 14, `with ${alone[0]}`, 'text-anchor="middle"'),
    text(left, fontSize + 2, `${read.unit} against the baseline; parallel lines: they add up`, 'font-weight="560"'),
  );
  return svgOf(width, height, parts, `${alone.join(' and ')} alone and together`);
}
