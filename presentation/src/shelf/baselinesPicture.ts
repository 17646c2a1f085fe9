import { DESK } from '../palette.ts';
import { svgOf } from '../shootout/intervalStrip.ts';

const [WIDTH, HEIGHT, LINE] = [590, 48, 17];

/** Peaks of a model's baselines as dots on a line, the range in which the next one is expected as a box. @param read a peak as a person reads it */
export function baselinesSvg(
  peaksW: readonly number[],
  range: { readonly lowW: number; readonly highW: number } | null,
  read: (watts: number) => string,
): string {
  const ends = [...peaksW, ...(range ? [range.lowW, range.highW] : [])];
  const [low, high] = [Math.min(...ends), Math.max(...ends)];
  const pad = 0.08 * (high - low || high * 0.1);
  const x = (w: number) => ((WIDTH * (w - low + pad)) / (high - low + 2 * pad)).toFixed(1);
  const tick = (w: number, anchor: string) =>
    `<text x="${x(w)}" y="${HEIGHT - 4}" font-size="11" fill="${DESK.ink3}" text-anchor="${anchor}">${read(w)}</text>`;
  const parts = [
    `<line x1="0" x2="${WIDTH}" y1="${LINE}" y2="${LINE}" stroke="${DESK.ruleStrong}"/>`,
    ...(range
      ? [
          `<rect x="${x(range.lowW)}" y="6" width="${(Number(x(range.highW)) - Number(x(range.lowW))).toFixed(1)}" height="22" fill="${DESK.ink}" fill-opacity=".08" stroke="${DESK.ink3}"/>`,
        ]
      : []),
    ...peaksW.map((w) => `<circle cx="${x(w)}" cy="${LINE}" r="4.5" fill="${DESK.ink}" fill-opacity=".7"/>`),
    tick(low, 'start'),
    ...(high > low ? [tick(high, 'end')] : []),
  ];
  return svgOf(WIDTH, HEIGHT, parts, `${peaksW.length} baselines from ${read(low)} to ${read(high)}`);
}
