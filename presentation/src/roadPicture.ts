import {
  measureNamed,
  repeatedSetup,
  type CandidateVerdict,
  type Job,
  type RoadForecast,
  type RoadPass,
} from '@prandel/core';
import { interval, plain, signed } from './figures.ts';
import { DESK, setupStyles } from './palette.ts';
import { escaped } from './svgText.ts';

const RIGHT = 24;
const LANE = 21;
const BAR = 26;

/**
 * Passes as dots over seconds, a lane for each setup and direction, with the mean of the lane as a tick; below, the change on the road
 * and the rollers' forecast with their intervals on one scale of per cent.
 */
export function roadSvg(
  job: Job,
  v: CandidateVerdict,
  forecast: RoadForecast | null,
  { width, fontSize }: { readonly width: number; readonly fontSize: number },
): string {
  const measure = measureNamed(v.measure);
  const passes = (job.roadPasses ?? []).filter(
    (p) => p.fromKmH === measure?.fromKmH && p.toKmH === measure?.toKmH && sideOf(job, v, p) !== null,
  );
  if (passes.length === 0) return '';
  const lanes = [...new Set(passes.map((p) => p.direction))].flatMap((direction) =>
    [v.baseline, v.candidate].flatMap((setup) => {
      const own = passes.filter((p) => p.direction === direction && sideOf(job, v, p) === setup);
      return own.length > 0 ? [{ direction, setup, own }] : [];
    }),
  );
  const looks = setupStyles(job.setups);
  const parts: string[] = [];
  const text = (x: number, y: number, words: string, more = '') =>
    parts.push(
      `<text x="${x.toFixed(1)}" y="${y.toFixed(1)}" font-size="${fontSize}" fill="${DESK.ink2}" ${more}>${escaped(words)}</text>`,
    );
  const LEFT = Math.round(7.6 * fontSize);
  const right = width - RIGHT;
  const scale = (values: readonly number[], pad: number) => {
    const [low, high] = [Math.min(...values), Math.max(...values)];
    const room = Math.max(pad, (high - low) * 0.08);
    return (value: number) => LEFT + ((value - low + room) / (high - low + 2 * room)) * (right - LEFT);
  };
  const top = fontSize + 10;
  const x = scale(
    passes.map((p) => p.seconds),
    0.02,
  );
  text(0, fontSize + 2, `Seconds from ${measure!.fromKmH} to ${measure!.toKmH} km/h, every pass`, 'font-weight="560"');
  lanes.forEach(({ direction, setup, own }, i) => {
    const y = top + LANE * (i + 0.5);
    const look = looks.get(setup)!;
    if (i % 2 === 0)
      parts.push(
        `<rect x="${LEFT}" y="${top + LANE * i}" width="${right - LEFT}" height="${LANE * 2}" fill="${Math.floor(i / 2) % 2 ? DESK.sheet : DESK.well}"/>`,
      );
    text(
      0,
      y + fontSize * 0.36,
      `${setup} ${direction || 'no direction'}`,
      `font-weight="620" style="fill:${look.text}"`,
    );
    const mean = own.reduce((a, p) => a + p.seconds, 0) / own.length;
    for (const p of own)
      parts.push(
        `<circle cx="${x(p.seconds).toFixed(1)}" cy="${y.toFixed(1)}" r="4.2" fill="${look.line}" fill-opacity=".75"/>`,
      );
    parts.push(
      `<line x1="${x(mean).toFixed(1)}" x2="${x(mean).toFixed(1)}" y1="${(y - 9).toFixed(1)}" y2="${(y + 9).toFixed(1)}" stroke="${look.line}" stroke-width="2.2"/>`,
    );
    // Beside the dots, on the side where there is room.
    const [first, last] = [Math.min(...own.map((p) => x(p.seconds))), Math.max(...own.map((p) => x(p.seconds)))];
    const left = last + 60 > right;
    text(
      left ? first - 9 : last + 9,
      y + fontSize * 0.36,
      `${plain(mean, 2)} s`,
      `text-anchor="${left ? 'end' : 'start'}"`,
    );
  });
  let y = top + LANE * lanes.length + 26;
  const rows = barsOf(v, forecast);
  if (rows.length > 0) {
    const p = scale([0, ...rows.flatMap((r) => [r.low, r.high])], 0.4);
    text(0, y, 'Change of the time, per cent: fewer seconds lie to the left', 'font-weight="560"');
    const from = y + 8;
    y = from;
    parts.push(
      `<rect x="${LEFT}" y="${from}" width="${right - LEFT}" height="${BAR * rows.length}" fill="${DESK.well}"/>`,
    );
    for (const { words, estimate, low, high, figure } of rows) {
      const middle = y + BAR / 2;
      text(0, middle + fontSize * 0.36, words);
      parts.push(
        `<line x1="${p(low).toFixed(1)}" x2="${p(high).toFixed(1)}" y1="${middle}" y2="${middle}" stroke="${DESK.ink}" stroke-width="3"/>`,
        `<circle cx="${p(estimate).toFixed(1)}" cy="${middle}" r="4.6" fill="${DESK.sheet}" stroke="${DESK.ink}" stroke-width="2"/>`,
      );
      const beyond = p(high) + 8 + figure.length * fontSize * 0.55;
      text(
        beyond > right ? p(low) - 8 : p(high) + 8,
        middle + fontSize * 0.36,
        figure,
        `text-anchor="${beyond > right ? 'end' : 'start'}"`,
      );
      y += BAR;
    }
    parts.push(`<line x1="${p(0).toFixed(1)}" x2="${p(0).toFixed(1)}" y1="${from}" y2="${y}" stroke="${DESK.ink}"/>`);
    y += fontSize + 6;
    text(p(0), y, '0 %', 'text-anchor="middle"');
  }
  const height = Math.ceil(y + 8);
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" role="img" aria-label="Passes on the road, and the forecast from the rollers" font-family="inherit">${parts.join('')}</svg>`;
}

function sideOf(job: Job, v: CandidateVerdict, { setupId }: RoadPass): string | null {
  const own = repeatedSetup(job.setups, setupId);
  return own === v.baseline || own === v.candidate ? own : null;
}

function barsOf({ gain }: CandidateVerdict, forecast: RoadForecast | null) {
  const rows: { words: string; estimate: number; low: number; high: number; figure: string }[] = [];
  if (gain && gain.percent !== null && gain.lowPercent !== null && gain.highPercent !== null) {
    const i = interval(gain.percent, gain.lowPercent, gain.highPercent);
    rows.push({
      words: 'On the road',
      estimate: gain.percent,
      low: gain.lowPercent,
      high: gain.highPercent,
      figure: `${i.estimate} ±${i.half} %`,
    });
  }
  if (forecast) {
    const { percent, lowPercent, highPercent } = forecast;
    const figure =
      lowPercent === null || highPercent === null
        ? `${signed(percent)} %, no ±`
        : `${interval(percent, lowPercent, highPercent).estimate} ±${interval(percent, lowPercent, highPercent).half} %`;
    rows.push({
      words: 'By the rollers',
      estimate: percent,
      low: lowPercent ?? percent,
      high: highPercent ?? percent,
      figure,
    });
  }
  return rows;
}
