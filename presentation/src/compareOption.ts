import { fromSi, repeatedSetup, torqueCurve, type CandidateVerdict, type GridCurve } from '@prandel/core';
import type { CustomSeriesRenderItemReturn, EChartsOption, SeriesOption } from 'echarts';
import { compareMarks } from './compareMarks.ts';
import { compareGeometry, ribbonValue, verdictOf, type ComparePart, type CompareView } from './compareView.ts';
import { plain } from './figures.ts';
import { xOf, yOf, type Geometry, type Panel } from './geometry.ts';
import { DESK, setupStyles } from './palette.ts';
import simplify from 'simplify-js';
import { VERDICT_STYLES } from './verdictStyles.ts';

const STEP = 25;
/** How far a thin line may pass by a point of its curve, px: nobody sees it, and a quarter of the points draw it. */
const UNSEEN_PX = 0.25;

/** A shape within a panel. */
type Shape = Record<string, unknown>;

/**
 * The comparison as one chart option: power, torque, gain ribbon and verdict strip on one rpm axis.
 * @param part a half stands where it stands in the whole; two halves over each other are the whole
 */
export function compareOption(
  view: CompareView,
  part: ComparePart = 'whole',
): { option: EChartsOption; geometry: Geometry } {
  const g = compareGeometry(view);
  const looks = setupStyles(view.job.setups);
  const verdict = verdictOf(view);
  const drawn = [
    ...(part === 'difference'
      ? []
      : curveShapes(view, g, looks).map((shapes, i) => [[g.power, g.torque][i]!, shapes] as const)),
    ...(part === 'curves' ? [] : [[g.ribbon, verdict?.ribbon ? ribbonShapes(verdict, g, view) : []] as const]),
  ];
  return {
    geometry: g,
    option: {
      animation: false,
      textStyle: { fontFamily: '"Archivo Variable", Archivo, system-ui, sans-serif' },
      grid: drawn.map(([p]) => ({
        left: g.left,
        right: g.right,
        top: p.top,
        height: p.height,
        show: true,
        backgroundColor: DESK.well,
        borderWidth: 0,
        // Everything is placed by hand.
        outerBoundsMode: 'none' as const,
      })),
      xAxis: drawn.map((_, i) => ({
        gridIndex: i,
        type: 'value' as const,
        min: g.rpmFrom,
        max: g.rpmTo,
        interval: 1000,
        axisLine: { show: false },
        axisTick: { show: false },
        splitLine: { show: false },
        axisLabel: { show: false },
      })),
      yAxis: drawn.map(([p], i) => valueAxis(p, i, p === g.ribbon, view.fontSize)),
      series: drawn.map(([p, shapes], i) => shapesIn(i, g, p, shapes)),
      graphic: { elements: compareMarks(view, g, looks, part) },
    },
  };
}

function valueAxis(p: Panel, gridIndex: number, signed: boolean, fontSize: number) {
  const digits = signed && p.step < 1 ? 1 : 0;
  return {
    gridIndex,
    type: 'value' as const,
    min: p.min,
    max: p.max,
    interval: p.step,
    axisLine: { show: false },
    axisTick: { show: false },
    splitLine: { show: true, lineStyle: { color: DESK.faint, width: 1 } },
    axisLabel: {
      fontSize,
      color: DESK.ink3,
      margin: 7,
      showMinLabel: signed,
      showMaxLabel: false,
      formatter: (v: number) => (signed && v > 0 ? `+${plain(v, digits)}` : plain(v, digits)),
    },
  };
}

/** Everything of a panel as one series, drawn in this order: a series of its own for every line costs more than the line. */
function shapesIn(axis: number, g: Geometry, panel: Panel, children: readonly Shape[]): SeriesOption {
  return {
    type: 'custom',
    ...{ xAxisIndex: axis, yAxisIndex: axis, silent: true, animation: false, z: 2, clip: true },
    data: [[g.rpmFrom, panel.min]],
    renderItem: () => ({ type: 'group', children }) as unknown as CustomSeriesRenderItemReturn,
  };
}

/** Bands, references, single pulls and means of the panels of power and of torque. */
function curveShapes(view: CompareView, g: Geometry, looks: ReturnType<typeof setupStyles>): Shape[][] {
  const pair = (id: string) => [view.job.question.baselineSetup, view.candidate].includes(id);
  const setups = view.judgement.setups
    .filter((s) => s.pulls > 0 && !view.hiddenSetups.has(s.setupId))
    .map((s) => ({ ...s, strong: pair(s.setupId), look: looks.get(s.setupId)!, torque: torqueCurve(s.power) }))
    // What is compared lies on top.
    .sort((a, b) => Number(a.strong) - Number(b.strong));
  return [g.power, g.torque].map((panel, axis) => {
    const unit = axis === 0 ? view.units.power : view.units.torque;
    const at = (v: number) => fromSi(v, unit);
    const own = (power: GridCurve) => (axis === 0 ? power : torqueCurve(power));
    const compared = setups.filter((s) => s.strong);
    const bands = compared.map(({ power, torque, halfWidthW, look }) => {
      const curve = axis === 0 ? power : torque;
      const half = (i: number) => (halfWidthW[i]! * curve.values[i]!) / power.values[i]!;
      return polygon(
        g,
        panel,
        Array.from(curve.values, (v, i) => [rpmOf(curve, i), at(v - half(i)), at(v + half(i))]),
        look.line,
        0.17,
      );
    });
    const references = (view.job.references ?? []).flatMap((r) => {
      const power = { first: r.first, values: Float64Array.from(r.values), samples: new Uint32Array(r.values.length) };
      const style = { lineWidth: 1.6, stroke: DESK.ink3, lineDash: [5, 4], opacity: 0.75 };
      return stretches(own(power), g, panel, at).map((points) => line('reference', points, style));
    });
    const means = setups.flatMap(({ strong, power, torque, look }) => {
      const style = {
        lineWidth: strong ? 2.4 : 1.7,
        stroke: look.line,
        lineDash: look.dash === 'solid' ? null : look.dash,
        opacity: strong ? 1 : 0.55,
        lineJoin: 'round',
      };
      const curve = axis === 0 ? power : torque;
      return stretches(curve, g, panel, at).map((points) => line('mean', points, style));
    });
    return [
      ...bands,
      ...references,
      ...(view.showPulls
        ? pullLines(view, g, panel, looks, (id) => pair(repeatedSetup(view.job.setups, id)), own, at)
        : []),
      ...means,
    ];
  });
}

const rpmOf = (curve: GridCurve, i: number) => (curve.first + i) * STEP;

/** The thin lines of single pulls. */
function pullLines(
  view: CompareView,
  g: Geometry,
  panel: Panel,
  looks: ReturnType<typeof setupStyles>,
  pair: (id: string) => boolean,
  own: (power: GridCurve) => GridCurve,
  at: (v: number) => number,
): Shape[] {
  return view.judgement.pulls
    .filter(
      ({ id, setupId, status }) =>
        status !== 'settle' &&
        (status !== 'set-aside' || view.showSetAside) &&
        !view.hiddenSetups.has(setupId) &&
        !view.hiddenPulls.has(id),
    )
    .flatMap(({ setupId, status, power }) => {
      const aside = status === 'set-aside';
      const style = {
        lineWidth: 1,
        // Of what is not compared here the single pulls are hardly more than a hint.
        opacity: aside ? 0.7 : pair(setupId) ? 0.34 : 0.14,
        stroke: looks.get(setupId)?.line ?? DESK.ink3,
        lineDash: aside ? [1, 1] : null,
        lineJoin: 'bevel',
      };
      return stretches(own(power), g, panel, at).map((points) => line('pull', seen(points), style));
    });
}

/** What is seen of a line; loops, since this is done for every point of every pull. */
function seen(points: readonly number[][]): number[][] {
  const own = new Array<{ x: number; y: number }>(points.length);
  for (let i = 0; i < own.length; i += 1) own[i] = { x: points[i]![0]!, y: points[i]![1]! };
  return simplify(own, UNSEEN_PX, true).map((p) => [p.x, p.y]);
}

const line = (name: string, points: number[][], style: Shape): Shape => ({
  ...{ type: 'polyline', name, shape: { points }, style: { fill: null, ...style } },
});

/** The stretches of a curve between its holes, as points of the picture. */
function stretches(curve: GridCurve, g: Geometry, panel: Panel, at: (v: number) => number): number[][][] {
  const points = new Array<number[]>(curve.values.length);
  for (let i = 0; i < points.length; i += 1) points[i] = [xOf(g, rpmOf(curve, i)), yOf(panel, at(curve.values[i]!))];
  return unbroken(points);
}

/** Runs of known points, each long enough for a line. */
function unbroken(points: readonly number[][]): number[][][] {
  const all: number[][][] = [[]];
  for (const point of points) {
    if (Number.isFinite(point[1])) all.at(-1)!.push(point);
    else if (all.at(-1)!.length > 0) all.push([]);
  }
  return all.filter((own) => own.length > 1);
}

/** A filled band between two values over rpm; rows are [rpm, low, high]. */
function polygon(g: Geometry, panel: Panel, rows: (number | null)[][], fill: string, opacity: number): Shape {
  const known = rows.filter((r): r is number[] => r.every((v) => v !== null && Number.isFinite(v)));
  const clamp = (v: number) => Math.min(panel.max, Math.max(panel.min, v));
  const points = [
    ...known.map(([rpm, low]) => [xOf(g, rpm!), yOf(panel, clamp(low!))]),
    ...known.reverse().map(([rpm, , high]) => [xOf(g, rpm!), yOf(panel, clamp(high!))]),
  ];
  return { type: 'polygon', name: 'band', shape: { points }, style: { fill, opacity } };
}

/** The interval of the difference, what of it is verified, the line of no difference, and the difference itself. */
function ribbonShapes(verdict: CandidateVerdict, g: Geometry, view: CompareView): Shape[] {
  const ribbon = verdict.ribbon!;
  const value = (i: number, percent: number) => ribbonValue(verdict, i, percent, view.units);
  const band = (
    low: (i: number) => number,
    high: (i: number) => number,
    fill: string,
    opacity: number,
    keep: (rpm: number) => boolean = () => true,
  ) => {
    const rows = Array.from(ribbon.rpm, (rpm, i) => [rpm, value(i, low(i)), value(i, high(i))]);
    const kept = rows.filter(([rpm]) => keep(rpm!));
    return polygon(g, g.ribbon, kept, fill, opacity);
  };
  const low = (i: number) => ribbon.lowPercent[i]!;
  const high = (i: number) => ribbon.highPercent[i]!;
  const verified = verdict.verdict === 'not-comparable' ? [] : verdict.bands.filter((b) => b.verified);
  const points = Array.from(ribbon.rpm, (rpm, i) => [xOf(g, rpm), yOf(g.ribbon, value(i, ribbon.percent[i]!))]);
  const inked = (own: number[][], lineWidth: number) =>
    line('difference', own, { stroke: DESK.ink, lineWidth, lineJoin: 'bevel' });
  const zero = yOf(g.ribbon, 0);
  return [
    band(low, high, DESK.ink, 0.13),
    ...verified.flatMap((b) => {
      const { colour } = VERDICT_STYLES[b.verdict];
      const inside = (rpm: number) => rpm >= b.fromRpm && rpm <= b.toRpm;
      const sure =
        b.verdict === 'verified-gain'
          ? band(
              () => 0,
              (i) => Math.max(0, low(i)),
              colour,
              0.92,
              inside,
            )
          : band(
              (i) => Math.min(0, high(i)),
              () => 0,
              colour,
              0.92,
              inside,
            );
      return [band(low, high, colour, 0.34, inside), sure];
    }),
    inked(
      [
        [xOf(g, g.rpmFrom), zero],
        [xOf(g, g.rpmTo), zero],
      ],
      1.1,
    ),
    ...unbroken(points).map((own) => inked(own, 2)),
  ];
}
