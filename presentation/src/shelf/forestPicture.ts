import type { Verdict } from '@prandel/core';
import { signed } from '../figures.ts';
import { axisOver } from '../geometry.ts';
import { DESK } from '../palette.ts';
import { svgOf, type StripScale } from '../shootout/intervalStrip.ts';
import { VERDICT_STYLES } from '../verdictStyles.ts';

const INSET = 6;
const at = ({ min, max, width }: StripScale, value: number) =>
  INSET + ((Math.min(max, Math.max(min, value)) - min) / (max - min)) * (width - 2 * INSET);

interface Range {
  readonly estimate: number;
  readonly low: number;
  readonly high: number;
}

/**
 * A scale for the rows of a shelf with zero in it: over the estimates and what is said of them together. Ends of wide intervals may
 * lie outside; an arrow says so.
 */
export function forestScale(
  rows: readonly (Range | null)[],
  together: readonly (number | null | undefined)[],
  width: number,
): StripScale {
  const known = rows.flatMap((r) =>
    r ? [r.estimate, Math.max(r.low, r.estimate - 4), Math.min(r.high, r.estimate + 4)] : [],
  );
  const ends = [0, ...known, ...together.flatMap((v) => v ?? [])];
  return { ...axisOver(Math.min(...ends), Math.max(...ends), 6), width };
}

const zeroLine = (scale: StripScale, height: number) =>
  `<line x1="${at(scale, 0).toFixed(1)}" x2="${at(scale, 0).toFixed(1)}" y1="0" y2="${height}" stroke="${DESK.ink}" stroke-width="1.8"/>`;

/** A dashed mark of what was promised, over the height of a row. */
const promiseLine = (scale: StripScale, promised: number | null, height: number) =>
  promised === null || promised > scale.max || promised < scale.min
    ? ''
    : `<line x1="${at(scale, promised).toFixed(1)}" x2="${at(scale, promised).toFixed(1)}" y1="0" y2="${height}" stroke="${DESK.ink3}" stroke-width="1.4" stroke-dasharray="2 3"/>`;

/** One job: interval and estimate in ink, the square as large as its weight; what is left out of the average is hollow. */
export function forestRowSvg(
  scale: StripScale,
  row: { readonly range: Range | null; readonly weight: number; readonly verdict: Verdict },
  heaviest: number,
  promised: number | null,
  height: number,
): string {
  const { range, weight, verdict } = row;
  const parts = [zeroLine(scale, height), promiseLine(scale, promised, height)];
  const y = height / 2;
  if (range) {
    const [a, b, e] = [at(scale, range.low), at(scale, range.high), at(scale, range.estimate)];
    parts.push(
      `<line x1="${a.toFixed(1)}" x2="${b.toFixed(1)}" y1="${y}" y2="${y}" stroke="${DESK.ink}" stroke-width="1.6"${weight > 0 ? '' : ' stroke-dasharray="3 3"'}/>`,
    );
    if (range.low < scale.min)
      parts.push(
        `<path d="M${a + 6} ${y - 4}L${a} ${y}L${a + 6} ${y + 4}" fill="none" stroke="${DESK.ink}" stroke-width="1.6"/>`,
      );
    if (range.high > scale.max)
      parts.push(
        `<path d="M${b - 6} ${y - 4}L${b} ${y}L${b - 6} ${y + 4}" fill="none" stroke="${DESK.ink}" stroke-width="1.6"/>`,
      );
    const side = weight > 0 ? 5 + 11 * Math.sqrt(weight / (heaviest || 1)) : 7;
    parts.push(
      `<rect x="${(e - side / 2).toFixed(1)}" y="${(y - side / 2).toFixed(1)}" width="${side.toFixed(1)}" height="${side.toFixed(1)}" fill="${weight > 0 ? DESK.ink : DESK.sheet}" stroke="${DESK.ink}" stroke-width="1.2"/>`,
    );
  }
  const words = range
    ? `${VERDICT_STYLES[verdict].word}: ${signed(range.estimate)}, ${signed(range.low)} to ${signed(range.high)}`
    : VERDICT_STYLES[verdict].word;
  return svgOf(scale.width, height, parts, words);
}

/** The average as a flat diamond. */
export function forestAverageSvg(scale: StripScale, average: Range, promised: number | null, height: number): string {
  const y = height / 2;
  const [a, b, e] = [at(scale, average.low), at(scale, average.high), at(scale, average.estimate)].map((v) =>
    v.toFixed(1),
  );
  return svgOf(
    scale.width,
    height,
    [
      zeroLine(scale, height),
      promiseLine(scale, promised, height),
      `<path d="M${a} ${y}L${e} ${y - 8}L${b} ${y}L${e} ${y + 8}Z" fill="${DESK.ink}"/>`,
    ],
    `Average ${signed(average.estimate)}, ${signed(average.low)} to ${signed(average.high)}`,
  );
}

/** What the next car may see, as an outlined bar. */
export function forestNextSvg(
  scale: StripScale,
  next: { readonly low: number; readonly high: number },
  promised: number | null,
  height: number,
): string {
  const [a, b] = [at(scale, next.low), at(scale, next.high)];
  return svgOf(
    scale.width,
    height,
    [
      zeroLine(scale, height),
      promiseLine(scale, promised, height),
      `<rect x="${a.toFixed(1)}" y="${height / 2 - 7}" width="${Math.max(2, b - a).toFixed(1)}" height="14" rx="2" fill="none" stroke="${DESK.ink}" stroke-width="1.8"/>`,
    ],
    `Next car ${signed(next.low)} to ${signed(next.high)}`,
  );
}
