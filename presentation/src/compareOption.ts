import { fromSi, torqueCurve, type CandidateVerdict, type GridCurve } from '@prandel/core';
import type { EChartsOption, SeriesOption } from 'echarts';
import { compareMarks } from './compareMarks.ts';
import { compareGeometry, ribbonValue, verdictOf, type CompareView } from './compareView.ts';
import { plain } from './figures.ts';
import { xOf, yOf, type Geometry, type Panel } from './geometry.ts';
import { DESK, setupStyles } from './palette.ts';
import { VERDICT_STYLES } from './verdictStyles.ts';

const STEP = 25;

/** The whole comparison as one chart option: power, torque, gain ribbon and verdict strip on one rpm axis. */
export function compareOption(view: CompareView): { option: EChartsOption; geometry: Geometry } {
  const g = compareGeometry(view);
  const panels = [g.power, g.torque, g.ribbon];
  const looks = setupStyles(view.job.setups);
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
      graphic: { elements: compareMarks(view, g, looks) },
      tooltip: { show: false },
    },
  };
}

const rpmOf = (curve: GridCurve, i: number) => (curve.first + i) * STEP;

function points(curve: GridCurve, at: (v: number) => number): (number | null)[][] {
  return Array.from(curve.values, (v, i) => [rpmOf(curve, i), Number.isFinite(v) ? at(v) : null]);
}

function pullLines(view: CompareView, looks: ReturnType<typeof setupStyles>): SeriesOption[] {
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
  const all: SeriesOption[] = [
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
  if (verdict.verdict !== 'not-comparable') {
    for (const band of verdict.bands.filter((b) => b.verified)) {
      const { colour } = VERDICT_STYLES[band.verdict];
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
