import type { Verdict } from '@prandel/core';
import { plain, signed } from '../figures.ts';
import { axisOver, ticksOf } from '../geometry.ts';
import { DESK } from '../palette.ts';
import { VERDICT_SHAPES, VERDICT_STYLES } from '../verdictStyles.ts';

/** A scale that several strips share. */
export interface StripScale {
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly width: number;
}

const INSET = 6;

/** A round scale over all ends, with zero in it. */
export function stripScale(ends: readonly number[], width: number): StripScale {
  const known = ends.filter(Number.isFinite);
  return { ...axisOver(Math.min(0, ...known), Math.max(0, ...known), 5), width };
}

const at = ({ min, max, width }: StripScale, value: number) =>
  INSET + ((Math.min(max, Math.max(min, value)) - min) / (max - min)) * (width - 2 * INSET);

/** The ticks of a scale in words, for the head of a column. */
export function stripHeadSvg(scale: StripScale, fontSize: number): string {
  const ticks: string[] = [];
  const { values, digits } = ticksOf(scale);
  for (const v of values)
    ticks.push(
      `<text x="${at(scale, v).toFixed(1)}" y="${fontSize}" text-anchor="middle" font-size="${fontSize}" fill="${DESK.ink3}">${v === 0 ? '0' : signed(v, digits)}</text>`,
    );
  return svgOf(scale.width, fontSize + 3, ticks, 'scale');
}

/** One interval on a shared scale: filled where it is verified, dashed where it is not, a line alone where it cannot be compared. */
export function intervalStripSvg(
  scale: StripScale,
  own: { readonly estimate: number; readonly low: number; readonly high: number } | null,
  verdict: Verdict,
  height: number,
  margin: number | null = null,
): string {
  const { colour, tint, word } = VERDICT_STYLES[verdict];
  const zero = at(scale, 0);
  const parts: string[] = [];
  if (margin !== null) {
    const [a, b] = [at(scale, -margin), at(scale, margin)];
    parts.push(
      `<rect x="${a.toFixed(1)}" y="0" width="${(b - a).toFixed(1)}" height="${height}" fill="${DESK.faint}"/>`,
    );
  }
  parts.push(
    `<line x1="${zero.toFixed(1)}" x2="${zero.toFixed(1)}" y1="0" y2="${height}" stroke="${DESK.ink2}" stroke-width="1.4"/>`,
  );
  if (own) {
    const [a, b, e] = [at(scale, own.low), at(scale, own.high), at(scale, own.estimate)];
    const [top, thick] = [height / 2 - 8, 16];
    const verified = verdict === 'verified-gain' || verdict === 'verified-loss';
    if (verdict === 'not-comparable')
      parts.push(
        `<line x1="${a.toFixed(1)}" x2="${b.toFixed(1)}" y1="${height / 2}" y2="${height / 2}" stroke="${colour}" stroke-width="1.6" stroke-dasharray="3 3"/>`,
      );
    else
      parts.push(
        `<rect x="${a.toFixed(1)}" y="${top}" width="${Math.max(2, b - a).toFixed(1)}" height="${thick}" rx="2" fill="${verified ? colour : tint}" fill-opacity="${verified ? 0.34 : 1}"${verified ? '' : ` stroke="${colour}" stroke-dasharray="3 2"`}/>`,
      );
    parts.push(
      `<line x1="${e.toFixed(1)}" x2="${e.toFixed(1)}" y1="${top}" y2="${top + thick}" stroke="${colour}" stroke-width="3"/>`,
    );
  }
  const words = own ? `${word}: ${signed(own.estimate)}, ${signed(own.low)} to ${signed(own.high)}` : word;
  return svgOf(scale.width, height, parts, words);
}

/** The places that a setup can have, as a bar over a ruled strip of m places; the tick is the place of its estimate. */
export function rankBarSvg(
  rank: { readonly from: number; readonly to: number },
  places: number,
  estimate: number | null,
  width: number,
  height: number,
): string {
  const cell = width / places;
  const parts = [`<rect x="0" y="${height / 2 - 1}" width="${width}" height="2" fill="${DESK.rule}"/>`];
  for (let i = 0; i <= places; i += 1)
    parts.push(
      `<line x1="${(i * cell).toFixed(1)}" x2="${(i * cell).toFixed(1)}" y1="${height / 2 - 4}" y2="${height / 2 + 4}" stroke="${DESK.rule}"/>`,
    );
  parts.push(
    `<rect x="${((rank.from - 1) * cell).toFixed(1)}" y="${height / 2 - 4}" width="${((rank.to - rank.from + 1) * cell).toFixed(1)}" height="8" rx="2" fill="${DESK.ink2}"/>`,
  );
  if (estimate !== null)
    parts.push(
      `<line x1="${((estimate - 0.5) * cell).toFixed(1)}" x2="${((estimate - 0.5) * cell).toFixed(1)}" y1="0" y2="${height}" stroke="${DESK.sheet}" stroke-width="3"/><line x1="${((estimate - 0.5) * cell).toFixed(1)}" x2="${((estimate - 0.5) * cell).toFixed(1)}" y1="0" y2="${height}" stroke="${DESK.ink}" stroke-width="1.6"/>`,
    );
  return svgOf(width, height, parts, rankWords(rank));
}

/** "1", or "2 to 4". */
export function rankWords({ from, to }: { readonly from: number; readonly to: number }): string {
  return from === to ? String(from) : `${from} to ${to}`;
}

/** Bands as cells with the shape of what each verified; the words stand in the heading. */
export function bandCellsSvg(
  bands: readonly {
    readonly fromRpm: number;
    readonly toRpm: number;
    readonly percent: number;
    readonly verdict: Verdict;
  }[],
  [from, to]: readonly [number, number],
  width: number,
  height: number,
): string {
  const x = (rpm: number) => ((rpm - from) / (to - from)) * width;
  const parts = bands.map(({ fromRpm, toRpm, percent, verdict }) => {
    const { key, colour, tint } = VERDICT_STYLES[verdict];
    const sure = verdict === 'verified-gain' || verdict === 'verified-loss';
    const [a, b] = [x(fromRpm) + 0.5, x(toRpm) - 0.5];
    const size = Math.min(9, b - a - 2);
    const shape =
      sure && size >= 5
        ? `<svg x="${((a + b - size) / 2).toFixed(1)}" y="${((height - size) / 2).toFixed(1)}" width="${size}" height="${size}" viewBox="0 0 16 16" color="#FFFFFF">${VERDICT_SHAPES[key]}</svg>`
        : '';
    return `<g><title>${fromRpm}–${toRpm} rpm: ${signed(percent)} %, ${VERDICT_STYLES[verdict].word.toLowerCase()}</title><rect x="${a.toFixed(1)}" y="0" width="${Math.max(1, b - a).toFixed(1)}" height="${height}" rx="1.5" fill="${sure ? colour : tint}"${sure ? '' : ` stroke="${DESK.rule}"`}/>${shape}</g>`;
  });
  const words = bands.map((b) => `${b.fromRpm} to ${b.toRpm} rpm ${plain(b.percent, 1)} %`).join('; ');
  return svgOf(width, height, parts, words);
}

/** A picture with its words for who cannot see it. */
export function svgOf(width: number, height: number, parts: readonly string[], words: string): string {
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" role="img" aria-label="${words.replaceAll('"', '&quot;').replaceAll('<', '&lt;')}" font-family="inherit">${parts.join('')}</svg>`;
}
