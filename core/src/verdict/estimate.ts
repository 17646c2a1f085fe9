import { peakOf, windowMean, type GridCurve } from '../pull/gridCurve.ts';
import { mean } from '../statistics/summary.ts';
import { torqueAtEngineSpeed } from '../units/units.ts';
import type { Job, Measure } from '../job/job.ts';
import { DEFAULT_CONSTANTS, TEMPERATURE_CONSTANTS, truePercent, type VerdictConstants } from './constants.ts';
import { candidateWeights, estimateContrast, type Estimate } from './contrast.ts';
import { designOf, fitPulls, type Design, type Fit, type HeatUse } from './fit.ts';
import { MEASURE_FACTS, type MeasureFacts } from './measures.ts';
import type { Gain } from './outcome.ts';
import type { Candidate, Selection } from './selection.ts';

/** The declared measure: how a pull reads on it, and which curve its bands and ribbon are made of. */
export interface Endpoint extends MeasureFacts {
  readonly read: (pull: Candidate, window: readonly [number, number]) => number;
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

/** The constants in force: the bay's own over the defaults of the measure's scale. */
export function constantsOf(job: Job, endpoint: Endpoint): VerdictConstants {
  const base = endpoint.scale === 'additive' ? TEMPERATURE_CONSTANTS : DEFAULT_CONSTANTS;
  if (endpoint.scale === 'additive') return base;
  const own = Object.entries(job.bay.verdictConstants).filter(([key, value]) => key in base && Number.isFinite(value));
  const merged = { ...base, ...(Object.fromEntries(own) as Partial<VerdictConstants>) };
  return { ...merged, s0: Math.max(0.05, merged.s0) };
}

export interface AnalysisSettings {
  readonly constants: VerdictConstants;
  readonly heat: HeatUse;
  readonly remounted: boolean;
  readonly confidence: number;
  readonly endpoint: Endpoint;
}

export function settingsOf(job: Job, selection: Selection): AnalysisSettings {
  const endpoint = endpointOf(job.question.measure);
  const constants = constantsOf(job, endpoint);
  const started = selection.used.every((c) => c.startC !== null);
  const heat: HeatUse =
    job.question.partChangesIntakeTemperature || endpoint.scale === 'additive'
      ? 'meant-to-change'
      : started
        ? 'adjusted'
        : 'missing';
  const remounted = job.setups.some((s) => s.remounted && selection.used.some((c) => c.pull.setupId === s.id));
  const looks =
    job.question.extension === 'declared' && job.question.confidence === 0.95 ? 0.97 : job.question.confidence;
  return { constants, heat, remounted, confidence: looks, endpoint };
}

export function designFor(used: readonly Candidate[], settings: AnalysisSettings): Design {
  const keys = roundKeys(used);
  const pulls = used.map((c, i) => ({
    id: c.pull.id,
    side: c.side!,
    roundKey: keys[i]!,
    hours: c.hours,
    startC: c.startC,
  }));
  return designOf(pulls, settings.constants, { heat: settings.heat, remounted: settings.remounted });
}

/**
 * Setup and round number of every pull. Pulls of one number with a pull of another setup between them are two rounds, since
 * the car was touched: days that are numbered afresh, or files that bear no number.
 */
function roundKeys(used: readonly Candidate[]): string[] {
  const keys = new Array<string>(used.length);
  const order = used.map((_, i) => i).sort((a, b) => used[a]!.hours - used[b]!.hours || a - b);
  const stretches = new Map<string, number>();
  let before = '';
  for (const i of order) {
    const { setupId, round } = used[i]!.pull;
    const own = `${setupId}#${round}`;
    if (own !== before) stretches.set(own, (stretches.get(own) ?? 0) + 1);
    before = own;
    const stretch = stretches.get(own)!;
    keys[i] = stretch === 1 ? own : `${own}#${stretch}`;
  }
  return keys;
}

/** A value on the engine's scale: log-percent, or the value itself. */
export function onScale(endpoint: Endpoint, value: number): number {
  return endpoint.scale === 'log' ? 100 * Math.log(value) : value;
}

export interface SideEstimate {
  readonly fit: Fit;
  readonly estimate: Estimate;
  readonly gain: Gain;
}

/** Fits the used pulls on the declared measure; null when the baseline has none. */
export function fitMeasure(
  used: readonly Candidate[],
  window: readonly [number, number],
  settings: AnalysisSettings,
): Fit | null {
  if (!used.some((c) => c.side === 0)) return null;
  const y = used.map((c) => onScale(settings.endpoint, settings.endpoint.read(c, window)));
  if (!y.every(Number.isFinite)) return null;
  return fitPulls(designFor(used, settings), y, settings.constants.s0, settings.constants.d0);
}

/** A candidate's estimate in true per cent and in the measure's own unit; null for one without usable pulls. */
export function gainOf(
  fit: Fit,
  side: number,
  used: readonly Candidate[],
  window: readonly [number, number],
  settings: AnalysisSettings,
): SideEstimate | null {
  const weights = candidateWeights(fit, side);
  if (!weights) return null;
  const e = estimateContrast(fit, weights, settings.confidence);
  const base = used.filter((c) => c.side === 0).map((c) => settings.endpoint.read(c, window));
  const log = settings.endpoint.scale === 'log';
  const level = log ? Math.exp(mean(base.map(Math.log))) : NaN;
  const percent = (v: number) => (log ? truePercent(v) : null);
  const value = (v: number) => (log ? (level * truePercent(v)) / 100 : v);
  return {
    fit,
    estimate: e,
    gain: {
      percent: percent(e.estimate),
      lowPercent: percent(e.low),
      highPercent: percent(e.high),
      low90Percent: percent(e.low90),
      high90Percent: percent(e.high90),
      value: value(e.estimate),
      lowValue: value(e.low),
      highValue: value(e.high),
      unit: settings.endpoint.unit,
      confidence: settings.confidence,
      p: e.p,
      df: e.df,
      estimate: e.estimate,
      se: e.se,
    },
  };
}
