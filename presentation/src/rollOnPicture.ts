import { fromSi, rollOnResponse, type Job, type JudgedPull, type Judgement } from '@prandel/core';
import { plain, type ShownUnits } from './figures.ts';
import { axisOver, LEFT_GUTTER, RIGHT_GUTTER } from './geometry.ts';
import { DESK, setupStyles } from './palette.ts';
import { endLabels, type EndLabel } from './svgText.ts';

/** What a picture of roll-ons shows. */
export interface RollOnView {
  readonly job: Job;
  readonly judgement: Judgement;
  readonly hiddenSetups: ReadonlySet<string>;
  readonly showPulls: boolean;
  readonly units: ShownUnits;
  readonly width: number;
  readonly height: number;
  readonly fontSize: number;
}

const FROM_S = -0.5;
const STEP_S = 0.02;
const LONGEST_S = 20;

/** Torque that the roll-ons were timed to; null where the question is not asked of them. */
export function targetOf({ verdicts }: Pick<Judgement, 'verdicts'>): number | null {
  return verdicts.map((v) => v.method.targetNm).find((target) => target !== null) ?? null;
}

/** Torque of a roll-on at a second after its anchor, straight between samples; NaN outside. */
function at({ readings: { rollOn } }: JudgedPull, seconds: number): number {
  if (!rollOn) return NaN;
  const { timeS, torqueNm } = rollOn;
  let [i, end] = [0, timeS.length];
  while (i < end) {
    const middle = (i + end) >> 1;
    if (timeS[middle]! >= seconds) end = middle;
    else i = middle + 1;
  }
  if (i === timeS.length) return NaN;
  if (i === 0) return timeS[0]! - seconds < STEP_S ? torqueNm[0]! : NaN;
  const share = (seconds - timeS[i - 1]!) / (timeS[i]! - timeS[i - 1]!);
  return torqueNm[i - 1]! + share * (torqueNm[i]! - torqueNm[i - 1]!);
}

/** Torque over time from the pedal: means of the setups, single roll-ons thin, the target and where each setup's mean meets it. */
export function rollOnSvg({
  job,
  judgement,
  hiddenSetups,
  showPulls,
  units,
  width,
  height,
  fontSize,
}: RollOnView): string {
  const pulls = judgement.pulls.filter((p) => p.used && p.readings.rollOn && !hiddenSetups.has(p.setupId));
  if (pulls.length === 0) return '';
  const ends = pulls.map((p) => p.readings.rollOn!.timeS.at(-1)!);
  const until = Math.min(LONGEST_S, Math.min(...ends));
  const places = Array.from(
    { length: Math.max(2, Math.floor((until - FROM_S) / STEP_S)) },
    (_, i) => FROM_S + i * STEP_S,
  );
  const to = (nm: number) => fromSi(nm, units.torque);
  const looks = setupStyles(job.setups);
  const means = job.setups.flatMap((s) => {
    const own = pulls.filter((p) => p.setupId === s.id);
    if (own.length === 0) return [];
    return [{ id: s.id, own, torque: places.map((t) => own.reduce((sum, p) => sum + at(p, t), 0) / own.length) }];
  });
  const all = means.flatMap(({ torque }) => torque.filter(Number.isFinite).map(to));
  const target = targetOf(judgement);
  const axis = axisOver(0, Math.max(...all, target === null ? 0 : to(target)), 4);
  const top = fontSize + 8;
  const bottom = height - 24;
  const right = width - RIGHT_GUTTER;
  const x = (t: number) => LEFT_GUTTER + ((t - FROM_S) / (until - FROM_S)) * (right - LEFT_GUTTER);
  const y = (v: number) => top + (bottom - top) * (1 - (v - axis.min) / (axis.max - axis.min));
  const path = (values: readonly number[]) => {
    let pen = 'M';
    return values
      .map((v, i) => {
        if (!Number.isFinite(v)) {
          pen = 'M';
          return '';
        }
        const point = `${pen}${x(places[i]!).toFixed(1)} ${y(to(v)).toFixed(1)}`;
        pen = 'L';
        return point;
      })
      .join('');
  };
  const parts = [
    `<rect x="${LEFT_GUTTER}" y="${top}" width="${right - LEFT_GUTTER}" height="${bottom - top}" fill="${DESK.well}"/>`,
  ];
  const text = (tx: number, ty: number, words: string, more = '') =>
    parts.push(
      `<text x="${tx.toFixed(1)}" y="${ty.toFixed(1)}" font-size="${fontSize}" fill="${DESK.ink3}" ${more}>${words}</text>`,
    );
  for (let v = axis.min; v <= axis.max + axis.step / 2; v += axis.step) {
    parts.push(
      `<line x1="${LEFT_GUTTER}" x2="${right}" y1="${y(v).toFixed(1)}" y2="${y(v).toFixed(1)}" stroke="${DESK.faint}"/>`,
    );
    text(LEFT_GUTTER - 7, y(v) + fontSize * 0.36, plain(v, 0), 'text-anchor="end"');
  }
  for (let t = 0; t <= until; t += until > 8 ? 2 : 1)
    text(x(t), height - 9, t === 0 ? '0 s' : plain(t, 0), 'text-anchor="middle"');
  parts.push(
    `<line x1="${x(0).toFixed(1)}" x2="${x(0).toFixed(1)}" y1="${top}" y2="${bottom}" stroke="${DESK.ink}" stroke-dasharray="2 3"/>`,
  );
  if (target !== null) {
    parts.push(
      `<line x1="${LEFT_GUTTER}" x2="${right}" y1="${y(to(target)).toFixed(1)}" y2="${y(to(target)).toFixed(1)}" stroke="${DESK.ink}"/>`,
    );
    text(
      right - 6,
      y(to(target)) + fontSize + 3,
      `target ${plain(to(target), 0)} ${units.torque}`,
      'text-anchor="end"',
    );
  }
  if (showPulls)
    for (const p of pulls)
      parts.push(
        `<path d="${path(places.map((t) => at(p, t)))}" fill="none" stroke="${looks.get(p.setupId)!.line}" stroke-opacity=".3"/>`,
      );
  const labels: EndLabel[] = [];
  for (const { id, own, torque } of means) {
    const look = looks.get(id)!;
    const dash = look.dash === 'solid' ? '' : ` stroke-dasharray="${look.dash.join(' ')}"`;
    parts.push(`<path d="${path(torque)}" fill="none" stroke="${look.line}" stroke-width="2.2"${dash}/>`);
    const times = target === null ? [] : own.map((p) => rollOnResponse(p.readings.rollOn!, target).seconds);
    const mean = times.reduce((a, b) => a + b, 0) / times.length;
    if (target !== null && Number.isFinite(mean))
      parts.push(
        `<circle cx="${x(mean).toFixed(1)}" cy="${y(to(target)).toFixed(1)}" r="4" fill="${DESK.sheet}" stroke="${look.line}" stroke-width="2"/>`,
      );
    const last = torque.findLast(Number.isFinite) ?? 0;
    const words = Number.isFinite(mean) ? `${id} ${mean.toFixed(2)} s` : `${id} not reached`;
    labels.push({ y: y(to(last)), words, fill: look.text });
  }
  parts.push(...endLabels(labels, right + 8, fontSize + 1, [top + 4, bottom]));
  const title = `Wheel torque after the pedal, ${units.torque}`;
  parts.push(
    `<text x="${LEFT_GUTTER}" y="${fontSize + 2}" font-size="${fontSize}" font-weight="560" fill="${DESK.ink2}">${title}; circles: mean time to the target</text>`,
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" role="img" aria-label="${title}" font-family="inherit">${parts.join('')}</svg>`;
}
