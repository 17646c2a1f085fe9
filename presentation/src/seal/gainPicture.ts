import { factsNamed, fromSi, isCurved, type CandidateVerdict } from '@prandel/core';
import { signed, unitOf, type ShownUnits } from '../figures.ts';
import { DESK } from '../palette.ts';
import { VERDICT_STYLES } from '../verdictStyles.ts';

const [LEFT, RIGHT, TOP, BOTTOM] = [38, 8, 16, 24];

/**
 * The difference over engine speed for a narrow page: zero heavy, 95 % band grey, the mean in ink; where a band is verified the
 * stretch from zero to the mean is filled. Null for a measure that is no curve.
 */
export function gainPicture(
  v: Pick<CandidateVerdict, 'ribbon' | 'bands' | 'measure'>,
  units: ShownUnits,
  { width, height }: { readonly width: number; readonly height: number },
): string | null {
  const { ribbon, bands, measure } = v;
  if (!ribbon || !isCurved(factsNamed(measure))) return null;
  const unit = unitOf(measure, units);
  const at = (percent: Float64Array) =>
    ribbon.rpm.map((_, i) => fromSi((ribbon.baseline[i]! * percent[i]!) / 100, unit));
  const [mean, low, high] = [at(ribbon.percent), at(ribbon.lowPercent), at(ribbon.highPercent)];
  const known = [...ribbon.rpm.keys()].filter((i) => [mean, low, high].every((l) => Number.isFinite(l[i])));
  if (known.length < 2) return null;
  const [from, to] = [ribbon.rpm[known[0]!]!, ribbon.rpm[known.at(-1)!]!];
  const [least, most] = [Math.min(0, ...known.map((i) => low[i]!)), Math.max(0, ...known.map((i) => high[i]!))];
  const pad = 0.08 * (most - least || 1);
  const x = (rpm: number) => LEFT + ((rpm - from) / (to - from)) * (width - LEFT - RIGHT);
  const y = (value: number) => TOP + ((most + pad - value) / (most - least + 2 * pad)) * (height - TOP - BOTTOM);
  const point = (i: number, list: Float64Array) => `${x(ribbon.rpm[i]!).toFixed(1)} ${y(list[i]!).toFixed(1)}`;
  const line = (list: Float64Array, own: readonly number[]) => own.map((i) => point(i, list)).join('L');
  const back = [...known].reverse();
  const parts = [
    `<rect x="${LEFT}" y="${TOP}" width="${width - LEFT - RIGHT}" height="${height - TOP - BOTTOM}" fill="${DESK.well}"/>`,
    `<path d="M${line(high, known)}L${line(low, back)}Z" fill="${DESK.ink}" fill-opacity=".13"/>`,
  ];
  for (const band of bands.filter((b) => b.verified)) {
    const own = known.filter((i) => ribbon.rpm[i]! >= band.fromRpm && ribbon.rpm[i]! <= band.toRpm);
    if (own.length < 2) continue;
    const { colour } = VERDICT_STYLES[band.verdict === 'verified-loss' ? 'verified-loss' : 'verified-gain'];
    const zero = `${x(ribbon.rpm[own.at(-1)!]!).toFixed(1)} ${y(0).toFixed(1)}L${x(ribbon.rpm[own[0]!]!).toFixed(1)} ${y(0).toFixed(1)}`;
    parts.push(`<path d="M${line(mean, own)}L${zero}Z" fill="${colour}" fill-opacity=".34"/>`);
  }
  parts.push(
    `<line x1="${LEFT}" x2="${width - RIGHT}" y1="${y(0).toFixed(1)}" y2="${y(0).toFixed(1)}" stroke="${DESK.ink}" stroke-width="1.6"/>`,
    `<path d="M${line(mean, known)}" fill="none" stroke="${DESK.ink}" stroke-width="2.2" stroke-linejoin="round"/>`,
  );
  const text = (words: string, tx: number, ty: number, anchor: string) =>
    parts.push(
      `<text x="${tx.toFixed(1)}" y="${ty.toFixed(1)}" font-size="12" text-anchor="${anchor}" fill="${DESK.ink2}">${words}</text>`,
    );
  const step = niceStep(most - least);
  for (let tick = Math.ceil(least / step) * step; tick <= most + 1e-9; tick += step)
    text(Math.abs(tick) < step / 2 ? '0' : signed(tick, step < 1 ? 1 : 0), LEFT - 5, y(tick) + 4, 'end');
  text(unit, LEFT - 5, 11, 'end');
  const first = Math.ceil(from / 1000) * 1000;
  const every = to - from > 4500 ? 2000 : 1000;
  for (let rpm = first; rpm <= to; rpm += every)
    text(rpm === first ? `${rpm} rpm` : String(rpm), x(rpm), height - 7, rpm === first ? 'start' : 'middle');
  return `<svg viewBox="0 0 ${width} ${height}" width="100%" role="img" aria-label="Difference over engine speed">${parts.join('')}</svg>`;
}

/** A step of ticks that people count in: 0.5, 1, 2, 5 …, two to four over a range. */
function niceStep(range: number): number {
  const raw = (range || 1) / 3;
  const ten = 10 ** Math.floor(Math.log10(raw));
  return [1, 2, 5, 10].map((k) => k * ten).find((s) => s >= raw) ?? ten * 10;
}
