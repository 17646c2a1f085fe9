import { peakOf, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { torqueAtEngineSpeed } from '../units/units.ts';
import type { Measure } from '../job/job.ts';
import { MEASURE_FACTS, type MeasureFacts } from './measures.ts';
import type { Candidate } from './selection.ts';

/** The declared measure: how a pull reads on it, and which curve its bands and ribbon are made of. */
export interface Endpoint extends MeasureFacts {
  readonly read: (pull: Pick<Candidate, 'pull' | 'power'>, window: readonly [number, number]) => number;
  readonly curve: (power: GridCurve) => GridCurve;
}

export function endpointOf(measure: Measure): Endpoint {
  const facts = MEASURE_FACTS[measure];
  const curve = facts.quantity === 'torque' ? torqueCurve : (power: GridCurve) => power;
  return { ...facts, curve, read: reading(measure) };
}

function reading(measure: Measure): Endpoint['read'] {
  switch (measure) {
    case 'windowMeanPower':
      return (c, [a, b]) => windowMean(c.power, a, b);
    case 'windowMeanTorque':
      return (c, [a, b]) => windowMean(torqueCurve(c.power), a, b);
    case 'peakPower':
      return (c) => peakOf(c.power)?.value ?? NaN;
    case 'intakeStartTemperature':
      return (c) => c.pull.intakeStartC ?? NaN;
    case 'coolantStartTemperature':
      return (c) => c.pull.coolantStartC ?? NaN;
    case 'oilStartTemperature':
      return (c) => c.pull.oilStartC ?? NaN;
    default:
      return measure satisfies never;
  }
}

/**
 * Torque at the engine-speed axis on the same grid, exactly P/ω.
 * @example torqueCurve({ first: 200, values: Float64Array.of(100e3) }).values[0] // 190.986
 */
export function torqueCurve<T extends { readonly first: number; readonly values: Float64Array }>(power: T): T {
  return { ...power, values: power.values.map((p, i) => torqueAtEngineSpeed(p, (power.first + i) * 25)) };
}

/**
 * A value as the engine sees it: log-percent or the value itself, over the measure's factor k, so that one model of scatter, mounts
 * and drift fits every measure.
 */
export function inEngine({ scale, factor }: MeasureFacts, value: number): number {
  return (scale === 'log' ? 100 * Math.log(value) : value) / factor;
}
