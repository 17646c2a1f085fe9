import {
  compareGeometry,
  compareOption,
  plain,
  rpmAt,
  ribbonAt,
  unitOf,
  setupStyles,
  shown,
  signed,
  verdictOf,
  xOf,
  yOf,
  type ComparePart,
  type CompareView,
} from '@prandel/presentation';
import { fromSi, torqueCurve, type CandidateVerdict, type GridCurve, type SetupCurve } from '@prandel/core';
import { CustomChart } from 'echarts/charts';
import { GraphicComponent, GridComponent } from 'echarts/components';
import { init, use as registerCharts, type ECharts } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { Badge } from '../../parts/marks.tsx';

registerCharts([CustomChart, GridComponent, GraphicComponent, SVGRenderer]);

/** The comparison as it is on screen, as a document of its own. */
export function chartSvg(view: CompareView): string {
  const { option, geometry } = compareOption(view);
  const own = init(null, null, { renderer: 'svg', ssr: true, width: geometry.width, height: geometry.height });
  own.setOption(option);
  const svg = own.renderToSVGString();
  own.dispose();
  return svg;
}

/**
 * Power, torque and ribbon on one rpm axis, with a cross-hair whose values stand in a fixed row above.
 * @param difference what the ribbon is of: it comes later than the curves of the same question; null before there is any
 */
export function CompareChart({
  curves,
  difference,
  rpm,
  onRpm,
}: {
  curves: CompareView;
  difference: CompareView | null;
  rpm: number | null;
  onRpm: (rpm: number | null) => void;
}) {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(curves.size.width);
  const view = useSized(curves, width)!;
  const ribbon = useSized(difference, width);
  const geometry = compareGeometry(view);
  useEffect(() => {
    const observer = new ResizeObserver(
      ([entry]) => entry && setWidth(Math.max(320, Math.floor(entry.contentRect.width))),
    );
    observer.observe(frame.current!);
    return () => observer.disconnect();
  }, []);
  const move = (clientX: number, box: DOMRect) => {
    const at = rpmAt(geometry, clientX - box.left);
    onRpm(at >= geometry.rpmFrom && at <= geometry.rpmTo ? Math.round(at / 25) * 25 : null);
  };
  const step = (e: React.KeyboardEvent) => {
    if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return;
    e.preventDefault();
    const from = rpm ?? Math.round((geometry.rpmFrom + geometry.rpmTo) / 100) * 50;
    onRpm(
      Math.min(
        geometry.rpmTo,
        Math.max(geometry.rpmFrom, from + (e.key === 'ArrowLeft' ? -1 : 1) * (e.shiftKey ? 250 : 50)),
      ),
    );
  };
  return (
    <div className="min-w-0" ref={frame}>
      <ReadOut view={view} verdict={ribbon && verdictOf(ribbon)} rpm={rpm} />
      <div
        className="relative"
        style={{ height: geometry.height }}
        tabIndex={0}
        role="application"
        aria-label="Comparison chart. Left and right arrow keys move the cross-hair by 50 rpm, with Shift by 250."
        onKeyDown={step}
        onMouseMove={(e) => move(e.clientX, e.currentTarget.getBoundingClientRect())}
        onMouseLeave={() => onRpm(null)}
        onTouchMove={(e) => move(e.touches[0]!.clientX, e.currentTarget.getBoundingClientRect())}
      >
        <div data-testid="compare-chart">
          <Half view={view} part="curves" />
          {ribbon && <Half view={ribbon} part="difference" />}
        </div>
        {rpm !== null && <CrossHair view={view} ribbon={ribbon} rpm={rpm} />}
      </div>
    </div>
  );
}

function useSized(view: CompareView | null, width: number): CompareView | null {
  return useMemo(
    () => (!view || width === view.size.width ? view : { ...view, size: { ...view.size, width } }),
    [view, width],
  );
}

/** A half of the picture: drawn when something of it changes, and only then. */
const Half = memo(function Half({ view, part }: { view: CompareView; part: ComparePart }) {
  const place = useRef<HTMLDivElement>(null);
  const chart = useRef<ECharts | null>(null);
  // The first picture takes its time: what stands beside it is painted before.
  const [mayDraw, setMayDraw] = useState(false);
  useEffect(() => {
    let soon: ReturnType<typeof setTimeout>;
    const frame = requestAnimationFrame(() => {
      soon = setTimeout(() => setMayDraw(true));
    });
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(soon);
      chart.current?.dispose();
      chart.current = null;
    };
  }, []);
  useEffect(() => {
    if (!mayDraw) return;
    const { option, geometry } = compareOption(view, part);
    chart.current ??= init(place.current, null, { renderer: 'svg', width: geometry.width, height: geometry.height });
    const own = chart.current;
    // A chart that is told its own size draws itself once more.
    if (own.getWidth() !== geometry.width || own.getHeight() !== geometry.height)
      own.resize({ width: geometry.width, height: geometry.height });
    own.setOption(option, { notMerge: true });
  }, [view, part, mayDraw]);
  // A layer of its own: what changes beside the picture does not paint it again.
  return <div ref={place} className="absolute inset-0 contain-content will-change-transform" />;
});

const at = (curve: GridCurve, rpm: number) => curve.values[Math.round(rpm / 25) - curve.first] ?? NaN;

function visible(view: CompareView): SetupCurve[] {
  return view.judgement.setups.filter((s) => s.pulls > 0 && !view.hiddenSetups.has(s.setupId));
}

/** The fixed read-out row: values of every shown setup at the cross-hair, and the difference with its interval. */
function ReadOut({
  view,
  verdict,
  rpm,
}: {
  view: CompareView;
  verdict: CandidateVerdict | null | undefined;
  rpm: number | null;
}) {
  const { units } = view;
  const read = ribbonAt(verdict ?? undefined, rpm, units);
  const half = read ? Math.max(read.high - read.estimate, read.estimate - read.low) : NaN;
  return (
    <div
      className="text-ink-2 flex min-h-[30px] flex-wrap items-center gap-x-4 gap-y-1 text-[12px] [&_b]:text-ink [&_b]:text-[13px]"
      aria-live="polite"
      data-testid="read-out"
    >
      {rpm === null ? (
        <span>Move over the curves, or press the arrow keys, to read values.</span>
      ) : (
        <>
          <b>{rpm} rpm</b>
          {visible(view).map((s) => {
            const p = at(s.power, rpm);
            const h = s.halfWidthW[Math.round(rpm / 25) - s.power.first] ?? NaN;
            return (
              <span key={s.setupId} className="inline-flex items-center gap-1.5 whitespace-nowrap">
                <Badge id={s.setupId} setups={view.job.setups} />
                <span>
                  <b>{shown(p, units.power)}</b> ±{plain(Math.ceil(fromSi(h, units.power) * 10) / 10, 1)} {units.power},{' '}
                  <b>{shown(at(torqueCurve(s.power), rpm), units.torque)}</b> {units.torque}
                </span>
              </span>
            );
          })}
          {verdict && read && (
            <span className="whitespace-nowrap">
              {view.candidate} {'\u2212'} {view.job.question.baselineSetup} modelled <b>{signed(read.estimate)}</b> ±
              {plain(Math.ceil(half * 10) / 10, 1)} {unitOf(verdict.measure, units)}
            </span>
          )}
        </>
      )}
    </div>
  );
}

function CrossHair({ view, ribbon, rpm }: { view: CompareView; ribbon: CompareView | null; rpm: number }) {
  const g = compareGeometry(view);
  const x = xOf(g, rpm);
  const looks = setupStyles(view.job.setups);
  const read = ribbon && ribbonAt(verdictOf(ribbon), rpm, view.units);
  const panel = compareGeometry(ribbon ?? view).ribbon;
  const ribbonY = (value: number) => Math.min(panel.top + panel.height, Math.max(panel.top, yOf(panel, value)));
  const pill = g.strip.top + g.strip.height + 2;
  return (
    <svg className="pointer-events-none absolute inset-0" width={g.width} height={g.height} aria-hidden>
      <line x1={x} x2={x} y1={g.power.top} y2={g.strip.top - 2} stroke="var(--ink)" strokeDasharray="1 2" />
      {visible(view).map((s) => {
        const p = fromSi(at(s.power, rpm), view.units.power);
        const t = fromSi(at(torqueCurve(s.power), rpm), view.units.torque);
        const ring = { r: 3.4, fill: 'var(--sheet)', stroke: looks.get(s.setupId)?.line, strokeWidth: 1.8 };
        return Number.isFinite(p) ? (
          <g key={s.setupId}>
            <circle cx={x} cy={yOf(g.power, p)} {...ring} />
            <circle cx={x} cy={yOf(g.torque, t)} {...ring} />
          </g>
        ) : null;
      })}
      {read && (
        <>
          <line x1={x} x2={x} y1={ribbonY(read.high)} y2={ribbonY(read.low)} stroke="var(--ink)" strokeWidth="3" />
          <circle
            cx={x}
            cy={ribbonY(read.estimate)}
            r="3.6"
            fill="var(--sheet)"
            stroke="var(--ink)"
            strokeWidth="1.6"
          />
        </>
      )}
      <rect x={x - 30} y={pill} width="60" height="18" rx="2" fill="var(--ink)" />
      <text x={x} y={pill + 13} textAnchor="middle" fontSize="11.5" fontWeight="620" fill="var(--sheet)">
        {rpm} rpm
      </text>
    </svg>
  );
}
