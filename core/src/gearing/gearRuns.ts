import type { Job } from '../job/job.ts';
import { asDriven, densityOf } from '../road/drivenCurve.ts';
import type { Judgement } from '../verdict/outcome.ts';
import { throughTheGears, type GearRun } from './gearing.ts';

/** A setup's run through the gears; null where its curve does not reach. */
export interface SetupRun {
  readonly setupId: string;
  readonly run: GearRun | null;
}

/** What keeps a job from runs through the gears. */
export type NoRuns = 'no-gears' | 'no-car';

/**
 * Runs through the gears from the mean power of each setup, weather correction taken out again, with the car on the road. A drag area
 * that is fitted to passes is not known without them: 0.65 m² stands for it (judgement), which moves all setups alike.
 * @example gearRuns(newJob('1', 'x'), judgeJob(newJob('1', 'x')), 80, 120) // 'no-gears'
 */
export function gearRuns(job: Job, judgement: Judgement, fromKmH: number, toKmH: number): SetupRun[] | NoRuns {
  const { gearing, road } = job;
  if (!gearing) return 'no-gears';
  if (!road) return 'no-car';
  const load = {
    ...{ massKg: road.massKg, rolling: road.rolling, slope: 0, airDensity: densityOf(job) },
    dragAreaM2: road.dragAreaM2 ?? USUAL_DRAG_M2,
  };
  return [job.question.baselineSetup, ...job.question.candidateSetups].map((setupId) => {
    const power = asDriven(judgement, setupId);
    return { setupId, run: power && throughTheGears(power, gearing, fromKmH / 3.6, toKmH / 3.6, load) };
  });
}

const USUAL_DRAG_M2 = 0.65;
