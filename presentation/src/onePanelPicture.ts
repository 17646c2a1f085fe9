import { fromRpm, fromSi, repeatedSetup, toRpm, torqueCurve, type GridCurve } from '@prandel/core';
import type { CompareView } from './compareView.ts';
import { plain } from './figures.ts';
import { axisOver } from './geometry.ts';
import { DESK, setupStyles } from './palette.ts';
import { svgOf } from './shootout/intervalStrip.ts';
import { endLabels } from './svgText.ts';

/** Power and torque of the shown setups in one panel, power on the left axis and torque on the right; means only, the compared pair in full weight. */
export function onePanelSvg(view: CompareView, width: number, height: number): string {
  const { job, judgement, units, hiddenSetups, candidate, fontSize } = view;
  const curves = judgement.setups.filter(
    (s) => s.pulls > 0 && !hiddenSetups.has(s.setupId) && s.power.values.length > 1,
  );
  if (curves.length === 0) return '';
  const looks = setupStyles(job.setups);
  const references = (job.references ?? []).map((r) => ({
    first: r.first,
    values: Float64Array.from(r.values),
    samples: new Uint32Array(r.values.length),
  }));
  const [from, to] = [
    Math.floor(Math.min(...curves.map((c) => fromRpm(c.power))) / 500) * 500,
    Math.ceil(Math.max(...curves.map((c) => toRpm(c.power))) / 500) * 500,
  ];
  const extent = (of: (c: GridCurve) => GridCurve, unit: 'power' | 'torque') => {
    const all = curves
      .flatMap((c) => Array.from(of(c.power).values).filter(Number.isFinite))
      .map((v) => fromSi(v, units[unit]));
    return axisOver(0, Math.max(...all), 5);
  };
  const axes = { power: extent((c) => c, 'power'), torque: extent(torqueCurve, 'torque') };
  const [left, right, top, bottom] = [46, width - 104, fontSize + 12, height - 26];
  const x = (rpm: number) => left + ((rpm - from) / (to - from)) * (right - left);
  const y = (value: number, { min, max }: { min: number; max: number }) =>
    bottom - ((value - min) / (max - min)) * (bottom - top);
  const path = (curve: GridCurve, unit: 'power' | 'torque') => {
    let pen = 'M';
    return Array.from(curve.values, (v, i) => {
      const rpm = (curve.first + i) * 25;
      if (!Number.isFinite(v) || rpm < from || rpm > to) {
        pen = 'M';
        return '';
      }
      const point = `${pen}${x(rpm).toFixed(1)} ${y(fromSi(v, units[unit]), axes[unit]).toFixed(1)}`;
      pen = 'L';
      return point;
    }).join('');
  };
  const parts = [
    `<defs><clipPath id="one-panel"><rect x="${left}" y="${top}" width="${right - left}" height="${bottom - top}"/></clipPath></defs>`,
    `<rect x="${left}" y="${top}" width="${right - left}" height="${bottom - top}" fill="${DESK.well}"/>`,
  ];
  const text = (tx: number, ty: number, words: string, more = '') =>
    parts.push(
      `<text x="${tx.toFixed(1)}" y="${ty.toFixed(1)}" font-size="${fontSize}" fill="${DESK.ink3}" ${more}>${words}</text>`,
    );
  for (let v = axes.power.min; v <= axes.power.max + axes.power.step / 2; v += axes.power.step) {
    const at = y(v, axes.power);
    parts.push(`<line x1="${left}" x2="${right}" y1="${at.toFixed(1)}" y2="${at.toFixed(1)}" stroke="${DESK.faint}"/>`);
    text(left - 7, at + fontSize * 0.36, plain(v, 0), 'text-anchor="end"');
  }
  for (let v = axes.torque.min; v <= axes.torque.max + axes.torque.step / 2; v += axes.torque.step)
    text(right + 6, y(v, axes.torque) + fontSize * 0.36, plain(v, 0));
  for (let rpm = Math.ceil(from / 1000) * 1000; rpm <= to; rpm += 1000)
    text(x(rpm), height - 9, String(rpm), 'text-anchor="middle"');
  for (const reference of references)
    for (const unit of ['power', 'torque'] as const)
      parts.push(
        `<path d="${path(unit === 'power' ? reference : torqueCurve(reference), unit)}" clip-path="url(#one-panel)" fill="none" stroke="${DESK.ink3}" stroke-width="1.4" stroke-dasharray="5 4"/>`,
      );
  const pair = [job.question.baselineSetup, candidate];
  const ends: { y: number; words: string; fill: string }[] = [];
  for (const { setupId, power } of curves) {
    const look = looks.get(setupId)!;
    const strong = pair.includes(repeatedSetup(job.setups, setupId));
    const style = `stroke="${look.line}" stroke-width="${strong ? 2.4 : 1.5}" stroke-opacity="${strong ? 1 : 0.45}"${look.dash === 'solid' ? '' : ` stroke-dasharray="${look.dash.join(' ')}"`}`;
    parts.push(
      `<path d="${path(power, 'power')}" fill="none" ${style}/>`,
      `<path d="${path(torqueCurve(power), 'torque')}" fill="none" ${style}/>`,
    );
    const last = power.values.findLast(Number.isFinite) ?? 0;
    if (strong) ends.push({ y: y(fromSi(last, units.power), axes.power), words: `${setupId} power`, fill: look.text });
  }
  parts.push(...endLabels(ends, right + 36, fontSize, [top + 6, bottom]));
  text(
    left,
    fontSize + 2,
    `Wheel power, ${units.power} (left); torque, ${units.torque} (right); means of the counted pulls`,
    'font-weight="560"',
  );
  return svgOf(width, height, parts, `Power and torque of ${curves.map((c) => c.setupId).join(', ')} in one panel`);
}
