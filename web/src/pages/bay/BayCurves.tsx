import { USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import { fromSi, newPull, usablePreview, type Channel, type LiveSheet, type UnitName } from '@prandel/core';
import { LineChart } from 'echarts/charts';
import { GridComponent, MarkLineComponent } from 'echarts/components';
import { init, use as registerCharts, type ECharts } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';
import type { LiveTrace } from '../../live/useLiveBay.ts';
import { bayStyle } from './bayStyles.ts';
import { ribbonOf, type Ribbon } from './ribbon.ts';

registerCharts([LineChart, GridComponent, MarkLineComponent, CanvasRenderer]);

const FONT = { fontFamily: 'Archivo Variable, Archivo, sans-serif', fontSize: 20 };

/** A variable of the mood as a plain colour, which a canvas needs. */
function colour(name: string): string {
  const plain = name.replace(/^var\(|\)$/g, '');
  return getComputedStyle(document.documentElement).getPropertyValue(plain).trim();
}

/** Samples between two pictures of the growing curve: a handful of frames a second is enough. */
const LIVE_STEP = 12;

/** Wheel power of the baseline's mean, this round's mean and the last pull; while pulling, the growing curve over them. */
export function BayCurves({
  sheet,
  trace,
  units: { power } = USUAL_UNITS,
}: {
  sheet: LiveSheet;
  trace: LiveTrace | null;
  units?: ShownUnits;
}) {
  const place = useRef<HTMLDivElement>(null);
  const chart = useRef<ECharts | null>(null);
  const pulling = sheet.state === 'pulling';
  const curves = sheet.curves;
  const setups = sheet.job?.setups ?? [];
  const ribbon = pulling ? null : ribbonOf(curves, power);
  useEffect(() => {
    const own = init(place.current, null, { renderer: 'canvas' });
    chart.current = own;
    const observer = new ResizeObserver(() => own.resize());
    observer.observe(place.current!);
    return () => {
      observer.disconnect();
      own.dispose();
    };
  }, []);
  const key = pulling
    ? `${trace?.pullId}:${Math.floor((trace?.rows.length ?? 0) / LIVE_STEP)}`
    : JSON.stringify([power, curves]);
  useEffect(() => {
    const lines = curves.filter((c) => !pulling || c.label !== 'last pull').map((c) => series(c, setups, power));
    if (pulling && trace && sheet.job && sheet.round)
      lines.push(...liveSeries(trace, sheet.job.rig, bayStyle(setups, sheet.round.setup).line, power));
    chart.current?.setOption(
      pulling || !ribbon ? panels([lines]) : panels([lines, ribbonSeries(ribbon, setups)], ribbon.reach),
      { notMerge: true },
    );
    // The key says everything that the picture depends on.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, pulling]);
  return (
    <section className="curves" aria-label={pulling ? 'Live curve' : 'Curves of the round'}>
      <h2>
        Wheel power, {power}
        <span className="curves-key">
          {pulling && <span>this pull</span>}
          {curves
            .filter((c) => !pulling || c.label !== 'last pull')
            .map((c) => {
              const look = bayStyle(setups, c.setup);
              return (
                <span key={`${c.setup} ${c.label}`}>
                  <b style={{ color: look.line }}>{c.setup}</b> {c.label}
                </span>
              );
            })}
        </span>
      </h2>
      {ribbon && (
        <p className="curves-ribbon">
          Below: last pull {'\u2212'} {ribbon.against} mean, {power}
        </p>
      )}
      <div ref={place} className="curves-plot" data-empty={!pulling && curves.length === 0} />
    </section>
  );
}

/** Height of the ribbon's panel and of the rpm figures under it, px. */
const RIBBON = 62;
const FEET = 34;

/** Panels under each other that share the rpm axis; its figures stand under the lowest only. */
function panels(groups: readonly ReturnType<typeof series>[][], reach = 1) {
  const label = { color: colour('--ink-2'), ...FONT };
  const split = { lineStyle: { color: colour('--rule-faint') } };
  const below = groups.length > 1;
  const hidden = { axisLine: { show: false }, axisTick: { show: false } };
  const rpm = groups.flatMap((lines) => lines.flatMap((line) => line.data.map(([x]) => x)));
  const span = rpm.length > 0 ? { min: Math.min(...rpm), max: Math.max(...rpm) } : {};
  return {
    animation: false,
    backgroundColor: colour('--well'),
    grid: groups.map((_, i) => ({
      left: 62,
      right: 18,
      ...(i === 0 ? { top: 12, bottom: below ? FEET + RIBBON + 14 : FEET } : { height: RIBBON, bottom: FEET }),
    })),
    xAxis: groups.map((_, i) => ({
      type: 'value' as const,
      gridIndex: i,
      ...(below ? span : { scale: true }),
      minInterval: 1000,
      interval: 1000,
      axisLabel: i === groups.length - 1 ? { ...label, formatter: String, hideOverlap: true } : { show: false },
      ...hidden,
      splitLine: split,
    })),
    yAxis: groups.map((_, i) => ({
      type: 'value' as const,
      gridIndex: i,
      ...(i > 0 ? { min: -reach, max: reach, interval: reach } : below ? tight(powersOf(groups[0]!)) : { scale: true }),
      axisLabel: {
        ...label,
        // Two panels are close: the outer figures stay inside their own.
        ...(below ? { verticalAlignMinLabel: 'bottom' as const, verticalAlignMaxLabel: 'top' as const } : {}),
        ...(i === 0 ? {} : { formatter: (v: number) => (v > 0 ? `+${v}` : String(v).replace('-', '\u2212')) }),
      },
      ...hidden,
      splitLine: split,
    })),
    series: groups.flatMap((lines, i) => lines.map((line) => ({ ...line, xAxisIndex: i, yAxisIndex: i }))),
  };
}

function powersOf(group: readonly ReturnType<typeof series>[]): number[] {
  return group.flatMap((line) => line.data.flatMap(([, y]) => y ?? []));
}

/** Two figures on the axis, at round tens around the curves. */
function tight(values: readonly number[]) {
  const min = 10 * Math.floor(Math.min(...values) / 10);
  const max = 10 * Math.ceil(Math.max(...values) / 10);
  return values.length > 0 ? { min, max, interval: max - min } : { scale: true };
}

/** Zero is dashed, so that above and below are told apart without reading the figures. */
function ribbonSeries(ribbon: Ribbon, setups: NonNullable<LiveSheet['job']>['setups']) {
  const zero = { color: colour('--ink-3'), width: 2, type: 'dashed' as const };
  return [
    {
      type: 'line' as const,
      symbol: 'none',
      silent: true,
      data: ribbon.points.map(([rpm, gained]) => [rpm, gained] as [number, number | null]),
      lineStyle: { color: colour(bayStyle(setups, ribbon.setup).line), width: 5, opacity: 1 },
      markLine: { symbol: 'none', label: { show: false }, lineStyle: zero, data: [{ yAxis: 0 }] },
    },
  ];
}

function series(c: LiveSheet['curves'][number], setups: NonNullable<LiveSheet['job']>['setups'], power: UnitName) {
  const last = c.label === 'last pull';
  return {
    type: 'line' as const,
    symbol: 'none',
    silent: true,
    data: c.powerW.map((p, i): [number, number | null] => [c.firstRpm + 25 * i, p === null ? null : fromSi(p, power)]),
    lineStyle: { color: colour(bayStyle(setups, c.setup).line), width: last ? 5 : 2.5, opacity: last ? 1 : 0.6 },
  };
}

type Rig = NonNullable<LiveSheet['job']>['rig'];

/** The curve so far, by the same core that will judge it; nothing until it spans a few hundred rpm. */
function liveSeries(trace: LiveTrace, rig: Rig, hue: string, power: UnitName): ReturnType<typeof series>[] {
  const channels: Channel[] = trace.names.map((name, c) => ({
    name,
    values: Float64Array.from(trace.rows, (row) => row[c] ?? NaN),
  }));
  const { curve } = usablePreview({ ...newPull(trace.pullId, '', 1), channels }, rig.bay, rig.vehicle);
  if (curve.length < 4) return [];
  return [
    {
      type: 'line',
      symbol: 'none',
      silent: true,
      data: curve.map(({ rpm, powerW }): [number, number | null] => [
        rpm,
        Number.isFinite(powerW) ? fromSi(powerW, power) : null,
      ]),
      lineStyle: { color: colour(hue), width: 5, opacity: 1 },
    },
  ];
}
