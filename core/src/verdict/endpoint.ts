import { peakOf, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { torqueAtEngineSpeed } from '../units/units.ts';
import { channelMean } from '../measures/channelReadings.ts';
import { rollOnResponse } from '../measures/rollOn.ts';
import type { DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { measureFacts, type MeasureFacts } from '../measures/measureFacts.ts';
import type { Candidate } from './selection.ts';

/** What a pull is read from. */
export type ReadPull = Pick<Candidate, 'pull' | 'pass' | 'power' | 'readings' | 'weather'>;

/** A declared measure: how a pull reads on it, and which curve its bands and ribbon are made of. */
export interface Endpoint extends MeasureFacts {
  readonly measure: DeclaredMeasure;
  /** NaN where the pull does not read on the measure. */
  readonly read: (pull: ReadPull, window: readonly [number, number]) => number;
  readonly curve: (power: GridCurve) => GridCurve;
}

/** Half of the stretch over which power or torque at an engine speed is averaged, rpm. */
const AT_RPM = 125;

/**
 * @param aboveAir whether the air of every pull is known: temperatures are compared above it
 * @param targetNm torque that counts as there on roll-ons; NaN where nobody knows
 */
export function endpointOf(measure: DeclaredMeasure, aboveAir: boolean, targetNm = NaN): Endpoint {
  const facts = measureFacts(measure);
  const curve = facts.quantity === 'torque' ? torqueCurve : (power: GridCurve) => power;
  const read = reading(measure, targetNm);
  const above = aboveAir && facts.quantity === 'temperature' && measure.id !== 'rise';
  return {
    ...{ ...facts, measure, curve },
    read: (c, window) => read(c, measure.windowRpm ?? window, curve(c.power)) - (above ? (c.weather.airC ?? NaN) : 0),
  };
}

/** Start temperatures that are read by hand or by the bay, whether a channel of them was recorded or not. */
const START_C: Readonly<Record<string, 'intakeStartC' | 'coolantStartC' | 'oilStartC'>> = {
  intake_c: 'intakeStartC',
  coolant_c: 'coolantStartC',
  oil_c: 'oilStartC',
};

function reading(
  measure: DeclaredMeasure,
  targetNm: number,
): (c: ReadPull, window: readonly [number, number], curve: GridCurve) => number {
  const { id, channel = '', rpm = NaN } = measure;
  const of = (c: ReadPull) => c.readings.channels.find(({ name }) => name === channel);
  switch (id) {
    // What fades is the power over the window: one number a round, worked out apart (fadeAnswer.ts).
    case 'fade':
    case 'windowMeanPower':
    case 'windowMeanTorque':
      return (_, [a, b], curve) => windowMean(curve, a, b);
    case 'peakPower':
    case 'peakTorque':
      return (_, __, curve) => peakOf(curve)?.value ?? NaN;
    case 'powerAt':
    case 'torqueAt':
      return (_, __, curve) => windowMean(curve, rpm - AT_RPM, rpm + AT_RPM);
    case 'start':
      return (c) => (START_C[channel] && c.pull[START_C[channel]]) ?? of(c)?.start ?? NaN;
    case 'end':
      return (c) => of(c)?.end ?? NaN;
    case 'peak':
      return (c) => of(c)?.peak ?? NaN;
    case 'rise':
      return (c) => {
        const own = of(c);
        return own ? own.end - own.start : NaN;
      };
    case 'mean':
      return (c, [a, b]) => {
        const own = of(c);
        return own ? channelMean(own, a, b) : NaN;
      };
    case 'effectiveness':
      return (c) => c.readings.effectiveness;
    case 'rollOnTime':
    case 'responseDeficit':
      return (c) => {
        if (!c.readings.rollOn) return NaN;
        const { seconds, deficitS } = rollOnResponse(c.readings.rollOn, targetNm);
        return id === 'rollOnTime' ? seconds : deficitS;
      };
    case 'roadTime':
      return (c) => c.pass?.seconds ?? NaN;
    default:
      return id satisfies never;
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
