import {
  channelWords,
  fromSi,
  measureNamed,
  slopeWithin,
  studentT,
  windowMean,
  type Job,
  type JudgedPull,
  type Judgement,
} from '@prandel/core';
import { CHANNEL_STEP, channelLine, channelMeans, type ChannelAxis } from './channelLines.ts';
import { plain, withUnit, type ShownUnits } from './figures.ts';
import { axisOver, LEFT_GUTTER, RIGHT_GUTTER } from './geometry.ts';
import { channelName } from './measureWords.ts';
import { DESK, setupStyles } from './palette.ts';
import { endLabels, escaped, type EndLabel } from './svgText.ts';

/** What a picture of channels shows, on the rpm axis of the comparison. */
export interface ChannelView {
  readonly job: Job;
  readonly judgement: Judgement;
  readonly hiddenSetups: ReadonlySet<string>;
  readonly showPulls: boolean;
  readonly units: ShownUnits;
  /** Ends of the axis: engine speeds, or seconds. */
  readonly rpm: readonly [number, number];
  /** Absent: over engine speed. */
  readonly axis?: ChannelAxis;
  readonly width: number;
  readonly height: number;
  readonly fontSize: number;
}

/** Channels that the pulls of a job have, the temperatures first. */
export function recordedChannels({ pulls }: Pick<Judgement, 'pulls'>): string[] {
  return inOrder(pulls.flatMap((p) => p.readings.channels.filter((c) => !c.byHand)));
}

/** The same with gauges that somebody read, which have no course over engine speed. */
export function readChannels({ pulls }: Pick<Judgement, 'pulls'>): string[] {
  return inOrder(pulls.flatMap((p) => p.readings.channels));
}

function inOrder(channels: readonly { readonly name: string }[]): string[] {
  const names = [...new Set(channels.map(({ name }) => name))];
  const isTemperature = (name: string) => channelWords(name).unit === '°C';
  return names.filter(isTemperature).concat(names.filter((name) => !isTemperature(name)));
}

/** The channel that a measure reads; null for one of power. */
export function channelOfMeasure(measure: string): string | null {
  return measureNamed(measure)?.channel ?? null;
}

/** A reading of a channel in the unit that a person reads. */
export function channelReading(
  channel: string,
  units: ShownUnits,
): { unit: string; to: (v: number) => number; digits: number } {
  const { unit, digits } = channelWords(channel);
  if (unit === '°C') return { unit: units.temperature, to: (v) => fromSi(v, units.temperature), digits: 1 };
  return { unit, to: (v) => v, digits: channel.endsWith('lambda') ? 3 : Math.max(1, digits) };
}

const number = (v: number) => v.toFixed(1);

/** One channel over rpm: means of the setups, their pointwise band, single pulls thin. Empty where no pull has it. */
export function channelPanelSvg(view: ChannelView, channel: string): string {
  const { job, judgement, hiddenSetups, units, rpm, axis: over = 'rpm', width, height, fontSize } = view;
  const read = channelReading(channel, units);
  const STEP = CHANNEL_STEP[over];
  const means = channelMeans(view, channel, over).filter((m) => !hiddenSetups.has(m.setupId));
  const inside = (first: number, i: number) => (first + i) * STEP >= rpm[0] && (first + i) * STEP <= rpm[1];
  const shown = means.flatMap((m) => m.mean.filter((v, i) => inside(m.first, i) && Number.isFinite(v)).map(read.to));
  if (shown.length === 0) return '';
  const [low, high] = [Math.min(...shown), Math.max(...shown)];
  const room = Math.max(0.08 * (high - low), 0.02 * Math.max(Math.abs(high), 1e-3));
  const axis = axisOver(low - room, high + room, 3);
  const right = width - RIGHT_GUTTER;
  const x = (at: number) => LEFT_GUTTER + ((at - rpm[0]) / (rpm[1] - rpm[0])) * (right - LEFT_GUTTER);
  const top = fontSize + 8;
  const y = (v: number) => top + (height - top - 4) * (1 - (v - axis.min) / (axis.max - axis.min));
  const clamp = (v: number) => Math.min(height - 4, Math.max(top, v));
  const looks = setupStyles(job.setups);
  const path = (first: number, values: ArrayLike<number>) => {
    let d = '';
    let pen = 'M';
    for (let i = 0; i < values.length; i += 1) {
      const v = values[i]!;
      if (!inside(first, i) || !Number.isFinite(v)) {
        pen = 'M';
        continue;
      }
      d += `${pen}${number(x((first + i) * STEP))} ${number(clamp(y(read.to(v))))}`;
      pen = 'L';
    }
    return d;
  };
  const parts: string[] = [
    `<rect x="${LEFT_GUTTER}" y="${top}" width="${number(right - LEFT_GUTTER)}" height="${height - top - 4}" fill="${DESK.well}"/>`,
  ];
  for (let v = axis.min + axis.step; v < axis.max - axis.step / 2; v += axis.step)
    parts.push(
      `<line x1="${LEFT_GUTTER}" x2="${number(right)}" y1="${number(y(v))}" y2="${number(y(v))}" stroke="${DESK.faint}"/>`,
      `<text x="${LEFT_GUTTER - 7}" y="${number(y(v) + fontSize * 0.36)}" font-size="${fontSize}" fill="${DESK.ink3}" text-anchor="end">${plain(v, axis.step < 1 ? (axis.step < 0.1 ? 2 : 1) : 0)}</text>`,
    );
  if (over === 'time')
    for (let t = Math.ceil(rpm[0]); t <= rpm[1]; t += rpm[1] > 8 ? 2 : 1)
      parts.push(
        `<line x1="${number(x(t))}" x2="${number(x(t))}" y1="${top}" y2="${height - 4}" stroke="${DESK.faint}"/>`,
        `<text x="${number(x(t) + 3)}" y="${height - 8}" font-size="${fontSize}" fill="${DESK.ink3}">${plain(t, 0)} s</text>`,
      );
  if (view.showPulls)
    for (const p of judgement.pulls.filter((own) => own.used && !hiddenSetups.has(own.setupId)))
      for (const c of [channelLine(p, channel, over) ?? []].flat())
        parts.push(
          `<path d="${path(c.first, c.values)}" fill="none" stroke="${looks.get(p.setupId)!.line}" stroke-opacity=".3"/>`,
        );
  for (const m of means) {
    const look = looks.get(m.setupId)!;
    const up = m.mean.map((v, i) => v + m.half[i]!);
    const down = m.mean.map((v, i) => v - m.half[i]!);
    const upper = path(m.first, up);
    if (upper && !upper.slice(1).includes('M')) {
      const back = path(m.first, down).slice(1).split('L').reverse().join('L');
      parts.push(`<path d="${upper}L${back}Z" fill="${look.line}" fill-opacity=".15"/>`);
    }
    const dash = look.dash === 'solid' ? '' : ` stroke-dasharray="${look.dash.join(' ')}"`;
    parts.push(`<path d="${path(m.first, m.mean)}" fill="none" stroke="${look.line}" stroke-width="2.2"${dash}/>`);
  }
  const ends = means.map((m) => ({ m, v: m.mean.findLast((v, i) => inside(m.first, i) && Number.isFinite(v)) ?? NaN }));
  const labels = ends.map(({ m, v }) => ({
    ...{ y: clamp(y(read.to(v))), fill: looks.get(m.setupId)!.text },
    words: `${m.setupId} ${withUnit(plain(read.to(v), read.digits), read.unit)}`,
  }));
  parts.push(...endLabels(labels, right + 8, fontSize + 1, [top + 4, height - 4]));
  const { label } = channelWords(channel);
  const title = channelName(channel) === channel ? label : channelName(channel);
  const words = escaped(`${title.charAt(0).toUpperCase()}${title.slice(1)}${read.unit === '' ? '' : `, ${read.unit}`}`);
  parts.push(
    `<text x="${LEFT_GUTTER}" y="${fontSize + 2}" font-size="${fontSize}" font-weight="560" fill="${DESK.ink2}">${words}</text>`,
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" role="img" aria-label="${words} over ${over === 'rpm' ? 'engine speed' : 'time'}" font-family="inherit">${parts.join('')}</svg>`;
}

/** One dot a counted pull over its place in the round, and the line of every setup; the picture of a fade. */
export function fadeSvg(
  { job, judgement, hiddenSetups, width, height, fontSize }: Omit<ChannelView, 'rpm' | 'units' | 'showPulls'>,
  of: string,
  units: ShownUnits,
): string {
  const { window, pulls } = judgement;
  if (!window) return '';
  const positions = new Map(job.pulls.map((p) => [p.id, p.position]));
  const read = of === 'power' ? null : channelReading(of, units);
  const value = (p: JudgedPull) => {
    if (!read) return fromSi(windowMean(p.power, window[0], window[1]), units.power);
    return read.to(p.readings.channels.find((c) => c.name === of)?.peak ?? NaN);
  };
  const looks = setupStyles(job.setups);
  const rounds = job.setups
    .filter((s) => !hiddenSetups.has(s.id))
    .map((s) => {
      const own = pulls.filter((p) => p.setupId === s.id && p.used && Number.isFinite(value(p)));
      return { id: s.id, x: own.map((p) => positions.get(p.id)!), y: own.map(value) };
    })
    .filter(({ x }) => x.length > 0);
  const all = rounds.flatMap(({ y }) => y);
  if (all.length === 0) return '';
  const places = rounds.flatMap(({ x }) => x);
  const [from, to] = [Math.min(...places), Math.max(...places)];
  const axis = axisOver(Math.min(...all), Math.max(...all), 3);
  const right = width - RIGHT_GUTTER;
  const x = (p: number) => LEFT_GUTTER + 14 + ((p - from) / Math.max(1, to - from)) * (right - LEFT_GUTTER - 28);
  const top = fontSize + 8;
  const bottom = height - 22;
  const y = (v: number) => top + (bottom - top) * (1 - (v - axis.min) / (axis.max - axis.min || 1));
  const parts = [
    `<rect x="${LEFT_GUTTER}" y="${top}" width="${number(right - LEFT_GUTTER)}" height="${bottom - top}" fill="${DESK.well}"/>`,
  ];
  for (let v = axis.min; v <= axis.max + axis.step / 2; v += axis.step)
    parts.push(
      `<line x1="${LEFT_GUTTER}" x2="${number(right)}" y1="${number(y(v))}" y2="${number(y(v))}" stroke="${DESK.faint}"/>`,
      `<text x="${LEFT_GUTTER - 7}" y="${number(y(v) + fontSize * 0.36)}" font-size="${fontSize}" fill="${DESK.ink3}" text-anchor="end">${plain(v, axis.step < 1 ? 1 : 0)}</text>`,
    );
  for (let p = from; p <= to; p += 1)
    parts.push(
      `<text x="${number(x(p))}" y="${height - 8}" font-size="${fontSize}" fill="${DESK.ink3}" text-anchor="middle">${p}</text>`,
    );
  const labels: EndLabel[] = [];
  for (const { id, x: xs, y: ys } of rounds) {
    const look = looks.get(id)!;
    xs.forEach((p, i) =>
      parts.push(
        `<circle cx="${number(x(p))}" cy="${number(y(ys[i]!))}" r="3.4" fill="${look.hollow ? DESK.sheet : look.line}" stroke="${look.line}" stroke-width="1.6"/>`,
      ),
    );
    if (xs.length < 3) continue;
    const { slope, spread, residual } = slopeWithin([{ x: xs, y: ys }]);
    const [mx, my] = [xs, ys].map((v) => v.reduce((a, b) => a + b, 0) / v.length) as [number, number];
    const at = (p: number) => my + slope * (p - mx);
    const [a, b] = [Math.min(...xs), Math.max(...xs)];
    const dash = look.dash === 'solid' ? '' : ` stroke-dasharray="${look.dash.join(' ')}"`;
    // 95 % band of the line: t·s·√(1/n + (p − p̄)²/S).
    const t = xs.length > 2 ? studentT(0.975, xs.length - 2) * Math.sqrt(residual / (xs.length - 2)) : NaN;
    const half = (p: number) => t * Math.sqrt(1 / xs.length + (p - mx) ** 2 / spread);
    const steps = Array.from({ length: 13 }, (_, k) => a + ((b - a) * k) / 12);
    const edge = (sign: 1 | -1) => (p: number) =>
      `${number(x(p))} ${number(Math.min(bottom, Math.max(top, y(at(p) + sign * half(p)))))}`;
    parts.push(
      `<path d="M${steps.map(edge(1)).join('L')}L${steps.toReversed().map(edge(-1)).join('L')}Z" fill="${look.line}" fill-opacity=".13"/>`,
      `<line x1="${number(x(a))}" y1="${number(y(at(a)))}" x2="${number(x(b))}" y2="${number(y(at(b)))}" stroke="${look.line}" stroke-width="2"${dash}/>`,
    );
    const unit = read ? read.unit : units.power;
    labels.push({
      ...{ y: y(at(b)), fill: look.text },
      words: `${id} ${slope < 0 ? '\u2212' : '+'}${Math.abs(slope).toFixed(2)} ${unit}/pull`,
    });
  }
  parts.push(...endLabels(labels, right + 6, fontSize, [top + 4, bottom]));
  const title = escaped(
    read
      ? `${channelName(of).charAt(0).toUpperCase()}${channelName(of).slice(1)} at its hottest, ${read.unit}`
      : `Mean power over the window, ${units.power}`,
  );
  parts.push(
    `<text x="${LEFT_GUTTER}" y="${fontSize + 2}" font-size="${fontSize}" font-weight="560" fill="${DESK.ink2}">${title}, by place in the round</text>`,
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" role="img" aria-label="${title}, by place in the round" font-family="inherit">${parts.join('')}</svg>`;
}

/** The fade of power, and below it the temperatures that were asked about, over the places of the round. */
export function fadeSvgs(view: Parameters<typeof fadeSvg>[0], channels: readonly string[], units: ShownUnits): string {
  const temperatures = [...new Set(channels)].filter((c) => channelWords(c).unit === '°C');
  return ['power', ...temperatures].map((of) => fadeSvg(view, of, units)).join('');
}

/** A setup's temperature from pull to pull: °C a pull of the starts within its rounds, counted pulls and settle pulls alike. */
export function trendOf(
  { pulls }: Pick<Judgement, 'pulls'>,
  job: Job,
  setupId: string,
  channel: string,
): number | null {
  const own = pulls.filter((p) => p.setupId === setupId && p.status !== 'set-aside');
  const place = new Map(job.pulls.map((p) => [p.id, p] as const));
  const rounds = [...new Set(own.map((p) => place.get(p.id)!.round))].map((round) => {
    const starts = own
      .filter((p) => place.get(p.id)!.round === round)
      .flatMap((p) => {
        const start = p.readings.channels.find((c) => c.name === channel)?.start ?? NaN;
        return Number.isFinite(start) ? [[place.get(p.id)!.position, start] as const] : [];
      });
    return { x: starts.map(([at]) => at), y: starts.map(([, v]) => v) };
  });
  const { slope } = slopeWithin(rounds.filter(({ x }) => x.length > 1));
  return Number.isFinite(slope) ? slope : null;
}
