import { escaped } from './svgText.ts';
import { pullsInOrder, type Job, type Judgement } from '@prandel/core';
import { DESK, setupStyles } from './palette.ts';
import { clock, shortDay } from './times.ts';

const MOST_TICKS = 30;

/** Marks of the day on one time line: a block per round, a tick per pull, intake air at the start below. */
export function dayTrackSvg(job: Job, judgement: Judgement, width: number, fontSize: number): string {
  const timed = pullsInOrder(job.pulls).filter((p) => p.startedAt !== null);
  if (timed.length < 2) return '';
  const at = (p: { startedAt: string | null }) => Date.parse(p.startedAt!) / 60_000;
  const left = 52;
  const right = 84;
  const days = daysOf(timed.map(at));
  const x = placeOf(days, left, width - right);
  const looks = setupStyles(job.setups);
  const starts = judgement.pulls.flatMap((p) => (p.startAboveAirC === null ? [] : [p.startAboveAirC]));
  const low = Math.min(...starts);
  const high = Math.max(...starts);
  const yIntake = (v: number) => 64 - ((v - low) / Math.max(1, high - low)) * 12;
  const parts: string[] = [];
  const text = (tx: number, ty: number, words: string, more = '', fill: string = DESK.ink2) =>
    parts.push(
      `<text x="${tx.toFixed(1)}" y="${ty}" font-size="${fontSize}" fill="${fill}" ${more}>${escaped(words)}</text>`,
    );
  // A day has a tick an hour; whatever spans more has about as many.
  const hours = days.reduce((sum, [from, to]) => sum + (to - from) / 60, 0);
  const step = 60 * Math.max(1, Math.ceil(hours / MOST_TICKS));
  const iso = (minute: number) => new Date(minute * 60_000).toISOString();
  for (const [from, to] of days) {
    if (days.length > 1) text(x(from), 84, shortDay(iso(from), job.timeZone), 'font-weight="650"');
    for (let hour = Math.ceil(from / step) * step; hour <= to; hour += step) {
      parts.push(
        `<line x1="${x(hour).toFixed(1)}" x2="${x(hour).toFixed(1)}" y1="16" y2="70" stroke="${DESK.faint}"/>`,
      );
      if (days.length === 1 || x(hour) - x(from) > 5 * fontSize)
        text(x(hour), 84, clock(iso(hour), job.timeZone), 'text-anchor="middle"');
    }
  }
  const rounds = new Map<string, typeof timed>();
  for (const p of timed) rounds.set(`${p.setupId}#${p.round}`, [...(rounds.get(`${p.setupId}#${p.round}`) ?? []), p]);
  let before: number | null = null;
  let named: string | null = null;
  for (const group of [...rounds.values()]) {
    const look = looks.get(group[0]!.setupId)!;
    const from = x(at(group[0]!)) - 6;
    const to = x(at(group.at(-1)!)) + 6;
    const sameDay = before !== null && days.some(([a, b]) => x(a) - 7 <= before! && from <= x(b) + 7);
    if (before !== null && sameDay && from - before > 8)
      parts.push(
        `<rect x="${before.toFixed(1)}" y="18" width="${(from - before).toFixed(1)}" height="20" fill="url(#fitting)"/>`,
      );
    before = to;
    parts.push(
      `<rect x="${from.toFixed(1)}" y="18" width="${(to - from).toFixed(1)}" height="20" rx="2" fill="${look.line}" fill-opacity=".15" stroke="${look.line}"/><rect x="${from.toFixed(1)}" y="17.5" width="${(to - from).toFixed(1)}" height="3.2" fill="${look.line}"/>`,
    );
    const badge = look.hollow ? `fill="${DESK.sheet}" stroke="${look.line}"` : `fill="${look.line}"`;
    parts.push(`<rect x="${from.toFixed(1)}" y="0" width="17" height="14" rx="2" ${badge}/>`);
    text(
      from + 8.5,
      10.5,
      group[0]!.setupId,
      'text-anchor="middle" font-weight="700"',
      look.hollow ? look.text : look.on,
    );
    // Rounds of a setup that follow each other share its name.
    const label = named === group[0]!.setupId ? '' : (job.setups.find((s) => s.id === group[0]!.setupId)?.label ?? '');
    named = group[0]!.setupId;
    if (label.length * fontSize * 0.55 < Math.max(to - from, 90)) text(from + 21, 10.5, label);
    for (const p of group) {
      const px = x(at(p));
      if (p.status === 'set-aside')
        parts.push(`<path d="M${px - 3} 25l6 9m0 -9l-6 9" stroke="${look.line}" stroke-width="1.6"/>`);
      else
        parts.push(
          `<rect x="${(px - 1.8).toFixed(1)}" y="24" width="3.6" height="11" ${p.status === 'settle' ? `fill="${DESK.sheet}" stroke="${look.line}"` : `fill="${look.line}"`}/>`,
        );
      const start = judgement.pulls.find((j) => j.id === p.id)?.startAboveAirC;
      if (start !== null && start !== undefined)
        parts.push(
          `<circle cx="${px.toFixed(1)}" cy="${yIntake(start).toFixed(1)}" r="2.1" ${p.status === 'counted' ? `fill="${look.line}"` : `fill="${DESK.sheet}" stroke="${look.line}"`}/>`,
        );
    }
  }
  text(0, 32, 'Pulls');
  if (starts.length > 0) {
    text(0, 63, 'Intake');
    text(width - 2, 56, 'above the bay', 'text-anchor="end"');
    text(width - 2, 69, `+${low.toFixed(0)} to +${high.toFixed(0)} °C`, 'text-anchor="end"');
  }
  return `<svg viewBox="0 0 ${width} 90" width="100%" role="img" aria-label="Day track: pulls by time of day${starts.length > 0 ? ' with intake air above the bay’s air' : ''}" font-family="Archivo Variable, Archivo, sans-serif"><defs><pattern id="fitting" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><line x1="0" x2="0" y1="0" y2="6" stroke="#A69F8F" stroke-width="1.4"/></pattern></defs>${parts.join('')}</svg>`;
}

/** A pause longer than this is the night, or another day. */
const NIGHT_MIN = 6 * 60;
const NIGHT_PX = 30;

/** First and last minute of every stretch of work. */
function daysOf(minutes: readonly number[]): [number, number][] {
  const days: [number, number][] = [];
  for (const minute of minutes) {
    const last = days.at(-1);
    if (last && minute - last[1] <= NIGHT_MIN) last[1] = minute;
    else days.push([minute, minute]);
  }
  return days;
}

/** Minutes to pixels: every day as wide as it is long, the nights between them as a gap. */
function placeOf(days: readonly (readonly [number, number])[], left: number, right: number) {
  const margin = 6;
  const total = days.reduce((sum, [from, to]) => sum + to - from + 2 * margin, 0);
  const perMinute = Math.max(0, right - left - NIGHT_PX * (days.length - 1)) / total;
  const starts: number[] = [];
  days.reduce((at, [from, to]) => {
    starts.push(at);
    return at + (to - from + 2 * margin) * perMinute + NIGHT_PX;
  }, left);
  return (minute: number) => {
    const k = Math.max(
      0,
      days.findLastIndex(([from]) => minute >= from - margin),
    );
    return starts[k]! + (minute - days[k]![0] + margin) * perMinute;
  };
}
