import { changesAgainst } from '../job/changes.ts';
import { newSetup } from '../job/defaults.ts';
import type { Job, Setup } from '../job/job.ts';
import type { Contrast, Difference, Judgement } from '../verdict/outcome.ts';
import { logPercent, truePercent } from '../verdict/percent.ts';

/** Two changes run alone and together: what each does, what they do together, and whether that is the sum. */
export interface Crossed {
  readonly measure: string;
  /** The two factors and the setup that has both. */
  readonly alone: readonly [string, string];
  readonly both: string;
  /** Against the baseline. */
  readonly gains: readonly [Difference | null, Difference | null, Difference | null];
  /** Both − first − second. */
  readonly interaction: Difference;
  /** What the first still brings with the second on the car, and the second with the first. */
  readonly onTop: readonly [Difference | null, Difference | null];
}

/** The same difference from the other side: 25 per cent more is 20 per cent less. */
function reversed(d: Difference): Difference {
  const back = d.unit === '%' ? (value: number) => truePercent(-logPercent(value)) : (value: number) => -value;
  return { ...d, estimate: back(d.estimate), low: back(d.high), high: back(d.low) };
}

/** A contrast of a pair from the side of its first setup. */
function pairOf(judgement: Judgement, measure: string, setup: string, against: string): Difference | null {
  const of = (c: Contrast, a: string, b: string) =>
    c.measure === measure && c.of.kind === 'pair' && c.of.candidate === a && c.of.against === b;
  const same = judgement.contrasts.find((c) => of(c, setup, against));
  if (same) return same;
  const other = judgement.contrasts.find((c) => of(c, against, setup));
  return other ? reversed(other) : null;
}

/**
 * How one setup compares with another, in true per cent of a log measure or in the measure's unit; null where nobody ran both.
 * @example differenceBetween(newJob('1', 'x'), judgeJob(newJob('1', 'x')), 'windowMeanPower', 'B', 'A') // null
 */
export function differenceBetween(
  job: Job,
  judgement: Judgement,
  measure: string,
  setup: string,
  against: string,
): Difference | null {
  const { baselineSetup } = job.question;
  const gain = (id: string): Difference | null => {
    const own = judgement.verdicts.find((v) => v.candidate === id && v.measure === measure)?.gain;
    if (!own) return null;
    return own.percent === null
      ? { estimate: own.value, low: own.lowValue, high: own.highValue, unit: own.unit }
      : { estimate: own.percent, low: own.lowPercent!, high: own.highPercent!, unit: '%' };
  };
  if (against === baselineSetup) return gain(setup);
  if (setup === baselineSetup) {
    const own = gain(against);
    return own && reversed(own);
  }
  return pairOf(judgement, measure, setup, against);
}

/**
 * The crossed factors of a job.
 * @example crossedIn(newJob('1', 'x'), judgeJob(newJob('1', 'x')), 'windowMeanPower') // []
 */
export function crossedIn(job: Job, judgement: Judgement, measure: string): Crossed[] {
  const { baselineSetup } = job.question;
  return judgement.contrasts.flatMap((c): Crossed[] => {
    if (c.of.kind !== 'interaction' || c.measure !== measure) return [];
    const { both, alone } = c.of;
    const against = (setup: string, other: string) => differenceBetween(job, judgement, measure, setup, other);
    return [
      {
        ...{ measure, alone, both },
        gains: [against(alone[0], baselineSetup), against(alone[1], baselineSetup), against(both, baselineSetup)],
        interaction: c,
        onTop: [against(both, alone[1]), against(both, alone[0])],
      },
    ];
  });
}

/**
 * The setup that has the changes of two others; its changes are theirs, row by row, so that the engine knows it for both.
 * @example setupWithBoth([newSetup('A', 'a'), newSetup('B', 'b', 'A'), newSetup('C', 'c', 'A')], 'A', ['B', 'C'], 'D').label // 'b + c'
 */
export function setupWithBoth(
  setups: readonly Setup[],
  baseline: string,
  [first, second]: readonly [string, string],
  id: string,
): Setup {
  const [a, b] = [first, second].map((own) => setups.find((s) => s.id === own));
  const declares = [...new Set([...(a?.declares ?? []), ...(b?.declares ?? [])])];
  return {
    ...newSetup(id, `${a?.label ?? first} + ${b?.label ?? second}`, baseline),
    changes: [...changesAgainst(setups, first, baseline), ...changesAgainst(setups, second, baseline)],
    declares,
    state: { ...a?.state, ...b?.state },
    closedCourseOnly: Boolean(a?.closedCourseOnly || b?.closedCourseOnly),
  };
}
