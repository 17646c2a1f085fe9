import type { PlanStep } from '../job/job.ts';
import { isOfRoad, measureName, type DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { fadeSees } from '../measures/fade.ts';
import { measureFacts } from '../measures/measureFacts.ts';
import { truePercent } from '../verdict/percent.ts';

/** What a plan will see of one measure: about ±`from`, true per cent of a log measure, else the measure's unit. */
export interface PlanSees {
  /** Name of the measure. */
  readonly measure: string;
  readonly from: number;
}

/**
 * What rounds see of each measure, from the floor F of its class of noise: a measure scatters k times as much as F says.
 * @param floorOf F of a measure, log-percent over its k
 * @param candidateOf place of a setup among the candidates, −1 the baseline
 * @example measuresSeen([{ id: 'peak', channel: 'oil_c', meaningful: 3 }], () => 1, [], () => 0) // [{ measure: 'peak(oil_c)', from: 2 }]
 */
export function measuresSeen(
  measures: readonly DeclaredMeasure[],
  floorOf: (measure: DeclaredMeasure) => number,
  steps: readonly PlanStep[],
  candidateOf: (setup: string) => number,
): PlanSees[] {
  // What passes on the road see is no matter of a day in the bay.
  return measures
    .filter(({ id }) => !isOfRoad(id))
    .map((measure) => {
      const { scale, factor } = measureFacts(measure);
      const of = { measure: measureName(measure) };
      if (measure.id === 'fade') return { ...of, from: fadePlanned(steps, candidateOf) };
      const floor = floorOf(measure);
      return { ...of, from: scale === 'log' ? truePercent(factor * floor) : factor * floor };
    });
}

/** What rounds see of a fade, per cent a pull: the side that sees it least well decides. */
function fadePlanned(steps: readonly PlanStep[], candidateOf: (setup: string) => number): number {
  const sides = [...new Set(steps.map((s) => candidateOf(s.setup)))].map((side) => {
    const rounds = steps.filter((s) => candidateOf(s.setup) === side);
    return fadeSees(Math.min(...rounds.map((s) => s.counted)), rounds.length);
  });
  return Math.max(...sides);
}
