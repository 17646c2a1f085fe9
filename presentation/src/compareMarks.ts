import {
  fromSi,
  repeatedSetup,
  toRpm,
  torqueCurve,
  type CandidateVerdict,
  type GridCurve,
  type Judgement,
} from '@prandel/core';
import { ribbonValue, verdictOf, type ComparePart, type CompareView } from './compareView.ts';
import { interval, plain, unitOf, type ShownUnits } from './figures.ts';
import { spread, xOf, yOf, type Geometry, type Panel } from './geometry.ts';
import { DESK, type setupStyles } from './palette.ts';
import { VERDICT_STYLES } from './verdictStyles.ts';

/** A graphic element of the chart option. */
export type Mark = Record<string, unknown>;

const text = (x: number, y: number, words: string, size: number, more: Mark = {}): Mark => ({
  type: 'text',
  silent: true,
  z: 20,
  x,
  y,
  style: {
    text: words,
    fontSize: size,
    fill: DESK.ink2,
    fontFamily: '"Archivo Variable", Archivo, system-ui, sans-serif',
    verticalAlign: 'middle',
    stroke: DESK.well,
    lineWidth: 3,
    ...more,
  },
});

/** Titles, the agreed window, rpm ticks, end labels with badges, crossovers and the verdict strip, of the panels that are drawn. */
export function compareMarks(
  view: CompareView,
  g: Geometry,
  looks: ReturnType<typeof setupStyles>,
  part: ComparePart,
): Mark[] {
  return [
    ...(part === 'difference' ? [] : curveMarks(view, g, looks)),
    ...(part === 'curves' ? [] : differenceMarks(view, g)),
  ];
}

const title = (view: CompareView, g: Geometry, p: Panel, words: string) =>
  text(g.left + 8, p.top + 11, words, view.fontSize + 0.5, { fontWeight: 560 });

/** The window, shaded, and a line every 1000 rpm. */
function speedMarks({ judgement }: CompareView, g: Geometry, panels: readonly Panel[]): Mark[] {
  const out: Mark[] = [];
  const window = windowShown(judgement, g);
  if (window) {
    const [from, to] = window.map((rpm) => xOf(g, rpm)) as [number, number];
    for (const p of panels)
      out.push({
        type: 'rect',
        silent: true,
        z: 0,
        shape: { x: from, y: p.top, width: to - from, height: p.height },
        style: { fill: DESK.ink, opacity: 0.035 },
      });
  }
  for (const rpm of thousands(g)) {
    const x = Math.round(xOf(g, rpm)) + 0.5;
    for (const p of panels)
      out.push({
        type: 'line',
        silent: true,
        z: 0,
        shape: { x1: x, x2: x, y1: p.top, y2: p.top + p.height },
        style: { stroke: DESK.faint, lineWidth: 1 },
      });
  }
  return out;
}

/** The window as far as it is in the picture, rpm. */
const windowShown = ({ declaredWindow }: Judgement, g: Geometry) =>
  declaredWindow?.map((rpm) => Math.min(g.rpmTo, Math.max(g.rpmFrom, rpm)));

function thousands(g: Geometry): number[] {
  const first = Math.ceil(g.rpmFrom / 1000);
  return Array.from({ length: Math.floor(g.rpmTo / 1000) - first + 1 }, (_, i) => (first + i) * 1000);
}

function curveMarks(view: CompareView, g: Geometry, looks: ReturnType<typeof setupStyles>): Mark[] {
  const { fontSize, judgement, units, job } = view;
  const out = speedMarks(view, g, [g.power, g.torque]);
  const window = windowShown(judgement, g);
  if (window)
    out.push(
      text(
        xOf(g, (window[0]! + window[1]!) / 2),
        g.torque.top + g.torque.height - 9,
        job.question.windowRpm
          ? `agreed window ${judgement.declaredWindow!.join('–')} rpm`
          : `window ${judgement.declaredWindow!.join('–')} rpm, not agreed`,
        fontSize,
        { align: 'center', fill: DESK.ink3 },
      ),
    );
  out.push(
    title(view, g, g.power, `Wheel power, ${units.power}`),
    title(view, g, g.torque, `Wheel torque, ${units.torque}`),
  );
  out.push(...endLabels(view, g, looks));
  return out;
}

function differenceMarks(view: CompareView, g: Geometry): Mark[] {
  const { fontSize, units, job } = view;
  const out = speedMarks(view, g, [g.ribbon]);
  const below = g.strip.top + g.strip.height + 12;
  const quiet = { fill: DESK.ink3, stroke: 'none' };
  for (const rpm of thousands(g))
    out.push(text(Math.round(xOf(g, rpm)) + 0.5, below, String(rpm), fontSize, { align: 'center', ...quiet }));
  out.push(text(g.width - g.right + 26, below, 'rpm', fontSize, quiet));
  const verdict = verdictOf(view);
  out.push(
    title(
      view,
      g,
      g.ribbon,
      verdict?.ribbon
        ? `Difference ${view.candidate} \u2212 ${job.question.baselineSetup}, ${unitOf(verdict.measure, units)}, 95 % at each speed`
        : 'No difference over engine speed: this question is about something else, or there are too few pulls.',
    ),
  );
  if (verdict?.ribbon) out.push(...ribbonMarks(verdict, view, g));
  return out;
}

function endLabels(view: CompareView, g: Geometry, looks: ReturnType<typeof setupStyles>): Mark[] {
  const { fontSize: fs, judgement, units } = view;
  const shownSetups = judgement.setups.filter(
    (s) => s.peaks && !view.hiddenSetups.has(s.setupId) && repeatedSetup(view.job.setups, s.setupId) === s.setupId,
  );
  const out: Mark[] = [];
  const right = g.width - g.right;
  const group = (
    panel: Panel,
    curveEnd: (s: (typeof shownSetups)[number]) => number,
    label: (s: (typeof shownSetups)[number]) => string,
  ) => {
    const wanted = shownSetups.map((s) => yOf(panel, curveEnd(s)));
    const within = [panel.top + 8, panel.top + panel.height - 8] as const;
    const placed = spread(wanted, fs + 6, within);
    shownSetups.forEach((s, i) => {
      const look = looks.get(s.setupId)!;
      const y = placed[i]!;
      const endX = xOf(g, toRpm(s.power));
      out.push({
        type: 'polyline',
        silent: true,
        z: 19,
        shape: {
          points: [
            [Math.min(endX, right), yOf(panel, curveEnd(s))],
            [right + 4, yOf(panel, curveEnd(s))],
            [right + 10, y],
          ],
        },
        style: { stroke: look.line, lineWidth: 1, opacity: 0.7, fill: 'none' },
      });
      out.push({
        type: 'rect',
        silent: true,
        z: 20,
        shape: { x: right + 12, y: y - 7.5, width: 16, height: 15, r: 2 },
        style: { fill: look.line },
      });
      out.push(
        text(right + 20, y + 0.5, s.setupId, fs, { align: 'center', fill: look.on, fontWeight: 700, stroke: 'none' }),
      );
      out.push(text(right + 32, y + 0.5, label(s), fs + 1, { fill: look.text, fontWeight: 640, stroke: DESK.sheet }));
    });
    const below = Math.max(...placed) + fs + 6;
    if (placed.length > 0 && below <= within[1])
      out.push(text(right + 12, below, 'mean at peak', fs, { fill: DESK.ink3, stroke: DESK.sheet }));
  };
  const last = (curve: GridCurve, unit: ShownUnits['power']) =>
    fromSi(curve.values.findLast(Number.isFinite) ?? 0, unit);
  group(
    g.power,
    (s) => last(s.power, units.power),
    (s) => `${plain(fromSi(s.peaks!.power.value, units.power), 1)} ${units.power}`,
  );
  group(
    g.torque,
    (s) => last(torqueCurve(s.power), units.torque),
    (s) => `${plain(fromSi(s.peaks!.torque.value, units.torque), 0)} ${units.torque}`,
  );
  return out;
}

function ribbonMarks(verdict: CandidateVerdict, view: CompareView, g: Geometry): Mark[] {
  const { fontSize: fs, units } = view;
  const ribbon = verdict.ribbon!;
  const out: Mark[] = [];
  const right = g.width - g.right;
  for (const rpm of ribbon.crossovers) {
    const x = xOf(g, rpm);
    const y = yOf(g.ribbon, 0);
    out.push({
      type: 'polygon',
      silent: true,
      z: 21,
      shape: {
        points: [
          [x, y - 6],
          [x + 6, y],
          [x, y + 6],
          [x - 6, y],
        ],
      },
      style: { fill: DESK.sheet, stroke: DESK.ink, lineWidth: 1.6 },
    });
    out.push(
      text(x, Math.min(y + 16, g.ribbon.top + g.ribbon.height - 7), `crossover ${Math.round(rpm / 50) * 50}`, fs, {
        align: 'center',
      }),
    );
  }
  const end = ribbon.percent.length - 1;
  const at = (p: Float64Array) => ribbonValue(verdict, end, p[end]!, units);
  if (end >= 0 && Number.isFinite(ribbon.percent[end]!)) {
    const words = interval(at(ribbon.percent), at(ribbon.lowPercent), at(ribbon.highPercent));
    const y = Math.min(
      g.ribbon.top + g.ribbon.height - 24,
      Math.max(g.ribbon.top + 7, yOf(g.ribbon, at(ribbon.percent))),
    );
    out.push(
      text(right + 8, y, `${words.estimate} ${unitOf(verdict.measure, units)}`, fs + 1, {
        fontWeight: 640,
        fill: DESK.ink,
        stroke: DESK.sheet,
      }),
    );
    out.push(
      text(right + 8, y + fs + 3, `±${words.half} at ${ribbon.rpm[end]}`, fs, { fill: DESK.ink3, stroke: DESK.sheet }),
    );
  }
  for (const cell of stripCells(verdict)) {
    const look = VERDICT_STYLES[cell.verdict];
    const x = xOf(g, cell.fromRpm) + 1;
    const width = xOf(g, cell.toRpm) - xOf(g, cell.fromRpm) - 2;
    out.push({
      type: 'rect',
      silent: true,
      z: 20,
      shape: { x, y: g.strip.top, width, height: g.strip.height, r: 2 },
      style: cell.verified ? { fill: look.colour } : { fill: look.tint, stroke: look.colour, lineWidth: 0.8 },
    });
    const long = `${cell.verified ? look.word : look.short} ${cell.fromRpm}–${cell.toRpm}`;
    const room = (words: string) => words.length * fs * 0.54 < width - 8;
    const words = [long, look.word, look.short].find(room);
    if (words)
      out.push(
        text(x + width / 2, g.strip.top + g.strip.height / 2 + 0.5, words, fs, {
          align: 'center',
          fill: cell.verified ? '#FFFFFF' : look.colour,
          fontWeight: 600,
          stroke: 'none',
        }),
      );
  }
  return out;
}

/** Neighbouring bands of one verdict as one cell; nothing is claimed for a pair that cannot be compared. */
export function stripCells(verdict: CandidateVerdict): {
  fromRpm: number;
  toRpm: number;
  verdict: CandidateVerdict['bands'][number]['verdict'] | 'not-comparable';
  verified: boolean;
}[] {
  const cells: ReturnType<typeof stripCells> = [];
  const lost = verdict.verdict === 'not-comparable';
  for (const band of verdict.bands) {
    const named = lost ? 'not-comparable' : band.verdict;
    const last = cells.at(-1);
    if (last && last.verdict === named && last.toRpm === band.fromRpm) last.toRpm = band.toRpm;
    else cells.push({ fromRpm: band.fromRpm, toRpm: band.toRpm, verdict: named, verified: band.verified && !lost });
  }
  return cells;
}
