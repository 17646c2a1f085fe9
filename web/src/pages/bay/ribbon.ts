import { fromSi, type SheetCurve, type UnitName } from '@prandel/core';

/** The last pull minus the baseline's mean, in a unit of power, on the grid that both share. */
export interface Ribbon {
  readonly setup: string;
  readonly against: string;
  readonly points: readonly (readonly [rpm: number, gained: number | null])[];
  /** Half-height of the picture: at least 1, so that scatter looks as small as it is. */
  readonly reach: number;
}

const STEP_RPM = 25;

/** Null until there is a mean of the baseline and a pull to hold against it. */
export function ribbonOf(curves: readonly SheetCurve[], power: UnitName = 'kW'): Ribbon | null {
  const base = curves.find((c) => c.label === 'mean');
  const last = curves.find((c) => c.label === 'last pull');
  if (!base || !last) return null;
  const points = last.powerW.map((own, i): readonly [number, number | null] => {
    const rpm = last.firstRpm + STEP_RPM * i;
    const other = base.powerW[(rpm - base.firstRpm) / STEP_RPM] ?? null;
    return [rpm, own === null || other === null ? null : fromSi(own - other, power)];
  });
  const known = points.flatMap(([, gained]) => (gained === null ? [] : [Math.abs(gained)]));
  if (known.length === 0) return null;
  return { setup: last.setup, against: base.setup, points, reach: Math.max(1, Math.ceil(Math.max(...known))) };
}
