import { implausible } from '../job/plausible.ts';
import { channelWords } from '../bay/channelWords.ts';
import {
  isOfRollOns,
  isWindowed,
  measureName,
  measureNamed,
  measureNeeds,
  MOST_MEASURES,
  type DeclaredMeasure,
  type MeasureId,
} from './declaredMeasure.ts';

/** What a measure is about; sentences, units, bands and schools of one quantity never stand beside another. */
export type MeasuredQuantity =
  | 'power'
  | 'torque'
  | 'temperature'
  | 'pressure'
  | 'lambda'
  | 'timing'
  | 'effectiveness'
  | 'fade'
  | 'time'
  | 'roadTime'
  | 'channel';

/** What differs between measures, written down once. */
export interface MeasureFacts {
  readonly quantity: MeasuredQuantity;
  /** `log`: judged in per cent; `additive`: judged in the unit itself. */
  readonly scale: 'log' | 'additive';
  /** Which direction is a gain; `neither`: there is a difference, and it is no gain and no loss. */
  readonly better: 'higher' | 'lower' | 'neither';
  /** k: how much more the measure scatters, mounts and drifts than mean power does (its unit for per cent); judgement. */
  readonly factor: number;
  /** Unit of its values: SI, or what the channel's name ends in. */
  readonly unit: string;
  /** The size that would usually matter, per cent or the unit; judgement. */
  readonly meaningful: number;
}

const POWER: MeasureFacts = {
  ...{ quantity: 'power', scale: 'log', better: 'higher', factor: 1, unit: 'W', meaningful: 1 },
};
const TORQUE: MeasureFacts = { ...POWER, quantity: 'torque', unit: 'N·m' };
const PEAK = { factor: 1.2 };
const AT = { factor: 1.15, meaningful: 1.5 };
const EFFECTIVENESS: MeasureFacts = {
  ...{ quantity: 'effectiveness', scale: 'additive', better: 'higher', factor: 0.045, unit: '', meaningful: 0.05 },
};

/** Of mean power over the window, from pull to pull; a slope nearer to zero is better, and the baseline's falls. */
const FADE: MeasureFacts = {
  ...{ quantity: 'fade', scale: 'additive', better: 'higher', factor: 1, unit: '%/pull', meaningful: 0.3 },
};

/** Seconds of a roll-on. */
const RESPONSE: MeasureFacts = {
  ...{ quantity: 'time', scale: 'log', better: 'lower', factor: 2, unit: 's', meaningful: 5 },
};

/** Seconds between two road speeds. */
const ROAD: MeasureFacts = { ...RESPONSE, quantity: 'roadTime', meaningful: 1 };

/** Facts of a logged channel. Where nobody knows how a quantity scatters, it is taken to do so by nine tenths of what would matter. */
function channelFacts(channel: string, matters: number | undefined): MeasureFacts {
  const { unit } = channelWords(channel);
  const additive = { scale: 'additive', better: 'neither', unit } as const;
  if (unit === '°C') return { ...additive, quantity: 'temperature', better: 'lower', factor: 2, meaningful: 3 };
  if (channel === 'inlet_vacuum_kpa')
    return { ...additive, quantity: 'pressure', better: 'lower', factor: 0.7, meaningful: 1 };
  if (unit === 'kPa') return { ...additive, quantity: 'pressure', factor: 2, meaningful: 2 };
  if (/(^|_)lambda$/.test(channel)) return { ...additive, quantity: 'lambda', factor: 0.02, meaningful: 0.02 };
  if (unit === '°') return { ...additive, quantity: 'timing', factor: 1.1, meaningful: 1 };
  return { ...additive, quantity: 'channel', factor: 0.9 * (matters ?? 1), meaningful: 1 };
}

/**
 * Facts of a declared measure.
 * @example measureFacts({ id: 'peak', channel: 'charge_c', meaningful: 3 }).better // 'lower'
 */
export function measureFacts(
  measure: Omit<DeclaredMeasure, 'meaningful'> & { readonly meaningful?: number },
): MeasureFacts {
  switch (measure.id) {
    case 'windowMeanPower':
      return POWER;
    case 'windowMeanTorque':
      return TORQUE;
    case 'peakPower':
      return { ...POWER, ...PEAK };
    case 'peakTorque':
      return { ...TORQUE, ...PEAK };
    case 'powerAt':
      return { ...POWER, ...AT };
    case 'torqueAt':
      return { ...TORQUE, ...AT };
    case 'effectiveness':
      return EFFECTIVENESS;
    case 'fade':
      return FADE;
    case 'rollOnTime':
    case 'responseDeficit':
      return RESPONSE;
    case 'roadTime':
      return ROAD;
    case 'start':
    case 'end':
    case 'peak':
    case 'rise':
    case 'mean':
      return channelFacts(measure.channel ?? '', measure.meaningful);
    default:
      return measure.id satisfies never;
  }
}

/**
 * Whether a measure is of power or torque over engine speed: only such a one has bands, a ribbon and the schools of peaks.
 * @example isCurved(factsNamed('peakTorque')) // true
 */
export function isCurved({ quantity }: Pick<MeasureFacts, 'quantity'>): boolean {
  return quantity === 'power' || quantity === 'torque';
}

/**
 * Facts of the measure of a name (`measureName`); of a name that nobody knows, those of mean power.
 * @example factsNamed('rise(oil_c)').unit // '°C'
 */
export function factsNamed(name: string): MeasureFacts {
  const measure = measureNamed(name);
  return measure ? measureFacts(measure) : POWER;
}

/**
 * Why a question cannot be asked of these measures, in a sentence without a full stop; null: it can.
 * @example measuresProblem([]) // 'a question is asked of one to three measures'
 */
export function measuresProblem(measures: readonly DeclaredMeasure[]): string | null {
  if (measures.length < 1 || measures.length > MOST_MEASURES) return 'a question is asked of one to three measures';
  const names = measures.map(measureName);
  const twice = names.find((name, i) => names.indexOf(name) !== i);
  if (twice) return `${twice} is asked twice`;
  return measures.map(measureProblem).find((problem) => problem !== null) ?? null;
}

/**
 * Why two road speeds bound no pass, in a sentence without a full stop; null: they do.
 * @example speedsProblem(120, 80) // 'a pass goes from a lower to a higher speed, at least 5 km/h apart'
 */
export function speedsProblem(fromKmH: number, toKmH: number): string | null {
  const wrong = implausible('roadKmH', fromKmH) ?? implausible('roadKmH', toKmH);
  if (wrong) return wrong;
  return toKmH >= fromKmH + 5 ? null : 'a pass goes from a lower to a higher speed, at least 5 km/h apart';
}

const TEMPERATURES: readonly MeasureId[] = ['start', 'end', 'peak', 'rise'];
/** A channel's name: quantity, place and unit in lower case. */
const CHANNEL = /^[a-z][a-z0-9_]{0,60}$/;

/**
 * Why a measure cannot be declared so, in a sentence without a full stop; null: it can.
 * @example measureProblem({ id: 'peak', channel: 'manifold_kpa', meaningful: 3 }) // '"peak" is read of a temperature, and manifold_kpa is none'
 */
export function measureProblem(measure: DeclaredMeasure): string | null {
  const { id, channel, rpm, windowRpm, target, fromKmH, toKmH, meaningful } = measure;
  const need = measureNeeds(id);
  if ((need === 'channel') !== (channel !== undefined))
    return need === 'channel' ? `"${id}" needs a channel, such as intake_c` : `"${id}" is read of no channel`;
  if ((need === 'rpm') !== (rpm !== undefined))
    return need === 'rpm' ? `"${id}" needs an engine speed in rpm` : `"${id}" is read at no single engine speed`;
  if ((need === 'speeds') !== (fromKmH !== undefined || toKmH !== undefined))
    return need === 'speeds' ? `"${id}" needs two road speeds in km/h` : `"${id}" is read between no road speeds`;
  const speeds = need === 'speeds' ? speedsProblem(fromKmH ?? NaN, toKmH ?? NaN) : null;
  if (speeds) return speeds;
  if (channel !== undefined && !CHANNEL.test(channel)) return `"${channel}" is no channel: lower case, as intake_c`;
  if (channel !== undefined && TEMPERATURES.includes(id) && channelWords(channel).unit !== '°C')
    return `"${id}" is read of a temperature, and ${channel} is none`;
  if (rpm !== undefined && !(rpm >= 200 && rpm <= 25_000)) return `${rpm} is no engine speed of 200 to 25000 rpm`;
  if (target !== undefined && !isOfRollOns(id)) return `"${id}" has no target`;
  if (target !== undefined && !(target > 0 && target < 1e4)) return `${target} N·m is no torque to reach`;
  if (windowRpm && !isWindowed(id)) return `"${id}" is read over no window`;
  const { scale } = measureFacts(measure);
  if (!(meaningful > 0 && Number.isFinite(meaningful)))
    return `the size that would matter of "${id}" is a number above 0`;
  if (scale === 'log' && (meaningful < 0.05 || meaningful > 50))
    return `${meaningful} % is outside 0.05–50 % for the gain that would matter`;
  return null;
}
