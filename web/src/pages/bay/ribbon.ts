import type { SheetCurve } from '@prandel/core';

/** The last pull minus the baseline's mean, kW, on the grid that both share. */
export interface Ribbon {
  readonly setup: string;
  readonly against: string;
  readonly points: readonly (readonly [rpm: number, kW: number | null])[];
  /** Half-height of the picture, kW: at least 1, so that scatter looks as small as it is. */
  readonly reachKw: number;
}

const STEP_RPM = 25;

/** Null until there is a mean of the baseline and a pull to hold against it. */
export function ribbonOf(curves: readonly SheetCurve[]): Ribbon | null {
  const base = curves.find((c) => c.label === 'mean');
  const last = curves.find((c) => c.label === 'last pull');
  if (!base || !last) return null;
  const points = last.powerW.map((own, i): readonly [number, number | null] => {
    const rpm = last.firstRpm + STEP_RPM * i;
    const other = base.powerW[(rpm - base.firstRpm) / STEP_RPM];
    const kW = other === undefined ? NaN : (own - other) / 1000;
    return [rpm, Number.isFinite(kW) ? kW : null];
  });
  const known = points.flatMap(([, kW]) => (kW === null ? [] : [Math.abs(kW)]));
  if (known.length === 0) return null;
  return { setup: last.setup, against: base.setup, points, reachKw: Math.max(1, Math.ceil(Math.max(...known))) };
}
