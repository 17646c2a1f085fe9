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
import { dayBlocks, dayOfRounds, withAnchors, type DayBlock, type DayTimes } from './dayBlocks.ts';
import { fittingTable } from './fittingMinutes.ts';
import { planOrder, type OrderRequest } from './orders.ts';
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
  /** F of the two candidates that it tells apart least well; null of one candidate. */
  readonly pairsFromPercent: number | null;
  /** How many days it takes, and which of them after the first begin without the baseline. */
  readonly days: number;
  readonly withoutAnchor: readonly number[];
}

export interface PlanRequest extends OrderRequest, DayTimes {
  /** What the bay has shown of itself; null: nothing. */
  readonly prior: BayPrior | null;
  readonly constants?: VerdictConstants;
}

const LABELS: Record<PlanShape, string> = {
  return: 'With a return check',
  middle: 'Baseline again in the middle',
  second: 'Baseline after every second part',
  twice: 'Everything twice',
  hold: 'Hold plan',
  plain: 'Plain before and after',
  own: 'In an order of your own',
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
    ...(job.question.candidateSetups.length > 1 ? ofSeveral(job, day.plan) : {}),
  };
}

/** What planning several parts needs besides: minutes from setup to setup, opening hours, and the rounds somebody put in order. */
function ofSeveral(job: Job, plan: DayPlan): Pick<PlanRequest, 'times' | 'hours' | 'own'> {
  const openMin = plan.openUntilMin - plan.openFromMin;
  const startMin = plan.startAt === null ? plan.openFromMin : minuteOfDay(plan.startAt, job.timeZone);
  return {
    times: fittingTable(job, plan.times ?? [], plan.fittingMinutes),
    hours: openMin > 0 ? { openMin, firstMin: Math.max(0, plan.openUntilMin - startMin) } : null,
    ...(plan.shape === 'own' && job.question.plan.length > 0 ? { own: job.question.plan } : {}),
  };
}

/** Minutes after midnight of an instant, where the job is. */
function minuteOfDay(at: string, timeZone: string | null): number {
  const parts = new Intl.DateTimeFormat('en-GB', {
    ...{ hour: '2-digit', minute: '2-digit', hourCycle: 'h23', timeZone: timeZone ?? 'UTC' },
  }).formatToParts(Date.parse(at));
  const of = (type: string) => Number(parts.find((p) => p.type === type)?.value ?? 0);
  return 60 * of('hour') + of('minute');
}

/** A part that comes off again within about an hour gets a return check; longer, the hold plan is the usual way. */
const RETURN_MINUTES = 60;

/**
 * The shape that is usual for this job: how long a fitting takes, whether it can be undone, and what the house method says.
 * @example usualShape(newJob('1', 'x'), 240) // 'hold'
 */
export function usualShape(job: Job, fittingMinutes: number): PlanShape {
  if (job.day?.cannotBeUndone || fittingMinutes > RETURN_MINUTES) return 'hold';
  const several = job.question.candidateSetups.length;
  // One more baseline in the middle cuts the worst error of several parts by a third.
  return several > 2 || (several > 1 && job.method.schools?.order === 'middle') ? 'middle' : 'return';
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
  return shapesFor(request).map((shape) => planDay(shape, request));
}

/** A baseline in the middle needs something on both of its sides, one after every second part a third of them. */
function shapesFor({ candidates, own }: PlanRequest): PlanShape[] {
  const shapes: PlanShape[] =
    candidates.length > 2
      ? ['return', 'middle', 'second']
      : candidates.length > 1
        ? ['return', 'middle', 'hold', 'plain']
        : ['return', 'twice', 'hold', 'plain'];
  return own ? [...shapes, 'own'] : shapes;
}

/**
 * One shape of day worked out: its rounds, its blocks of minutes and the gain, per cent, that it finds.
 * @example planDay('return', planRequestOf(newJob('1', 'x'))).steps.map((s) => s.setup) // ['A', 'B', 'A2']
 */
export function planDay(shape: PlanShape, request: PlanRequest): PlannedDay {
  const steps = anchoredOrder(shape, request);
  const blocks = layOut(steps, request);
  const dayOf = dayOfRounds(blocks);
  const opens = (i: number) => i > 0 && dayOf[i]! > dayOf[i - 1]!;
  return {
    shape,
    label: LABELS[shape],
    ...{ steps, blocks, minutes: blocks.at(-1)!.toMin, days: dayOf.at(-1)! + 1 },
    withoutAnchor: steps.flatMap((s, i) => (opens(i) && !isBaseline(s.setup, request) ? [dayOf[i]!] : [])),
    ...seen(blocks, steps, request),
  };
}

/** A round of the baseline: itself or a return check of it. */
export const isBaseline = (setup: string, { baseline, returnChecks }: PlanRequest) =>
  setup === baseline || returnChecks.includes(setup) || new RegExp(`^${baseline}\\d+$`).test(setup);

/** The rounds of a shape with an anchor on every day. */
function anchoredOrder(shape: PlanShape, request: PlanRequest): PlanStep[] {
  const planned = planOrder(shape, request);
  return shape === 'own' ? planned : anchored(planned, request);
}

/** Every later day begins with the baseline; return checks are then numbered as they come. */
function anchored(steps: readonly PlanStep[], request: PlanRequest): PlanStep[] {
  const own = withAnchors(
    steps,
    (list) => dayOfRounds(layOut(list, request)),
    (setup) => isBaseline(setup, request),
    () => ({ setup: request.baseline, settle: request.settle, counted: request.counted }),
  );
  if (own.length === steps.length) return own;
  let k = -1;
  return own.map((s) => {
    if (!isBaseline(s.setup, request)) return s;
    k += 1;
    return k === 0 ? s : { ...s, setup: request.returnChecks[k - 1] ?? `${request.baseline}${k + 1}` };
  });
}

export function layOut(steps: readonly PlanStep[], request: PlanRequest): DayBlock[] {
  return dayBlocks(steps, request, (setup) => (isBaseline(setup, request) ? request.baseline : setup));
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

/** F of a plan, log-percent, of the candidates against the baseline and against each other. */
interface Floors {
  readonly baseline: readonly number[];
  readonly pairs: readonly number[];
}

function floorsOf(
  blocks: readonly DayBlock[],
  steps: readonly PlanStep[],
  request: PlanRequest,
  candidateOf: (setup: string) => number,
  noiseClass: NoiseClass = 'power',
): Floors {
  const model = modelOf(request.constants ?? {});
  const starts = blocks.filter((b) => b.kind === 'pulls').map((b) => b.pullMin);
  const rounds = steps.map((s, i): PlannedEngineRound => ({
    setup: candidateOf(s.setup) + 1,
    counted: s.counted,
    startHours: starts[i]![s.settle]! / 60,
  }));
  const { prior } = priorsWith(request.prior?.learned[noiseClass] ?? null, model);
  // What no round is made of, no plan sees.
  const run = request.candidates.flatMap((_, k) => (rounds.some((r) => r.setup === k + 1) ? [k + 1] : []));
  const contrast = (plus: number, minus: number) =>
    Array.from({ length: Math.max(plus, minus) + 1 }, (_, i) => (i === plus ? 1 : i === minus ? -1 : 0));
  const pairs = run.flatMap((a, i) => run.slice(i + 1).map((b) => contrast(b, a)));
  // A commissioning day compares nothing.
  if (run.length === 0 || !rounds.some((r) => r.setup === 0)) return { baseline: [], pairs: [] };
  const medians = request.prior?.learned[noiseClass]?.medians ?? USUAL_MEDIANS;
  const all = planFloors(rounds, [...run.map((k) => contrast(k, 0)), ...pairs], prior, medians, { model });
  return { baseline: all.slice(0, run.length), pairs: all.slice(run.length) };
}

/** The candidate that a plan sees least well decides. Infinite where nothing is compared, or a candidate is not run. */
function floorOf(
  blocks: readonly DayBlock[],
  steps: readonly PlanStep[],
  request: PlanRequest,
  candidateOf: (setup: string) => number,
  noiseClass: NoiseClass = 'power',
): number {
  const { baseline } = floorsOf(blocks, steps, request, candidateOf, noiseClass);
  return baseline.length === 0 || baseline.length < request.candidates.length ? Infinity : Math.max(...baseline);
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
): Pick<PlannedDay, 'seesFromPercent' | 'findsPercent' | 'pairsFromPercent'> {
  const candidateOf = (setup: string) => request.candidates.findIndex((c) => setup === c || setup === `${c}2`);
  const { baseline, pairs } = floorsOf(blocks, steps, request, candidateOf);
  const whole = baseline.length > 0 && baseline.length === request.candidates.length;
  const floor = whole ? Math.max(...baseline) : Infinity;
  return {
    ...{ seesFromPercent: truePercent(floor), findsPercent: truePercent(FOUND_FLOORS * floor) },
    pairsFromPercent: pairs.length > 0 ? truePercent(Math.max(...pairs)) : null,
  };
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
