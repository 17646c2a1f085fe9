import { densityAltitudeM, airDensityKgM3 } from '../air/air.ts';
import { pullsInOrder, repeatedSetup, type Job, type PlanStep, type Pull } from '../job/job.ts';
import { pullWeather } from '../job/weather.ts';
import { standardDeviation } from '../statistics/summary.ts';
import { mediansOf } from '../verdict/bayPrior.ts';
import { modelOf } from '../verdict/engine/model.ts';
import type { CandidateVerdict, Gain, Judgement } from '../verdict/outcome.ts';
import type { GateBaseline } from './gates.ts';
import { tolerance } from './houseMethod.ts';

/**
 * The step of the plan that a round follows: its own, else the method's numbers.
 * @example stepOf(newJob('1', 'x'), 'A', 1).counted // 3
 */
export function stepOf(job: Job, setupId: string, round: number): PlanStep {
  const own = job.question.plan.filter((step) => step.setup === setupId);
  const usual = {
    setup: setupId,
    settle: job.day?.modelCard.settlePulls ?? tolerance(job.method, 'settlePulls'),
    counted: tolerance(job.method, 'countedPulls'),
  };
  return own[round - 1] ?? own.at(-1) ?? usual;
}

/** Where a round stands: its pulls, the next position, and what the method calls the next pull. */
export interface RoundProgress {
  readonly setupId: string;
  readonly round: number;
  readonly pulls: readonly Pull[];
  readonly nextPosition: number;
  readonly nextStatus: 'settle' | 'counted';
  readonly settle: number;
  readonly counted: number;
  readonly countedSoFar: number;
  readonly complete: boolean;
}

/**
 * Set-aside pulls do not fill the plan; extra settle pulls lengthen the round.
 * @example roundProgress(newJob('1', 'x'), 'A', 1).nextStatus // 'settle'
 */
export function roundProgress(job: Job, setupId: string, round: number, extraSettle = 0): RoundProgress {
  const step = stepOf(job, setupId, round);
  const pulls = pullsInOrder(job.pulls.filter((p) => p.setupId === setupId && p.round === round));
  const settled = pulls.filter((p) => p.status === 'settle').length;
  const countedSoFar = pulls.filter((p) => p.status === 'counted').length;
  const settle = step.settle + extraSettle;
  return {
    setupId,
    round,
    pulls,
    nextPosition: pulls.length + 1,
    nextStatus: settled < settle ? 'settle' : 'counted',
    settle,
    counted: step.counted,
    countedSoFar,
    complete: settled >= settle && countedSoFar >= step.counted,
  };
}

/**
 * Whether every planned counted pull of the question is in, in whichever round it was made, so that the verdict may be
 * looked at. A round closed early is taken as it is, and one beyond the plan that was closed early gives up what was missing.
 * @example planComplete(newJob('1', 'x')) // false
 */
export function planComplete(job: Job): boolean {
  return pullsMissing(job) === 0;
}

/**
 * Planned counted pulls that are not in yet.
 * @example pullsMissing(newJob('1', 'x')) // 6
 */
export function pullsMissing(job: Job): number {
  const steps =
    job.question.plan.length > 0
      ? job.question.plan
      : [job.question.baselineSetup, ...job.question.candidateSetups].map((setup) => stepOf(job, setup, 1));
  const closed = job.day?.closedEarly ?? {};
  const setups = [...new Set(steps.map((step) => step.setup))];
  return setups.reduce((missing, setup) => {
    const own = steps.filter((step) => step.setup === setup);
    const made = job.pulls.filter((p) => p.setupId === setup && p.status === 'counted');
    const rounds = Math.max(0, ...job.pulls.filter((p) => p.setupId === setup).map((p) => p.round));
    for (let round = own.length + 1; round <= rounds; round += 1) if (closed[`${setup}#${round}`]) return missing;
    const wanted = own.reduce((sum, step, i) => {
      const inRound = made.filter((p) => p.round === i + 1).length;
      return sum + (closed[`${setup}#${i + 1}`] ? Math.min(step.counted, inRound) : step.counted);
    }, 0);
    return missing + Math.max(0, wanted - made.length);
  }, 0);
}

/**
 * The conditions that the next pull must match: the baseline pull at its position, else the nearest one before it.
 * @example baselineAt(newJob('1', 'x'), 'B', 1, 1) // null
 */
export function baselineAt(job: Job, setupId: string, round: number, position: number): GateBaseline | null {
  const firstRound = pullsInOrder(
    job.pulls.filter((p) => p.setupId === job.question.baselineSetup && p.round === 1 && p.status !== 'set-aside'),
  );
  if (setupId === job.question.baselineSetup && round === 1) return null;
  const pull = firstRound.findLast((p) => p.position <= position) ?? firstRound[0];
  if (!pull) return null;
  const { air, airC, factor } = pullWeather(job, pull);
  return {
    pullName: `${pull.setupId}·${pull.position}`,
    airC,
    factor: factor?.factor ?? null,
    intakeAboveAirC: pull.intakeStartC === null || airC === null ? null : pull.intakeStartC - airC,
    coolantC: pull.coolantStartC,
    oilC: pull.oilStartC,
    densityAltitudeM: air ? densityAltitudeM(airDensityKgM3(air)) : null,
  };
}

/** Half-width of the 95 % interval so far: true per cent, or the measure's own unit. */
export interface HalfWidth {
  /** Name of the measure. */
  readonly measure: string;
  readonly value: number;
  readonly unit: string;
}

/** How the round repeats and how narrow the interval has become; no estimate and no verdict before the plan is in. */
export interface BayReview {
  /** Pull-to-pull SD of the round's counted pulls, heat-adjusted, per cent; null under two. */
  readonly repeatabilityPercent: number | null;
  /** Of every measure that has an interval. */
  readonly halfWidths: readonly HalfWidth[];
  readonly settled: Settled;
}

export type Settled = 'settled' | 'not-settled' | 'too-few';

/** Window mean in log-percent, brought to a common start temperature by the usual heat coefficient. */
function heatAdjusted({ bay }: Job, judgement: Judgement, pull: Pull): number | null {
  const judged = judgement.pulls.find((p) => p.id === pull.id);
  if (!judged || !(judged.windowMeanW > 0)) return null;
  return (
    100 * Math.log(judged.windowMeanW) +
    modelOf(bay.verdictConstants).heatCoefficientPercentPerC * (judged.startAboveAirC ?? 0)
  );
}

/**
 * Settle rule: the heat-adjusted window mean changed, up or down, by less than max(0.7 %, 2·σ) from the pull
 * before, σ the scatter that the bay usually has.
 * @example settleState([100, 103, 106]) // 'not-settled'
 */
export function settleState(values: readonly (number | null)[], scatter = mediansOf(null).scatter): Settled {
  const known = values.filter((v): v is number => v !== null);
  if (known.length < 2) return 'too-few';
  const [before, last] = known.slice(-2) as [number, number];
  return Math.abs(last - before) < Math.max(0.7, 2 * scatter) ? 'settled' : 'not-settled';
}

/** The widest interval of each measure among the candidates that have one. */
function halfWidthsOf(verdicts: readonly CandidateVerdict[]): HalfWidth[] {
  return [...new Set(verdicts.map(({ measure }) => measure))].flatMap((measure) => {
    const own = verdicts.flatMap(({ measure: of, gain }) => (of === measure && gain ? [half(gain)] : []));
    return own.length > 0 ? [{ measure, ...own.reduce((a, b) => (b.value > a.value ? b : a)) }] : [];
  });
}

function half({ lowPercent, highPercent, lowValue, highValue, unit }: Gain): Omit<HalfWidth, 'measure'> {
  return lowPercent === null || highPercent === null
    ? { value: (highValue - lowValue) / 2, unit }
    : { value: (highPercent - lowPercent) / 2, unit: '%' };
}

/**
 * What the bay shows of a round while it runs: how it repeats, never which way the result leans.
 * @example bayReview(newJob('1', 'x'), judgeJob(newJob('1', 'x')), 'A', 1).settled // 'too-few'
 */
export function bayReview(job: Job, judgement: Judgement, setupId: string, round: number): BayReview {
  const own = pullsInOrder(job.pulls.filter((p) => p.setupId === setupId && p.round === round));
  const usable = own.filter((p) => p.status !== 'set-aside');
  const counted = own.filter((p) => p.status === 'counted').flatMap((p) => heatAdjusted(job, judgement, p) ?? []);
  const side = repeatedSetup(job.setups, setupId);
  const verdicts = judgement.verdicts.filter((v) => v.candidate === side || v.baseline === side);
  return {
    repeatabilityPercent: counted.length >= 2 ? standardDeviation(counted) : null,
    halfWidths: halfWidthsOf(verdicts),
    settled: settleState(
      usable.map((p) => heatAdjusted(job, judgement, p)),
      mediansOf(job.bay.prior).scatter,
    ),
  };
}
