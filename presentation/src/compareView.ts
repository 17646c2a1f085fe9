import {
  factsNamed,
  isCurved,
  fromRpm,
  fromSi,
  toRpm,
  torqueCurve,
  type CandidateVerdict,
  type Job,
  type Judgement,
} from '@prandel/core';
import { unitOf, type ShownUnits } from './figures.ts';
import { axisOver, LEFT_GUTTER, RIGHT_GUTTER, type Geometry, type Panel } from './geometry.ts';

/** What a comparison shows: the judgement, the candidate in question, and what is switched on. */
export interface CompareView {
  readonly job: Job;
  readonly judgement: Judgement;
  readonly candidate: string;
  /** Name of the measure in question; one that has no curve leaves the ribbon to the first that has. */
  readonly measure: string;
  readonly hiddenSetups: ReadonlySet<string>;
  readonly hiddenPulls: ReadonlySet<string>;
  readonly showPulls: boolean;
  readonly showSetAside: boolean;
  readonly units: ShownUnits;
  readonly size: { readonly width: number; readonly power: number; readonly torque: number; readonly ribbon: number };
  readonly fontSize: number;
}

/** What of the comparison is drawn: all of it in one picture, or a half that changes by itself. */
export type ComparePart = 'whole' | 'curves' | 'difference';

const known = new WeakMap<CompareView, Geometry>();

/** Where everything stands, in pixels and in the chosen units; worked out once a view. */
export function compareGeometry(view: CompareView): Geometry {
  const geometry = known.get(view) ?? geometryOf(view);
  known.set(view, geometry);
  return geometry;
}

function geometryOf(view: CompareView): Geometry {
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

/** The verdict whose ribbon is drawn. */
export function verdictOf(
  view: Pick<CompareView, 'judgement' | 'candidate' | 'measure'>,
): CandidateVerdict | undefined {
  const own = view.judgement.verdicts.filter((v) => v.candidate === view.candidate);
  const curved = own.filter((v) => isCurved(factsNamed(v.measure)));
  return curved.find((v) => v.measure === view.measure) ?? curved[0] ?? own[0];
}

/** Ribbon values in the chosen unit of the measure: a per cent of the baseline at that speed. */
export function ribbonValue(verdict: CandidateVerdict, i: number, percent: number, units: ShownUnits): number {
  return fromSi((verdict.ribbon!.baseline[i]! * percent) / 100, unitOf(verdict.measure, units));
}

/** Difference and the ends of its interval at an engine speed, straight between the ribbon's points. */
export interface RibbonReading {
  readonly estimate: number;
  readonly low: number;
  readonly high: number;
}

/** @returns null outside the ribbon and in a hole */
export function ribbonAt(
  verdict: CandidateVerdict | undefined,
  rpm: number | null,
  units: ShownUnits,
): RibbonReading | null {
  const ribbon = verdict?.ribbon;
  if (!verdict || !ribbon || rpm === null) return null;
  const after = ribbon.rpm.findIndex((r) => r >= rpm);
  if (after < 0 || (after === 0 && ribbon.rpm[0] !== rpm)) return null;
  const before = Math.max(0, after - 1);
  const span = ribbon.rpm[after]! - ribbon.rpm[before]!;
  const share = span > 0 ? (rpm - ribbon.rpm[before]!) / span : 1;
  const read = (of: Float64Array) =>
    (1 - share) * ribbonValue(verdict, before, of[before]!, units) +
    share * ribbonValue(verdict, after, of[after]!, units);
  const reading = { estimate: read(ribbon.percent), low: read(ribbon.lowPercent), high: read(ribbon.highPercent) };
  return Object.values(reading).every(Number.isFinite) ? reading : null;
}

function ribbonExtent(view: CompareView): readonly [number, number] {
  const verdict = verdictOf(view);
  if (!verdict?.ribbon) return [-1, 1];
  const values: number[] = [0];
  verdict.ribbon.rpm.forEach((_, i) => {
    for (const p of [verdict.ribbon!.lowPercent[i]!, verdict.ribbon!.highPercent[i]!]) {
      const v = ribbonValue(verdict, i, p, view.units);
      if (Number.isFinite(v)) values.push(v);
    }
  });
  return [Math.min(...values), Math.max(...values)];
}
