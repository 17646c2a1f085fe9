import {
  fromRpm,
  fromSi,
  repeatedSetup,
  toRpm,
  torqueCurve,
  type CandidateVerdict,
  type GridCurve,
  type Job,
  type Judgement,
} from '@prandel/core';
import type { EChartsOption, SeriesOption } from 'echarts';
import { interval, plain, type ShownUnits } from './figures.ts';
import { axisOver, LEFT_GUTTER, RIGHT_GUTTER, spread, xOf, yOf, type Geometry, type Panel } from './geometry.ts';
import { DESK, setupLooks } from './palette.ts';
import { VERDICT_LOOKS } from './words.ts';

/** What a comparison shows: the judgement, the candidate in question, and what is switched on. */
export interface CompareView {
  readonly job: Job;
  readonly judgement: Judgement;
  readonly candidate: string;
  readonly hiddenSetups: ReadonlySet<string>;
  readonly hiddenPulls: ReadonlySet<string>;
  readonly showPulls: boolean;
  readonly showSetAside: boolean;
  readonly units: ShownUnits;
  readonly size: { readonly width: number; readonly power: number; readonly torque: number; readonly ribbon: number };
  readonly fontSize: number;
}

const STEP = 25;

/** Where everything stands, in pixels and in the chosen units. */
export function compareGeometry(view: CompareView): Geometry {
  const { judgement, size, units } = view;
  const curves = judgement.setups.filter((s) => s.pulls > 0).map((s) => s.power);
  const from = Math.floor(Math.min(...curves.map(fromRpm)) / 100) * 100;
  const to = Math.ceil(Math.max(...curves.map(toRpm)) / 100) * 100;
  const of = (unit: 'power' | 'torque') =>
    curves
      .flatMap((c) => Array.from((unit === 'power' ? c : torqueCurve(c)).values).filter(Number.isFinite))
      .map((v) => fromSi(v, units[unit]));
  const extent = (values: number[]) => [Math.min(...values), Math.max(...values)] as const;
  const [pLow, pHigh] = extent(of('power'));
  const [tLow, tHigh] = extent(of('torque'));
  const ribbon = ribbonExtent(view);
  const gap = 8;
  const power: Panel = { top: 6, height: size.power, ...axisOver(pLow, pHigh, 5), max: pHigh * 1.06 };
  const torque: Panel = {
    top: power.top + power.height + gap,
    height: size.torque,
    ...axisOver(tLow, tHigh, 3),
    max: tHigh * 1.04,
  };
  const room = (ribbon[1] - ribbon[0]) * 0.14;
  const panel: Panel = {
    top: torque.top + torque.height + gap,
    height: size.ribbon,
    ...axisOver(ribbon[0], ribbon[1] + room, 4),
    max: ribbon[1] + room,
  };
  const strip = { top: panel.top + panel.height + 4, height: 18 };
  return {
    width: size.width,
    height: strip.top + strip.height + 24,
    left: LEFT_GUTTER,
    right: RIGHT_GUTTER,
    rpmFrom: from,
    rpmTo: to,
    power,
    torque,
    ribbon: panel,
    strip,
  };
}

export function verdictOf(view: Pick<CompareView, 'judgement' | 'candidate'>): CandidateVerdict | undefined {
  return view.judgement.verdicts.find((v) => v.candidate === view.candidate);
}

/** Ribbon values in the chosen unit: a per cent of the baseline at that speed. */
export function ribbonValue(verdict: CandidateVerdict, i: number, percent: number, units: ShownUnits): number {
  return fromSi((verdict.ribbon!.baselineW[i]! * percent) / 100, units.power);
}

function ribbonExtent(view: CompareView): readonly [number, number] {
  const verdict = verdictOf(view);
  if (!verdict?.ribbon) return [-1, 1];
  const values: number[] = [0];
  verdict.ribbon.rpm.forEach((_, i) => {
    for (const p of [
      verdict.ribbon!.lowPercent[i]!,
      verdict.ribbon!.highPercent[i]!,
      verdict.ribbon!.floorPercent,
      -verdict.ribbon!.floorPercent,
    ]) {
      const v = ribbonValue(verdict, i, p, view.units);
      if (Number.isFinite(v)) values.push(v);
    }
  });
  return [Math.min(...values), Math.max(...values)];
}

/** The whole comparison as one chart option: power, torque, gain ribbon and verdict strip on one rpm axis. */
export function compareOption(view: CompareView): { option: EChartsOption; geometry: Geometry } {
  const g = compareGeometry(view);
  const panels = [g.power, g.torque, g.ribbon];
  const looks = setupLooks(view.job.setups);
  const { candidate } = view;
  const pair = (id: string) => [view.job.question.baselineSetup, candidate].includes(id);
  const series: SeriesOption[] = [];
  const visible = view.judgement.setups.filter((s) => s.pulls > 0 && !view.hiddenSetups.has(s.setupId));
  for (const setup of visible) {
    const look = looks.get(setup.setupId)!;
    const strong = pair(setup.setupId);
    for (const [axis, curve, half] of [
      [0, setup.power, setup.halfWidthW],
      [
        1,
        torqueCurve(setup.power),
        setup.halfWidthW.map((w, i) => (w * torqueCurve(setup.power).values[i]!) / setup.power.values[i]!),
      ],
    ] as const) {
      const unit = axis === 0 ? view.units.power : view.units.torque;
      const at = (v: number) => fromSi(v, unit);
      if (strong)
        series.push(
          polygon(
            axis,
            g,
            panels[axis]!,
            Array.from(curve.values, (v, i) => [rpmOf(curve, i), at(v - half[i]!), at(v + half[i]!)]),
            look.line,
            0.17,
          ),
        );
      series.push({
        type: 'line',
        xAxisIndex: axis,
        yAxisIndex: axis,
        data: points(curve, at),
        symbol: 'none',
        silent: true,
        animation: false,
        z: strong ? 5 : 3,
        lineStyle: {
          width: strong ? 2.4 : 1.7,
          color: look.line,
          type: look.dash,
          opacity: strong ? 1 : 0.55,
          join: 'round',
        },
      });
    }
  }
  if (view.showPulls) series.push(...pullLines(view, looks));
  const verdict = verdictOf(view);
  if (verdict?.ribbon) series.push(...ribbonSeries(verdict, g, view));
  const axes = panels.map((p, i) => ({
    x: {
      gridIndex: i,
      type: 'value' as const,
      min: g.rpmFrom,
      max: g.rpmTo,
      interval: 1000,
      axisLine: { show: false },
      axisTick: { show: false },
      splitLine: { show: false },
      axisLabel: { show: false },
    },
    y: {
      gridIndex: i,
      type: 'value' as const,
      min: p.min,
      max: p.max,
      interval: p.step,
      axisLine: { show: false },
      axisTick: { show: false },
      splitLine: { show: true, lineStyle: { color: DESK.faint, width: 1 } },
      axisLabel: {
        fontSize: view.fontSize,
        color: DESK.ink3,
        margin: 7,
        showMinLabel: i === 2,
        showMaxLabel: false,
        formatter: (v: number) =>
          i === 2 ? (v > 0 ? `+${plain(v, p.step < 1 ? 1 : 0)}` : plain(v, p.step < 1 ? 1 : 0)) : plain(v, 0),
      },
    },
  }));
  return {
    geometry: g,
    option: {
      animation: false,
      textStyle: { fontFamily: '"Archivo Variable", Archivo, system-ui, sans-serif' },
      grid: panels.map((p) => ({
        left: g.left,
        right: g.right,
        top: p.top,
        height: p.height,
        show: true,
        backgroundColor: DESK.well,
        borderWidth: 0,
        containLabel: false,
      })),
      xAxis: axes.map((a) => a.x),
      yAxis: axes.map((a) => a.y),
      series,
      graphic: { elements: marks(view, g, looks) },
      tooltip: { show: false },
    },
  };
}

const rpmOf = (curve: GridCurve, i: number) => (curve.first + i) * STEP;

function points(curve: GridCurve, at: (v: number) => number): (number | null)[][] {
  return Array.from(curve.values, (v, i) => [rpmOf(curve, i), Number.isFinite(v) ? at(v) : null]);
}

function pullLines(view: CompareView, looks: ReturnType<typeof setupLooks>): SeriesOption[] {
  return view.judgement.pulls.flatMap((pull): SeriesOption[] => {
    const aside = pull.status === 'set-aside';
    if (
      pull.status === 'settle' ||
      (aside && !view.showSetAside) ||
      view.hiddenSetups.has(pull.setupId) ||
      view.hiddenPulls.has(pull.id)
    )
      return [];
    const look = looks.get(pull.setupId);
    return [0, 1].map((axis) => ({
      type: 'line',
      xAxisIndex: axis,
      yAxisIndex: axis,
      symbol: 'none',
      silent: true,
      animation: false,
      z: 2,
      data:
        axis === 0
          ? points(pull.power, (v) => fromSi(v, view.units.power))
          : points(torqueCurve(pull.power), (v) => fromSi(v, view.units.torque)),
      lineStyle: {
        width: 1,
        opacity: aside ? 0.7 : 0.34,
        color: look?.line ?? DESK.ink3,
        type: aside ? 'dotted' : 'solid',
      },
    }));
  });
}

/** A filled band between two values over rpm; rows are [rpm, low, high]. */
function polygon(
  axis: number,
  g: Geometry,
  panel: Panel,
  rows: (number | null)[][],
  colour: string,
  opacity: number,
  z = 1,
): SeriesOption {
  const known = rows.filter((r): r is number[] => r.every((v) => v !== null && Number.isFinite(v)));
  const clamp = (v: number) => Math.min(panel.max, Math.max(panel.min, v));
  const shape = [
    ...known.map(([rpm, low]) => [xOf(g, rpm!), yOf(panel, clamp(low!))]),
    ...known.reverse().map(([rpm, , high]) => [xOf(g, rpm!), yOf(panel, clamp(high!))]),
  ];
  return {
    type: 'custom',
    xAxisIndex: axis,
    yAxisIndex: axis,
    silent: true,
    animation: false,
    z,
    data: [[g.rpmFrom, panel.min]],
    renderItem: () => ({ type: 'polygon', shape: { points: shape }, style: { fill: colour, opacity } }),
  };
}

function ribbonSeries(verdict: CandidateVerdict, g: Geometry, view: CompareView): SeriesOption[] {
  const ribbon = verdict.ribbon!;
  const value = (i: number, percent: number) => ribbonValue(verdict, i, percent, view.units);
  const rows = (low: (i: number) => number, high: (i: number) => number, keep: (rpm: number) => boolean = () => true) =>
    Array.from(ribbon.rpm, (rpm, i) => [rpm, value(i, low(i)), value(i, high(i))]).filter(([rpm]) => keep(rpm!));
  const floor = ribbon.floorPercent;
  const all: SeriesOption[] = [
    polygon(
      2,
      g,
      g.ribbon,
      rows(
        () => -floor,
        () => floor,
      ),
      DESK.floor,
      1,
      1,
    ),
    polygon(
      2,
      g,
      g.ribbon,
      rows(
        (i) => ribbon.lowPercent[i]!,
        (i) => ribbon.highPercent[i]!,
      ),
      DESK.ink,
      0.13,
      2,
    ),
  ];
  for (const sign of [-1, 1]) {
    all.push({
      type: 'line',
      xAxisIndex: 2,
      yAxisIndex: 2,
      symbol: 'none',
      silent: true,
      animation: false,
      z: 2,
      data: Array.from(ribbon.rpm, (rpm, i) => [rpm, value(i, sign * floor)]),
      lineStyle: { width: 1, color: DESK.floorEdge, type: [3, 3] },
    });
  }
  if (verdict.verdict !== 'not-comparable') {
    for (const band of verdict.bands.filter((b) => b.verified)) {
      const { colour } = VERDICT_LOOKS[band.verdict];
      const inside = (rpm: number) => rpm >= band.fromRpm && rpm <= band.toRpm;
      const gain = band.verdict === 'verified-gain';
      all.push(
        polygon(
          2,
          g,
          g.ribbon,
          rows(
            (i) => ribbon.lowPercent[i]!,
            (i) => ribbon.highPercent[i]!,
            inside,
          ),
          colour,
          0.34,
          3,
        ),
      );
      all.push(
        polygon(
          2,
          g,
          g.ribbon,
          rows(
            (i) => (gain ? 0 : Math.min(0, ribbon.highPercent[i]!)),
            (i) => (gain ? Math.max(0, ribbon.lowPercent[i]!) : 0),
            inside,
          ),
          colour,
          0.92,
          3,
        ),
      );
    }
  }
  all.push({
    type: 'line',
    xAxisIndex: 2,
    yAxisIndex: 2,
    symbol: 'none',
    silent: true,
    animation: false,
    z: 4,
    data: [
      [g.rpmFrom, 0],
      [g.rpmTo, 0],
    ],
    lineStyle: { width: 1.1, color: DESK.ink },
  });
  all.push({
    type: 'line',
    xAxisIndex: 2,
    yAxisIndex: 2,
    symbol: 'none',
    silent: true,
    animation: false,
    z: 5,
    data: Array.from(ribbon.rpm, (rpm, i) => [
      rpm,
      Number.isFinite(ribbon.percent[i]!) ? value(i, ribbon.percent[i]!) : null,
    ]),
    lineStyle: { width: 2, color: DESK.ink },
  });
  return all;
}

type Mark = Record<string, unknown>;

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

/** Titles, the agreed window, rpm ticks, end labels with badges, crossovers and the verdict strip. */
function marks(view: CompareView, g: Geometry, looks: ReturnType<typeof setupLooks>): Mark[] {
  const { fontSize: fs, judgement, units, job } = view;
  const out: Mark[] = [];
  const bottom = g.ribbon.top + g.ribbon.height;
  if (judgement.declaredWindow) {
    const [a, b] = judgement.declaredWindow.map((rpm) => Math.min(g.rpmTo, Math.max(g.rpmFrom, rpm))) as [
      number,
      number,
    ];
    for (const p of [g.power, g.torque, g.ribbon])
      out.push({
        type: 'rect',
        silent: true,
        z: 0,
        shape: { x: xOf(g, a), y: p.top, width: xOf(g, b) - xOf(g, a), height: p.height },
        style: { fill: DESK.ink, opacity: 0.035 },
      });
    out.push(
      text(
        xOf(g, (a + b) / 2),
        g.torque.top + g.torque.height - 9,
        job.question.windowRpm
          ? `agreed window ${judgement.declaredWindow.join('–')} rpm`
          : `window ${judgement.declaredWindow.join('–')} rpm, not agreed`,
        fs,
        { align: 'center', fill: DESK.ink3 },
      ),
    );
  }
  for (let rpm = Math.ceil(g.rpmFrom / 1000) * 1000; rpm <= g.rpmTo; rpm += 1000) {
    const x = Math.round(xOf(g, rpm)) + 0.5;
    for (const p of [g.power, g.torque, g.ribbon])
      out.push({
        type: 'line',
        silent: true,
        z: 0,
        shape: { x1: x, x2: x, y1: p.top, y2: p.top + p.height },
        style: { stroke: DESK.faint, lineWidth: 1 },
      });
    out.push(
      text(x, g.strip.top + g.strip.height + 12, String(rpm), fs, { align: 'center', fill: DESK.ink3, stroke: 'none' }),
    );
  }
  out.push(
    text(g.width - g.right + 26, g.strip.top + g.strip.height + 12, 'rpm', fs, { fill: DESK.ink3, stroke: 'none' }),
  );
  const title = (p: Panel, words: string) =>
    out.push(text(g.left + 8, p.top + 11, words, fs + 0.5, { fontWeight: 560 }));
  title(g.power, `Wheel power, ${units.power}`);
  title(g.torque, `Wheel torque, ${units.torque}`);
  title(
    g.ribbon,
    `Difference ${view.candidate} − ${job.question.baselineSetup}, ${units.power}, with 95 % band`.replace(
      '−',
      '\u2212',
    ),
  );
  out.push(...endLabels(view, g, looks, bottom));
  const verdict = verdictOf(view);
  if (verdict?.ribbon) out.push(...ribbonMarks(verdict, view, g));
  return out;
}

function endLabels(view: CompareView, g: Geometry, looks: ReturnType<typeof setupLooks>, bottom: number): Mark[] {
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
    const wanted = shownSetups.map((s) =>
      Math.min(panel.top + panel.height - 8, Math.max(panel.top + 8, yOf(panel, curveEnd(s)))),
    );
    const placed = spread(wanted, fs + 6);
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
    if (placed.length > 0)
      out.push(
        text(right + 12, Math.max(...placed) + fs + 6, 'mean at peak', fs, { fill: DESK.ink3, stroke: DESK.sheet }),
      );
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
  return bottom > 0 ? out : [];
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
      g.ribbon.top + g.ribbon.height - 54,
      Math.max(g.ribbon.top + 7, yOf(g.ribbon, at(ribbon.percent))),
    );
    out.push(
      text(right + 8, y, `${words.estimate} ${units.power}`, fs + 1, {
        fontWeight: 640,
        fill: DESK.ink,
        stroke: DESK.sheet,
      }),
    );
    out.push(
      text(right + 8, y + fs + 3, `±${words.half} at ${ribbon.rpm[end]}`, fs, { fill: DESK.ink3, stroke: DESK.sheet }),
    );
    const floor = Math.max(
      ...Array.from(ribbon.baselineW, (w) => fromSi((w * ribbon.floorPercent) / 100, units.power)),
    );
    out.push(
      text(right + 8, g.ribbon.top + g.ribbon.height - 20, 'noise floor', fs, { fill: DESK.ink3, stroke: DESK.sheet }),
    );
    out.push(
      text(
        right + 8,
        g.ribbon.top + g.ribbon.height - 6,
        `up to ±${plain(Math.ceil(floor * 10) / 10, 1)} ${units.power}`,
        fs,
        { fill: DESK.ink3, stroke: DESK.sheet },
      ),
    );
  }
  for (const cell of stripCells(verdict)) {
    const look = VERDICT_LOOKS[cell.verdict];
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
