import { peakFindings } from '../compare/peakAgainstRange.ts';
import { schoolsOf, schoolsOfReadings } from '../compare/schools.ts';
import { setupCurves } from '../compare/setupCurves.ts';
import type { Job } from '../job/job.ts';
import { isOfRoad, measureName } from '../measures/declaredMeasure.ts';
import { isCurved } from '../measures/measureFacts.ts';
import { preparePulls, type PreparedPull } from '../pull/preparedPulls.ts';
import { fitBands, sideBands, sideRibbon, type BandFits } from './bands.ts';
import { fadeAgainst, fadeGain } from './fadeAnswer.ts';
import { contrastsOf, simultaneousOf } from './betweenCandidates.ts';
import { stepsOf } from './cameAbout.ts';
import { decide, weaker } from './decide.ts';
import { plugIn } from './engine/plugIn.ts';
import { noiseOf } from './engine/answer.ts';
import { pullsOutOfStep } from './evenRounds.ts';
import { gainOf, scaledAnswer } from './gain.ts';
import { answersWith, contrastOf, type MeasuredDay } from './measuredDay.ts';
import { findOdd, judgedPull } from './judgedPulls.ts';
import { measuredOn, type Measured } from './measured.ts';
import { pairConditions, roundPull } from './pairConditions.ts';
import { settingsOf, type AnalysisSettings } from './settings.ts';
import type {
  CandidateVerdict,
  Judgement,
  MethodUsed,
  SetupCurve,
  SidePulls,
  Verdict,
  VerdictReason,
} from './outcome.ts';
import { mean } from '../statistics/summary.ts';
import { truePercent } from './percent.ts';
import { morePullsNeeded, nearestMargin, waysToNarrow, type Today } from './planning.ts';
import { roadCandidates } from './roadSelection.ts';
import { selectPulls, type Candidate, type Selection } from './selection.ts';

/** How much to work out: everything, or the verdicts alone, without bands, ribbon, pairs of candidates and what would narrow them. */
export type JudgementDepth = 'full' | 'verdict';

/**
 * Judges a job: every pull with its findings, every candidate with its verdict. Pure; same input, same digits.
 * @example judgeJob(newJob('1', 'x')).verdicts[0].reason // 'too-few-pulls'
 */
export function judgeJob(job: Job, depth: JudgementDepth = 'full'): Judgement {
  return judgePrepared(job, preparePulls(job.pulls, job.bay, job.vehicle), depth);
}

/**
 * The same for pulls whose usable windows were already found, so that a change of method is quick.
 * @example judgePrepared(newJob('1', 'x'), []).pulls // []
 */
export function judgePrepared(job: Job, prepared: readonly PreparedPull[], depth: JudgementDepth = 'full'): Judgement {
  return [...judgementSteps(job, prepared, depth)].at(-1)!;
}

/**
 * The same in steps, for whoever shows what is there already: curves and pulls without a verdict, then the verdicts, then everything.
 * What a step found is not worked out again by the next, which may add findings to its pulls.
 * @example [...judgementSteps(newJob('1', 'x'), [])].map((step) => step.verdicts.length) // [0, 1, 1]
 */
export function* judgementSteps(
  job: Job,
  prepared: readonly PreparedPull[],
  depth: JudgementDepth = 'full',
): Generator<Judgement, void> {
  const selection = selectPulls(job, prepared);
  const { used, window, declaredWindow } = selection;
  const [first, ...others] = job.question.measures.map((m) => settingsOf(job, selection, m)) as [AnalysisSettings];
  const setups = setupCurves(job, selection, first);
  const counts = (c: Candidate) => used.includes(c) || selection.rollOns.includes(c);
  const pulls = () => selection.all.map((c) => judgedPull(c, counts(c), window));
  const { airKnown } = selection;
  const known = { declaredWindow, window, airKnown, setups, contrasts: [], simultaneous: [] };
  yield { ...known, pulls: pulls(), verdicts: [] };
  const boosted = job.vehicle.aspiration === 'turbo' || job.vehicle.aspiration === 'supercharged';
  const placed = new Map(selection.all.map((c) => [roundPull(c, counts(c)), c]));
  for (const [p, own] of pullsOutOfStep([...placed.keys()], { timesKnown: selection.timesKnown, boosted }))
    placed.get(p)!.findings.push(...own);
  const road = roadCandidates(job);
  const measured = [first, ...others].map((settings) => measuredOn(selection, road, settings));
  // What is odd about a pull is told once, by what was asked first.
  if (measured[0]!.day) findOdd(measured[0]!.day, measured[0]!.suspected, first);
  const verdicts = (bands: readonly (BandFits | null)[], far: JudgementDepth) =>
    measured.flatMap((own, m) =>
      job.question.candidateSetups.map((candidate, i) =>
        judgeCandidate({ ...own, job, bands: bands[m] ?? null, setups, candidate, side: i + 1, depth: far }),
      ),
    );
  yield { ...known, pulls: pulls(), verdicts: verdicts([], 'verdict') };
  if (depth === 'verdict') return;
  const bands = measured.map(({ day, settings }) =>
    day && day.sides.length > 0 && isCurved(settings.endpoint) ? fitBands(day, settings) : null,
  );
  yield {
    ...known,
    pulls: pulls(),
    verdicts: verdicts(bands, 'full'),
    contrasts: measured.flatMap(({ day, settings }) => (day ? contrastsOf(job, day, settings) : [])),
    simultaneous: measured.flatMap(({ day, settings }) => (day ? simultaneousOf(job, day, settings) : [])),
  };
}

interface CandidateInput extends Measured {
  readonly job: Job;
  readonly bands: BandFits | null;
  readonly setups: readonly SetupCurve[];
  readonly candidate: string;
  readonly side: number;
  readonly depth: JudgementDepth;
}

function judgeCandidate(input: CandidateInput): CandidateVerdict {
  const { job, selection, settings, day, candidate, side } = input;
  const { used, window } = selection;
  const { endpoint } = settings;
  const place = day ? day.sides.indexOf(side) : -1;
  const answer = day?.answers[place] ?? null;
  const fade = endpoint.measure.id === 'fade' ? fadeAgainst(selection, side, settings.confidence) : null;
  const gain = fade ? fadeGain(fade, settings.confidence) : day && answer ? gainOf(day, answer, settings) : null;
  const pulls = Math.min(...[0, side].map((s) => used.filter((c) => c.side === s).length));
  const fewest = endpoint.measure.id === 'fade' && !fade ? 0 : pulls;
  const estimate = fade ? { ...fade, estimate: fade.difference } : answer && scaledAnswer(answer, endpoint.factor);
  const decision = decide(fewest, estimate, input.margins, endpoint.better);
  const turbo = job.vehicle.aspiration === 'turbo' && selection.corrected && isCurved(endpoint);
  const uncorrected = turbo && day && place >= 0 ? uncorrectedVerdict(input, day, place, fewest) : null;
  const bands = day && input.bands && place >= 0 ? input.bands : null;
  const bandList = bands ? sideBands(bands, place, day!, settings, endpoint.measure.meaningful) : [];
  const peaksOf = (setupId: string) => input.setups.find((s) => s.setupId === setupId)?.peaks ?? null;
  const peaks = { baseline: peaksOf(job.question.baselineSetup), candidate: peaksOf(candidate) };
  const { rows, state, findings } = pairConditions(input);
  const conditions = [...findings, ...(isCurved(endpoint) ? peakFindings(peaks, bandList, decision.verdict) : [])];
  const lost = conditions.filter((f) => f.severity === 'blocking');
  const { verdict, reason } = settle(
    decision.verdict,
    day !== null && noiseOf(settings.model, day.noise).widestScatter > TOO_WIDE,
    lost.length === 0,
    fewest,
    uncorrected?.verdict ?? null,
  );
  const curves = (s: number) => used.filter((c) => c.side === s).map((c) => endpoint.curve(c.power));
  const readings = (s: number) => (window ? used.filter((c) => c.side === s).map((c) => endpoint.read(c, window)) : []);
  const level = (values: readonly number[]) => (values.length > 0 ? mean(values) : null);
  const setups = { baseline: job.question.baselineSetup, candidate };
  return {
    ...{
      candidate,
      baseline: setups.baseline,
      measure: measureName(endpoint.measure),
      meaningful: endpoint.measure.meaningful,
      verdict,
      reason,
    },
    smallerThanMatters: verdict === decision.verdict && decision.smallerThanMatters,
    ...{
      gain,
      bands: bandList,
      levels: fade
        ? { baseline: fade.baseline, candidate: fade.candidate }
        : { baseline: level(readings(0)), candidate: level(readings(side)) },
    },
    ribbon: bands ? sideRibbon(bands, place, settings) : null,
    peaks,
    schools:
      !window || fewest === 0 || fade
        ? []
        : isCurved(endpoint)
          ? schoolsOf(curves(0), curves(side), window)
          : schoolsOfReadings(readings(0), readings(side), endpoint.better),
    pulls: { baseline: sidePulls(selection, 0), candidate: sidePulls(selection, side) },
    conditions: { comparable: lost.length === 0, findings: conditions, rows, state },
    ...widthOf(input, place, verdict, fewest),
    steps: day && place >= 0 ? stepsOf(day, place, setups, settings) : [],
    suspected: input.suspected.flatMap(({ index, likely, repeat }) => {
      const c = used[index]!;
      return c.side === 0 || c.side === side ? [{ pullId: c.pull.id, name: c.name, likely, repeat }] : [];
    }),
    uncorrected,
    returnCheck: returnCheckOf(day, settings),
    method: methodUsed(job, selection, settings, used.length),
  };
}

/** The same in the measure's own scale. */
function returnCheckOf(day: MeasuredDay | null, { endpoint }: AnalysisSettings): CandidateVerdict['returnCheck'] {
  if (day === null || day.drift === null) return null;
  const value = endpoint.factor * day.drift;
  return endpoint.scale === 'log' ? { value: truePercent(value), unit: '%' } : { value, unit: endpoint.unit };
}

/** What the interval is made of, what would make it narrower, and what would settle an open question. */
function widthOf(
  { settings, day, side, depth }: CandidateInput,
  place: number,
  verdict: Verdict,
  fewest: number,
): Pick<CandidateVerdict, 'width' | 'narrower' | 'morePullsNeeded'> {
  const answer = day?.answers[place];
  if (!day || !answer) return { width: null, narrower: [], morePullsNeeded: null };
  const { scale, factor } = settings.endpoint;
  const contrast = contrastOf(side);
  const node = plugIn(day.prepared, contrast, answer);
  const margin = nearestMargin(settings.endpoint.measure.meaningful, scale, factor);
  const today: Today = { day: day.prepared, contrast, side, estimate: answer.estimate, node, margin };
  const shown = (half: number) => (scale === 'log' ? truePercent(factor * half) : factor * half);
  // More passes need a road, not a plan of the bay.
  const onRollers = !isOfRoad(settings.endpoint.measure.id);
  const open = verdict === 'not-resolved' && fewest >= 2 && scale === 'log' && onRollers;
  return {
    width: { shares: node.shares, scatter: factor * answer.scatterToday },
    narrower:
      fewest >= 2 && depth === 'full' && onRollers
        ? waysToNarrow(today, shown, settings.priors.prior !== settings.priors.usual)
        : [],
    morePullsNeeded: open ? morePullsNeeded(today) : null,
  };
}

function uncorrectedVerdict(
  { settings, margins: own }: CandidateInput,
  day: MeasuredDay,
  place: number,
  fewest: number,
): CandidateVerdict['uncorrected'] {
  const plain = { ...day, used: day.used.map((c) => ({ ...c, power: c.uncorrected })) };
  const answer = answersWith(day, plain.used, settings)?.[place] ?? null;
  const { factor, better } = settings.endpoint;
  return {
    verdict: decide(fewest, answer && scaledAnswer(answer, factor), own, better).verdict,
    gain: answer && gainOf(plain, answer, settings),
  };
}

/** Over this weight of the widest scatter node (3.07 %) nothing is said. */
const TOO_WIDE = 0.2;

/** Applies the order of the verdict and names the rule that decided. */
function settle(
  plain: Verdict,
  scattered: boolean,
  comparable: boolean,
  fewest: number,
  uncorrected: Verdict | null,
): { verdict: Verdict; reason: VerdictReason } {
  if (scattered) return { verdict: 'not-resolved', reason: 'scatter' };
  if (!comparable) return { verdict: 'not-comparable', reason: 'conditions' };
  if (fewest < 2) return { verdict: 'not-resolved', reason: 'too-few-pulls' };
  if (uncorrected && uncorrected !== plain)
    return { verdict: weaker(plain, uncorrected), reason: 'correction-decides' };
  switch (plain) {
    case 'verified-gain':
    case 'verified-loss':
      return { verdict: plain, reason: 'one-side-of-zero' };
    case 'no-meaningful-change':
      return { verdict: plain, reason: 'inside-what-matters' };
    default:
      return { verdict: plain, reason: 'open' };
  }
}

function sidePulls(selection: Selection, side: number): SidePulls {
  const own = selection.all.filter((c) => c.side === side);
  const of = (status: string) => own.filter((c) => c.pull.status === status).length;
  return {
    counted: of('counted'),
    used: selection.used.filter((c) => c.side === side).length,
    settle: of('settle'),
    setAside: of('set-aside'),
  };
}

function methodUsed(job: Job, selection: Selection, settings: AnalysisSettings, pulls: number): MethodUsed {
  return {
    pulls,
    confidence: settings.confidence,
    quantity: settings.endpoint.quantity,
    heat: settings.heat,
    correction: selection.corrected ? job.method.correction : null,
    averagingRpm: job.method.averagingWidthRpm,
    targetNm: Number.isFinite(settings.targetNm) ? settings.targetNm : null,
  };
}
