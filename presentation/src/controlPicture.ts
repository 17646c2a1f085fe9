import type { ChartStretch } from '@prandel/core';
import { plain, signed } from './figures.ts';
import { axisOver, ticksOf } from './geometry.ts';
import { DESK } from './palette.ts';
import { svgOf } from './shootout/intervalStrip.ts';
import { escaped } from './svgText.ts';

const [LEFT, RIGHT, TOP, BOTTOM] = [46, 16, 18, 22];

/** What a signal is called on a chart. */
export const SIGNAL_NAMES: Readonly<Record<ChartStretch['open'][number]['code'], string>> = {
  outside: 'outside its limits',
  'nine-on-one-side': 'nine in a row on one side',
  range: 'a jump from one to the next',
};

/**
 * Readings in time against what they were: dots, mean and limits as hairlines, signals as diamonds with their word. Stretches stand
 * beside each other, split by a rule, each about its own mean: readings of two epochs are never compared.
 */
export function controlChartSvg(
  stretches: readonly ChartStretch[],
  { width, height, unit, digits = 1 }: { width: number; height: number; unit: string; digits?: number },
): string {
  const about = stretches.map(({ points, chart }) => {
    const centre = chart.limits?.mean ?? points.reduce((a, p) => a + p.value, 0) / points.length;
    return {
      values: points.map((p) => p.value - centre),
      half: chart.limits ? chart.limits.high - chart.limits.mean : null,
    };
  });
  const ends = about.flatMap(({ values, half }) => [...values, half ?? 0, -(half ?? 0)]);
  const scale = axisOver(Math.min(-0.1, ...ends), Math.max(0.1, ...ends), 4);
  const y = (v: number) => TOP + ((scale.max - v) / (scale.max - scale.min)) * (height - TOP - BOTTOM);
  const times = stretches.flatMap((s) => s.points.map((p) => Date.parse(p.at)));
  const [from, to] = [Math.min(...times), Math.max(...times)];
  const x = (at: string) => LEFT + 8 + ((Date.parse(at) - from) / Math.max(1, to - from)) * (width - LEFT - RIGHT - 16);
  const parts = [
    `<rect x="${LEFT}" y="${TOP}" width="${width - LEFT - RIGHT}" height="${height - TOP - BOTTOM}" fill="${DESK.well}"/>`,
  ];
  const text = (words: string, tx: number, ty: number, anchor: string, fill: string = DESK.ink3) =>
    parts.push(
      `<text x="${tx.toFixed(1)}" y="${ty.toFixed(1)}" font-size="11" text-anchor="${anchor}" fill="${fill}" paint-order="stroke" stroke="${DESK.well}" stroke-width="3">${escaped(words)}</text>`,
    );
  const { values: ticks, digits: tickDigits } = ticksOf(scale);
  for (const v of ticks) text(v === 0 ? '0' : signed(v, tickDigits), LEFT - 6, y(v) + 4, 'end');
  text(unit, LEFT - 6, 11, 'end');
  stretches.forEach((stretch, s) => {
    const { points, chart, open } = stretch;
    const { values, half } = about[s]!;
    const [first, last] = [x(points[0]!.at), x(points.at(-1)!.at)];
    if (s > 0) {
      const rule = (x(stretches[s - 1]!.points.at(-1)!.at) + first) / 2;
      parts.push(
        `<line x1="${rule.toFixed(1)}" x2="${rule.toFixed(1)}" y1="${TOP}" y2="${height - BOTTOM}" stroke="${DESK.ruleStrong}" stroke-width="1.2"/>`,
      );
      text(
        stretch.epoch === stretches[s - 1]!.epoch ? 'begun anew' : `calibrated ${stretch.epoch ?? ''}`.trim(),
        rule + 4,
        TOP + 11,
        'start',
      );
    }
    const line = (v: number, dash: string) =>
      parts.push(
        `<line x1="${(first - 6).toFixed(1)}" x2="${(last + 6).toFixed(1)}" y1="${y(v).toFixed(1)}" y2="${y(v).toFixed(1)}" stroke="${DESK.ink3}" stroke-width="1"${dash}/>`,
      );
    line(0, '');
    if (half !== null) for (const v of [half, -half]) line(v, ' stroke-dasharray="5 3"');
    parts.push(
      `<path d="M${points.map((p, i) => `${x(p.at).toFixed(1)} ${y(values[i]!).toFixed(1)}`).join('L')}" fill="none" stroke="${DESK.ink3}" stroke-width="1"/>`,
    );
    const signalled = new Set(chart.signals.map((o) => o.index));
    const waiting = new Set(open.map((o) => o.index));
    points.forEach((p, i) => {
      const [px, py] = [x(p.at), y(values[i]!)];
      const title = `<title>${escaped(`${p.name}, ${p.at.slice(0, 10)}: ${signed(values[i], digits)} ${unit}`)}</title>`;
      parts.push(
        signalled.has(i)
          ? `<path d="M${px.toFixed(1)} ${(py - 7).toFixed(1)}l7 7l-7 7l-7 -7Z" fill="${waiting.has(i) ? '#A8281C' : DESK.sheet}" stroke="${waiting.has(i) ? '#A8281C' : DESK.ink2}" stroke-width="1.6">${title}</path>`
          : `<circle cx="${px.toFixed(1)}" cy="${py.toFixed(1)}" r="4" fill="${DESK.ink}">${title}</circle>`,
      );
    });
    // Each kind is named where it shows first; several at one point share a line.
    const kinds = [...new Set(chart.signals.map((o) => o.code))];
    const firsts = kinds.map((code) => ({ code, index: chart.signals.find((o) => o.code === code)!.index }));
    for (const index of new Set(firsts.map((f) => f.index))) {
      const words = firsts.filter((f) => f.index === index).map((f) => SIGNAL_NAMES[f.code]);
      const px = x(points[index]!.at);
      const left = px > width * 0.35;
      text(words.join(', '), px + (left ? -12 : 12), y(values[index]!) + 4, left ? 'end' : 'start', DESK.ink2);
    }
  });
  if (times.length > 0) {
    text(new Date(from).toISOString().slice(0, 10), LEFT + 8, height - 6, 'start');
    if (to > from) text(new Date(to).toISOString().slice(0, 10), width - RIGHT - 8, height - 6, 'end');
  }
  const count = times.length;
  return svgOf(
    width,
    height,
    parts,
    `${count} ${count === 1 ? 'reading' : 'readings'} in time against their own mean, ${unit}`,
  );
}

/** Return checks about zero with their 95 % limits. */
export function returnChecksSvg(
  points: readonly { readonly at: string; readonly value: number; readonly name: string }[],
  limit: number | null,
  { width, height }: { width: number; height: number },
): string {
  const most = Math.max(0.5, limit ?? 0, ...points.map((p) => Math.abs(p.value)));
  const scale = axisOver(-most, most, 4);
  const y = (v: number) => TOP + ((scale.max - v) / (scale.max - scale.min)) * (height - TOP - BOTTOM);
  const times = points.map((p) => Date.parse(p.at));
  const [from, to] = [Math.min(...times), Math.max(...times)];
  const x = (at: string) => LEFT + 8 + ((Date.parse(at) - from) / Math.max(1, to - from)) * (width - LEFT - RIGHT - 16);
  const line = (v: number, dash: string) =>
    `<line x1="${LEFT}" x2="${width - RIGHT}" y1="${y(v).toFixed(1)}" y2="${y(v).toFixed(1)}" stroke="${DESK.ink3}"${dash}/>`;
  const parts = [
    `<rect x="${LEFT}" y="${TOP}" width="${width - LEFT - RIGHT}" height="${height - TOP - BOTTOM}" fill="${DESK.well}"/>`,
    line(0, ''),
    ...(limit === null ? [] : [line(limit, ' stroke-dasharray="5 3"'), line(-limit, ' stroke-dasharray="5 3"')]),
    ...points.map(
      (p) =>
        `<circle cx="${x(p.at).toFixed(1)}" cy="${y(p.value).toFixed(1)}" r="3.6" fill="${DESK.ink}"><title>${escaped(`${p.name}, ${p.at.slice(0, 10)}: ${signed(p.value)} %`)}</title></circle>`,
    ),
  ];
  const { values: ticks, digits } = ticksOf(scale);
  for (const v of ticks)
    parts.push(
      `<text x="${LEFT - 6}" y="${(y(v) + 4).toFixed(1)}" font-size="11" text-anchor="end" fill="${DESK.ink3}">${v === 0 ? '0' : signed(v, digits)}</text>`,
    );
  parts.push(`<text x="${LEFT - 6}" y="11" font-size="11" text-anchor="end" fill="${DESK.ink3}">%</text>`);
  const words = `${points.length} return checks${limit === null ? '' : `, 95 % limits ±${plain(limit, 1)} %`}`;
  return svgOf(width, height, parts, words);
}

/** How pulls in a row differed, month by month: bars of the standard deviation. */
export function repeatabilitySvg(
  months: readonly { readonly month: string; readonly sd: number; readonly jobs: number }[],
  { width, height }: { width: number; height: number },
): string {
  const scale = axisOver(0, Math.max(0.3, ...months.map((m) => m.sd)), 3);
  const y = (v: number) => TOP + ((scale.max - v) / (scale.max - scale.min)) * (height - TOP - BOTTOM);
  const cell = (width - LEFT - RIGHT) / Math.max(1, months.length);
  const parts = [
    `<rect x="${LEFT}" y="${TOP}" width="${width - LEFT - RIGHT}" height="${height - TOP - BOTTOM}" fill="${DESK.well}"/>`,
    ...months.map(({ month, sd, jobs }, i) => {
      const bar = Math.min(26, cell * 0.6);
      return `<rect x="${(LEFT + cell * (i + 0.5) - bar / 2).toFixed(1)}" y="${y(sd).toFixed(1)}" width="${bar.toFixed(1)}" height="${(y(0) - y(sd)).toFixed(1)}" fill="${DESK.ink2}"><title>${month}: ${plain(sd, 2)} % over ${jobs} ${jobs === 1 ? 'job' : 'jobs'}</title></rect>`;
    }),
  ];
  const { values: ticks, digits } = ticksOf(scale);
  for (const v of ticks)
    parts.push(
      `<text x="${LEFT - 6}" y="${(y(v) + 4).toFixed(1)}" font-size="11" text-anchor="end" fill="${DESK.ink3}">${plain(v, digits)}</text>`,
    );
  const every = Math.ceil(months.length / Math.floor((width - LEFT) / 62));
  months.forEach(({ month }, i) => {
    if (i % every === 0)
      parts.push(
        `<text x="${(LEFT + cell * (i + 0.5)).toFixed(1)}" y="${height - 6}" font-size="11" text-anchor="middle" fill="${DESK.ink3}">${month}</text>`,
      );
  });
  parts.push(`<text x="${LEFT - 6}" y="11" font-size="11" text-anchor="end" fill="${DESK.ink3}">%</text>`);
  return svgOf(width, height, parts, `Scatter from pull to pull over ${months.length} months`);
}
