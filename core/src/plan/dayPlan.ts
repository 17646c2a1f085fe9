import type { BayPrior, NoiseClass } from '../verdict/bayPrior.ts';
import { priorsWith } from '../verdict/engine/history.ts';
import { modelOf, type VerdictConstants } from '../verdict/engine/model.ts';
import { planFloors, USUAL_MEDIANS, type PlannedEngineRound } from '../verdict/engine/planFloor.ts';
import { noiseClassOf } from '../verdict/settings.ts';
import type { DeclaredMeasure } from '../measures/declaredMeasure.ts';
import { measureFacts } from '../measures/measureFacts.ts';
import { measuresSeen, type PlanSees } from './planSees.ts';
import { logPercent, truePercent } from '../verdict/percent.ts';
import { newSetup } from '../job/defaults.ts';
import { repeatedSetup, type Job, type PlanStep, type Setup } from '../job/job.ts';
import { USUAL_DAY, type DayPlan, type PlanShape } from '../bay/jobDay.ts';
import { FADE_PULLS, fixedPauseMin } from '../bay/fadeProtocol.ts';
import { tolerance } from '../bay/houseMethod.ts';
import { orderedCandidates } from './drawnOrder.ts';

/** A plan as rounds of setups in order, with the minutes that separate a round from the one before. */
export interface PlannedDay {
  readonly shape: PlanShape;
  readonly label: string;
  readonly steps: readonly PlanStep[];
  readonly blocks: readonly DayBlock[];
  readonly minutes: number;
  /** F: this plan will see from about ±F, true per cent. The candidate that it sees least well decides. */
  readonly seesFromPercent: number;
  /** Smallest gain that it finds on 80 % of days if the bay is as usual, true per cent. */
  readonly findsPercent: number;
}

export interface DayBlock {
  readonly kind: 'pulls' | 'fitting' | 'hold' | 'cool-down';
  /** The setup that is pulled, or that is being fitted. */
  readonly setup: string;
  readonly fromMin: number;
  readonly toMin: number;
  /** Minutes at which pulls start, settle pulls first. */
  readonly pullMin: readonly number[];
}

export interface PlanRequest {
  readonly baseline: string;
  /** Candidates in the order in which they go on. */
  readonly candidates: readonly string[];
  /** Return checks in the order in which they are made; a plan that needs more of them names them `A3`, `A4`. */
  readonly returnChecks: readonly string[];
  readonly settle: number;
  readonly counted: number;
  readonly minutesPerPull: number;
  readonly fittingMinutes: number;
  readonly coolDownMinutes: number;
  /** What the bay has shown of itself; null: nothing. */
  readonly prior: BayPrior | null;
  readonly constants?: VerdictConstants;
}

/** Minutes between the two rounds of a pair of the hold plan: within the 45–60 that the plan asks for. */
const HOLD_MINUTES = 50;

const LABELS: Record<PlanShape, string> = {
  return: 'With a return check',
  middle: 'Baseline again in the middle',
  twice: 'Everything twice',
  hold: 'Hold plan',
  plain: 'Plain before and after',
};

/**
 * What a job wants of a plan, from its method, its model card and its day's papers.
 * @example planRequestOf(newJob('1', 'x')).baseline // 'A'
 */
export function planRequestOf(job: Job): PlanRequest {
  const day = job.day ?? USUAL_DAY;
  const baseline = job.question.baselineSetup;
  const charged = job.vehicle.aspiration === 'supercharged';
  return {
    baseline,
    candidates: orderedCandidates(job),
    returnChecks: job.setups.filter((s) => s.returnsTo === baseline).map((s) => s.id),
    settle: day.modelCard.settlePulls ?? tolerance(job.method, 'settlePulls'),
    counted: Math.max(tolerance(job.method, 'countedPulls'), fixedPauseMin(job) === null ? 0 : FADE_PULLS),
    minutesPerPull: day.plan.minutesPerPull,
    fittingMinutes: day.plan.fittingMinutes,
    coolDownMinutes: tolerance(job.method, charged ? 'coolDownChargedMin' : 'coolDownMin'),
    prior: job.bay.prior,
    constants: job.bay.verdictConstants,
  };
}

/** A part that comes off again within about an hour gets a return check; longer, the hold plan is the usual way. */
const RETURN_MINUTES = 60;

/**
 * The shape that is usual for this job: how long a fitting takes, whether it can be undone, and what the house method says.
 * @example usualShape(newJob('1', 'x'), 240) // 'hold'
 */
export function usualShape(job: Job, fittingMinutes: number): PlanShape {
  if (job.day?.cannotBeUndone || fittingMinutes > RETURN_MINUTES) return 'hold';
  return job.question.candidateSetups.length > 1 && job.method.schools?.order === 'middle' ? 'middle' : 'return';
}

/**
 * The plan that a page starts from: what was saved, else what is usual and what the house method says of the order.
 * @example startingPlan(newJob('1', 'x')).order // 'fixed'
 */
export function startingPlan(job: Job): DayPlan {
  const { plan } = job.day ?? USUAL_DAY;
  if (plan.startAt !== null || job.question.plan.length > 0) return plan;
  const drawn = job.question.candidateSetups.length > 1 && job.method.schools?.order === 'random';
  return { ...plan, shape: usualShape(job, plan.fittingMinutes), order: drawn ? 'randomised' : plan.order };
}

/**
 * The plans side by side: what each costs in minutes and what it finds in per cent.
 * @example comparePlans(planRequestOf(newJob('1', 'x'))).map((p) => p.shape) // ['return', 'twice', 'hold', 'plain']
 */
export function comparePlans(request: PlanRequest): PlannedDay[] {
  return shapesFor(request.candidates.length).map((shape) => planDay(shape, request));
}

/** A baseline in the middle needs something on both of its sides. */
function shapesFor(candidates: number): PlanShape[] {
  return candidates > 1 ? ['return', 'middle', 'hold', 'plain'] : ['return', 'twice', 'hold', 'plain'];
}

/**
 * One shape of day worked out: its rounds, its blocks of minutes and the gain, per cent, that it finds.
 * @example planDay('return', planRequestOf(newJob('1', 'x'))).steps.map((s) => s.setup) // ['A', 'B', 'A2']
 */
export function planDay(shape: PlanShape, request: PlanRequest): PlannedDay {
  const steps = stepsOf(shape, request);
  const blocks = layOut(steps, request);
  return {
    shape,
    label: LABELS[shape],
    steps,
    blocks,
    minutes: blocks.at(-1)!.toMin,
    ...seen(blocks, steps, request),
  };
}

function stepsOf(shape: PlanShape, { baseline, candidates, returnChecks, settle, counted }: PlanRequest): PlanStep[] {
  const round = (setup: string): PlanStep => ({ setup, settle, counted });
  // A return check is one pull shorter, as in the default plan 3 + 3 + 2.
  const check = (k: number): PlanStep => ({
    setup: returnChecks[k] ?? `${baseline}${k + 2}`,
    settle,
    counted: Math.max(2, counted - 1),
  });
  // Where everything is made twice, every round is as long as the first.
  const full = (k: number): PlanStep => ({ ...check(k), counted });
  const first = round(baseline);
  switch (shape) {
    case 'return':
      return [first, ...candidates.map(round), check(0)];
    case 'middle':
      return [first, ...candidates.flatMap((c, k) => [round(c), check(k)])];
    case 'twice':
      return [first, ...candidates.map(round), full(0), ...candidates.map((c) => round(`${c}2`)), full(1)];
    case 'hold':
      return [baseline, ...candidates].flatMap((setup) => [round(setup), round(setup)]);
    case 'plain':
      return [first, ...candidates.map(round)];
  }
}

function layOut(steps: readonly PlanStep[], request: PlanRequest): DayBlock[] {
  const blocks: DayBlock[] = [];
  let now = 0;
  steps.forEach((step, i) => {
    const before = steps[i - 1];
    if (before) {
      const same = before.setup === step.setup;
      const kind = same ? 'hold' : 'fitting';
      const length = same ? HOLD_MINUTES : request.fittingMinutes;
      blocks.push({ kind, setup: step.setup, fromMin: now, toMin: now + length, pullMin: [] });
      now += length;
      const rest = request.coolDownMinutes - length;
      if (rest > 0) {
        blocks.push({ kind: 'cool-down', setup: step.setup, fromMin: now, toMin: now + rest, pullMin: [] });
        now += rest;
      }
    }
    const pulls = step.settle + step.counted;
    const pullMin = Array.from({ length: pulls }, (_, k) => now + k * request.minutesPerPull);
    const end = now + pulls * request.minutesPerPull;
    blocks.push({ kind: 'pulls', setup: step.setup, fromMin: now, toMin: end, pullMin });
    now = end;
  });
  return blocks;
}

/** Setups that a plan runs and the job does not have yet: return checks of the baseline, and candidates run a second time. */
function setupsToAdd(job: Pick<Job, 'setups' | 'question'>, steps: readonly PlanStep[]): Setup[] {
  const { baselineSetup, candidateSetups } = job.question;
  const missing = [...new Set(steps.map((s) => s.setup))].filter((id) => !job.setups.some((own) => own.id === id));
  return missing.map((id) => {
    const repeats = candidateSetups.find((c) => id === `${c}2`) ?? baselineSetup;
    const original = job.setups.find((s) => s.id === repeats);
    const label = repeats === baselineSetup ? 'return check' : `${original?.label ?? repeats} again`;
    return {
      ...newSetup(id, label, repeats === baselineSetup ? baselineSetup : (original?.parentId ?? baselineSetup)),
      changes: repeats === baselineSetup ? [] : (original?.changes ?? []),
      declares: repeats === baselineSetup ? [] : (original?.declares ?? []),
      state: original?.state ?? {},
      returnsTo: repeats,
    };
  });
}

/**
 * The setups of a job for a plan: what it needs is added, and what only an earlier plan needed goes, unless it was pulled or fitted.
 * @example setupsForPlan(newJob('1', 'x'), []).length // 2
 */
export function setupsForPlan(job: Job, steps: readonly PlanStep[]): Setup[] {
  const wanted = (id: string) => steps.some((s) => s.setup === id);
  const touched = (id: string) =>
    job.pulls.some((p) => p.setupId === id) || (job.day?.fittings ?? []).some((f) => f.setup === id);
  const left = (s: Setup) =>
    s.returnsTo !== null && !wanted(s.id) && !touched(s.id) && job.question.plan.some((step) => step.setup === s.id);
  return [...job.setups.filter((s) => !left(s)), ...setupsToAdd(job, steps)];
}

/** Gains of this many floors are found on 80 % of days if the bay is as usual (simulated days). */
const FOUND_FLOORS = 1.43;

/** F of a plan, log-percent: the candidate that it sees least well decides. Infinite where nothing is compared. */
function floorOf(
  blocks: readonly DayBlock[],
  steps: readonly PlanStep[],
  request: PlanRequest,
  candidateOf: (setup: string) => number,
  noiseClass: NoiseClass = 'power',
): number {
  const model = modelOf(request.constants ?? {});
  const starts = blocks.filter((b) => b.kind === 'pulls').map((b) => b.pullMin);
  const rounds = steps.map((s, i): PlannedEngineRound => ({
    setup: candidateOf(s.setup) + 1,
    counted: s.counted,
    startHours: starts[i]![s.settle]! / 60,
  }));
  const { prior } = priorsWith(request.prior?.learned[noiseClass] ?? null, model);
  const contrasts = request.candidates.map((_, k) =>
    Array.from({ length: k + 2 }, (__, i) => (i === 0 ? -1 : i === k + 1 ? 1 : 0)),
  );
  // A commissioning day compares nothing.
  if (contrasts.length === 0) return Infinity;
  const medians = request.prior?.learned[noiseClass]?.medians ?? USUAL_MEDIANS;
  return Math.max(...planFloors(rounds, contrasts, prior, medians, { model }));
}

/** F of the class of noise that a measure is of; what nobody learns is taken to be as power is in any bay. */
function floorOfMeasure(
  measure: DeclaredMeasure,
  blocks: readonly DayBlock[],
  steps: readonly PlanStep[],
  request: PlanRequest,
  candidateOf: (setup: string) => number,
): number {
  const own = noiseClassOf(measureFacts(measure));
  return own === null
    ? floorOf(blocks, steps, { ...request, prior: null }, candidateOf)
    : floorOf(blocks, steps, request, candidateOf, own);
}

function seen(
  blocks: readonly DayBlock[],
  steps: readonly PlanStep[],
  request: PlanRequest,
): Pick<PlannedDay, 'seesFromPercent' | 'findsPercent'> {
  const candidateOf = (setup: string) => request.candidates.findIndex((c) => setup === c || setup === `${c}2`);
  const floor = floorOf(blocks, steps, request, candidateOf);
  return { seesFromPercent: truePercent(floor), findsPercent: truePercent(FOUND_FLOORS * floor) };
}

/**
 * F of the plan that a job follows, of each of its measures. Empty without a plan or candidates.
 * @example planSees(newJob('1', 'x')) // []
 */
export function planSees(job: Job): PlanSees[] {
  const { plan, candidateSetups, measures } = job.question;
  const planned = (setup: string) => plan.some((s) => repeatedSetup(job.setups, s.setup) === setup);
  if (candidateSetups.length === 0) return [];
  if (![job.question.baselineSetup, ...candidateSetups].every(planned)) return [];
  const request = planRequestOf(job);
  const candidateOf = (setup: string) => request.candidates.indexOf(repeatedSetup(job.setups, setup));
  const blocks = layOut(plan, request);
  return measuresSeen(measures, (m) => floorOfMeasure(m, blocks, plan, request, candidateOf), plan, candidateOf);
}

/**
 * The same of a plan that is only thought of.
 * @example plannedDaySees(newJob('1', 'x'), planDay('plain', planRequestOf(newJob('1', 'x'))))[0].measure // 'windowMeanPower'
 */
export function plannedDaySees(job: Job, { steps, blocks, seesFromPercent }: PlannedDay): PlanSees[] {
  const { candidateSetups, measures } = job.question;
  const candidateOf = (setup: string) => candidateSetups.findIndex((c) => setup === c || setup === `${c}2`);
  const request = { ...planRequestOf(job), candidates: candidateSetups };
  const floor = (m: DeclaredMeasure) =>
    noiseClassOf(measureFacts(m)) === 'power'
      ? logPercent(seesFromPercent)
      : floorOfMeasure(m, blocks, steps, request, candidateOf);
  return measuresSeen(measures, floor, steps, candidateOf);
}

const MOST_COUNTED = 12;

/**
 * The fewest counted pulls per setup with which a plan of this shape finds the gain that would matter; null if none up to 12.
 * @example pullsFor('plain', 0.01, planRequestOf(newJob('1', 'x'))) // null
 */
export function pullsFor(shape: PlanShape, meaningfulPercent: number, request: PlanRequest): number | null {
  const enough = (counted: number) => planDay(shape, { ...request, counted }).findsPercent <= meaningfulPercent;
  if (!enough(MOST_COUNTED)) return null;
  let [short, found] = [1, MOST_COUNTED];
  while (found - short > 1) {
    const middle = Math.floor((short + found) / 2);
    if (enough(middle)) found = middle;
    else short = middle;
  }
  return found;
}
