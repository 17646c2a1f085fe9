import type { Job } from '../job/job.ts';
import { isOfRollOns, type DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { isCurved } from '../measures/measureFacts.ts';
import { rollOnPeak } from '../measures/rollOn.ts';
import { mean } from '../statistics/summary.ts';
import type { NoiseClass } from './bayPrior.ts';
import { endpointOf, type Endpoint } from './endpoint.ts';
import { priorsWith, type BayPriors } from './engine/history.ts';
import { BAND_SCATTER, modelOf, type EngineModel } from './engine/model.ts';
import type { PrepareOptions } from './engine/parts.ts';
import type { HeatUse } from './outcome.ts';
import type { Selection } from './selection.ts';

/** How a job is analysed: what was declared, and what is believed of its bay. */
export interface AnalysisSettings {
  readonly model: EngineModel;
  readonly priors: BayPriors;
  readonly bandPriors: BayPriors;
  readonly heat: HeatUse;
  readonly unstrapped: boolean;
  /** Of the intervals, 0–1: 0.97 at both looks where an extension was declared. */
  readonly confidence: number;
  readonly endpoint: Endpoint;
  /** Torque that roll-ons are to reach, N·m; NaN of other measures, and where nobody knows. */
  readonly targetNm: number;
}

export function settingsOf(job: Job, selection: Selection, measure: DeclaredMeasure): AnalysisSettings {
  const targetNm = isOfRollOns(measure.id) ? (measure.target ?? targetOf(job, selection)) : NaN;
  const endpoint = endpointOf(measure, selection.airKnown, targetNm);
  const model = modelOf(job.bay.verdictConstants);
  const learned = job.bay.prior?.learned ?? {};
  const heat: HeatUse =
    job.question.partChangesIntakeTemperature || !isCurved(endpoint)
      ? 'meant-to-change'
      : selection.used.every((c) => c.startC !== null)
        ? 'adjusted'
        : 'missing';
  const noiseClass = noiseClassOf(endpoint);
  const own = noiseClass && learned[noiseClass];
  return {
    ...{ endpoint, model, heat, targetNm },
    priors: priorsWith(own ?? null, model),
    bandPriors: priorsWith(learned.bands ?? null, model, BAND_SCATTER),
    unstrapped: wasUnstrapped(job, (id) => selection.used.some((c) => c.pull.setupId === id)),
    confidence:
      job.question.extension === 'declared' && job.question.confidence === 0.95 ? 0.97 : job.question.confidence,
  };
}

/** Share of the baseline's mean peak torque that counts as there. Judgement. */
const TARGET_SHARE = 0.9;

/** The target where none was declared: one number for the job, set by the baseline's first round of roll-ons. */
function targetOf({ question }: Job, { rollOns }: Selection): number {
  const own = rollOns.filter((c) => c.pull.setupId === question.baselineSetup);
  const first = Math.min(...own.map((c) => c.pull.round));
  const peaks = own.filter((c) => c.pull.round === first).map((c) => rollOnPeak(c.readings.rollOn!));
  return peaks.length > 0 ? TARGET_SHARE * mean(peaks) : NaN;
}

/** The class of measures with which the noise of one is learned; null: nothing is learned of it. */
export function noiseClassOf({ quantity }: Pick<Endpoint, 'quantity'>): Exclude<NoiseClass, 'bands'> | null {
  switch (quantity) {
    case 'power':
    case 'torque':
      return 'power';
    case 'temperature':
    case 'pressure':
    case 'time':
      return quantity;
    default:
      return null;
  }
}

/** Whether the car was taken off its straps before one of the setups that were pulled. */
export function wasUnstrapped(job: Job, pulled: (setupId: string) => boolean): boolean {
  return job.setups.some((s) => s.remounted && pulled(s.id));
}

/** What the engine is told of the day besides its pulls. */
export function engineOptions({ model, heat, unstrapped }: AnalysisSettings): PrepareOptions {
  return { model, unstrapped, meantToChange: heat === 'meant-to-change' };
}
