import { fromSi, repeatedSetup, torqueCurve, type CandidateVerdict, type GridCurve } from '@prandel/core';
import type { CustomSeriesRenderItemReturn, EChartsOption, SeriesOption } from 'echarts';
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
    const torque = torqueCurve(setup.power);
    const torqueHalf = setup.halfWidthW.map((w, i) => (w * torque.values[i]!) / setup.power.values[i]!);
    for (const [axis, curve, half] of [
      [0, setup.power, setup.halfWidthW],
      [1, torque, torqueHalf],
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
  for (const [axis, unit] of [
    [0, view.units.power],
    [1, view.units.torque],
  ] as const)
    for (const r of view.job.references ?? []) {
      const power = { first: r.first, values: Float64Array.from(r.values), samples: new Uint32Array(r.values.length) };
      series.push({
        ...{
          type: 'line',
          xAxisIndex: axis,
          yAxisIndex: axis,
          symbol: 'none',
          silent: true,
          animation: false,
          z: 1,
          clip: true,
        },
        data: points(axis === 0 ? power : torqueCurve(power), (v) => fromSi(v, unit)),
        lineStyle: { width: 1.6, color: DESK.ink3, type: [5, 4], opacity: 0.75 },
      });
    }
  if (view.showPulls) series.push(...pullLines(view, g, looks, (id) => pair(repeatedSetup(view.job.setups, id))));
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

/** The thin lines of single pulls: one series a panel, since a series of its own for every pull costs more than its line. */
function pullLines(
  view: CompareView,
  g: Geometry,
  looks: ReturnType<typeof setupStyles>,
  pair: (id: string) => boolean,
): SeriesOption[] {
  const pulls = view.judgement.pulls.filter(
    ({ id, setupId, status }) =>
      status !== 'settle' &&
      (status !== 'set-aside' || view.showSetAside) &&
      !view.hiddenSetups.has(setupId) &&
      !view.hiddenPulls.has(id),
  );
  if (pulls.length === 0) return [];
  return [g.power, g.torque].map((panel, axis): SeriesOption => {
    const unit = axis === 0 ? view.units.power : view.units.torque;
    const children = pulls.flatMap(({ setupId, status, power }) => {
      const aside = status === 'set-aside';
      const style = {
        fill: null,
        lineWidth: 1,
        // Of what is not compared here the single pulls are hardly more than a hint.
        opacity: aside ? 0.7 : pair(setupId) ? 0.34 : 0.14,
        stroke: looks.get(setupId)?.line ?? DESK.ink3,
        lineDash: aside ? [1, 1] : null,
        lineJoin: 'bevel',
      };
      return stretches(axis === 0 ? power : torqueCurve(power), g, panel, (v) => fromSi(v, unit)).map((points) => ({
        type: 'polyline',
        shape: { points },
        style,
      }));
    });
    return {
      type: 'custom',
      ...{ xAxisIndex: axis, yAxisIndex: axis, silent: true, animation: false, z: 2, clip: true },
      data: [[g.rpmFrom, panel.min]],
      renderItem: () => ({ type: 'group', children }) as CustomSeriesRenderItemReturn,
    };
  });
}

/** The stretches of a curve between its holes, as points of the picture. */
function stretches(curve: GridCurve, g: Geometry, panel: Panel, at: (v: number) => number): number[][][] {
  const all: number[][][] = [[]];
  for (let i = 0; i < curve.values.length; i += 1) {
    const value = curve.values[i]!;
    if (Number.isFinite(value)) all.at(-1)!.push([xOf(g, rpmOf(curve, i)), yOf(panel, at(value))]);
    else if (all.at(-1)!.length > 0) all.push([]);
  }
  return all.filter((points) => points.length > 1);
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
