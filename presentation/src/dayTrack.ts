import { pullsInOrder, type Job, type Judgement } from '@prandel/core';
import { DESK, setupLooks } from './palette.ts';

const MOST_TICKS = 30;

/** Marks of the day on one time line: a block per round, a tick per pull, intake air at the start below. */
export function dayTrackSvg(job: Job, judgement: Judgement, width: number, fontSize: number): string {
  const timed = pullsInOrder(job.pulls).filter((p) => p.startedAt !== null);
  if (timed.length < 2) return '';
  const at = (p: { startedAt: string | null }) => Date.parse(p.startedAt!) / 60_000;
  const first = at(timed[0]!);
  const last = at(timed.at(-1)!);
  const left = 52;
  const right = 84;
  const x = (minute: number) => left + ((minute - first + 6) / (last - first + 12)) * (width - left - right);
  const looks = setupLooks(job.setups);
  const starts = judgement.pulls.flatMap((p) => (p.startAboveAirC === null ? [] : [p.startAboveAirC]));
  const low = Math.min(...starts);
  const high = Math.max(...starts);
  const yIntake = (v: number) => 64 - ((v - low) / Math.max(1, high - low)) * 12;
  const parts: string[] = [];
  const text = (tx: number, ty: number, words: string, more = '', fill: string = DESK.ink2) =>
    parts.push(
      `<text x="${tx.toFixed(1)}" y="${ty}" font-size="${fontSize}" fill="${fill}" ${more}>${escape(words)}</text>`,
    );
  const zone = job.timeZone ?? 'UTC';
  const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: zone });
  // A day has a tick an hour; whatever spans more has about as many.
  const step = 60 * Math.max(1, Math.ceil((last - first) / 60 / MOST_TICKS));
  for (let hour = Math.ceil(first / step) * step; hour <= last; hour += step) {
    parts.push(`<line x1="${x(hour).toFixed(1)}" x2="${x(hour).toFixed(1)}" y1="16" y2="70" stroke="${DESK.faint}"/>`);
    text(x(hour), 84, clock.format(new Date(hour * 60_000)), 'text-anchor="middle"');
  }
  const rounds = new Map<string, typeof timed>();
  for (const p of timed) rounds.set(`${p.setupId}#${p.round}`, [...(rounds.get(`${p.setupId}#${p.round}`) ?? []), p]);
  let before: number | null = null;
  for (const group of [...rounds.values()]) {
    const look = looks.get(group[0]!.setupId)!;
    const from = x(at(group[0]!)) - 6;
    const to = x(at(group.at(-1)!)) + 6;
    if (before !== null && from - before > 8)
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
    const label = job.setups.find((s) => s.id === group[0]!.setupId)?.label ?? '';
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

function escape(words: string): string {
  return words.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
}
