import { peakFindings } from '../compare/peakAgainstRange.ts';
import { schoolsOf } from '../compare/schools.ts';
import { setupCurves } from '../compare/setupCurves.ts';
import type { Job } from '../job/job.ts';
import { preparePulls, type PreparedPull } from '../pull/preparedPulls.ts';
import { finding } from '../pull/findings.ts';
import { peakOf, windowMean } from '../pull/gridCurve.ts';
import { fitBands, sideBands, sideRibbon, type BandFits } from './bands.ts';
import { gates } from './conditions.ts';
import { truePercent } from './constants.ts';
import { contrastsOf, simultaneousOf } from './betweenCandidates.ts';
import { decide, margins, weaker } from './decide.ts';
import { fitMeasure, gainOf, onScale, settingsOf, type AnalysisSettings, type SideEstimate } from './estimate.ts';
import { pullsOutOfStep, unevenRounds, type RoundPull } from './evenRounds.ts';
import type { Fit } from './fit.ts';
import { notesOn } from './notes.ts';
import { oddAsWhole, partialDips } from './oddPulls.ts';
import type {
  CandidateVerdict,
  JudgedPull,
  Judgement,
  MethodUsed,
  SetupCurve,
  SidePulls,
  Verdict,
  VerdictReason,
} from './outcome.ts';
import { morePullsNeeded } from './planning.ts';
import { selectPulls, type Candidate, type Selection } from './selection.ts';

/** How much to work out: everything, or the verdicts without bands and ribbon (calibration runs). */
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
  const selection = selectPulls(job, prepared);
  const settings = settingsOf(job, selection);
  const { used, window } = selection;
  const boosted = job.vehicle.aspiration === 'turbo' || job.vehicle.aspiration === 'supercharged';
  const placed = new Map(selection.all.map((c) => [roundPull(c, used.includes(c)), c]));
  for (const [p, own] of pullsOutOfStep([...placed.keys()], { timesKnown: selection.timesKnown, boosted }))
    placed.get(p)!.findings.push(...own);
  const fit = window ? fitMeasure(used, window, settings) : null;
  const flagged = fit && window ? flagOdd(fit, used, window, settings) : new Set<Candidate>();
  const bands = fit && settings.endpoint.scale === 'log' && depth === 'full' ? fitBands(used, settings) : null;
  const setups = setupCurves(job, selection, settings);
  const verdicts = job.question.candidateSetups.map((candidate, i) =>
    judgeCandidate({ job, selection, settings, fit, flagged, bands, setups, candidate, side: i + 1 }),
  );
  return {
    declaredWindow: selection.declaredWindow,
    window,
    pulls: selection.all.map((c) => judgedPull(c, used.includes(c), window)),
    setups,
    verdicts,
    contrasts: fit ? contrastsOf(job, fit, settings) : [],
    simultaneous: fit ? simultaneousOf(job, fit, settings) : [],
  };
}

function roundPull(c: Candidate, used: boolean): RoundPull {
  const { setupId, round, position, status } = c.pull;
  return { setupId, round, position, status, side: c.side, used, hours: c.hours, startC: c.startC };
}

function judgedPull(c: Candidate, used: boolean, window: readonly [number, number] | null): JudgedPull {
  return {
    id: c.pull.id,
    setupId: c.pull.setupId,
    name: c.name,
    status: c.pull.status,
    used,
    notUsedBecause: c.notUsedBecause,
    power: c.power,
    factor: c.factor,
    windowMeanW: window ? windowMean(c.power, window[0], window[1]) : NaN,
    peak: peakOf(c.power),
    startAboveAirC: c.startC,
    hours: c.hours,
    findings: c.findings,
  };
}

/** Flags odd pulls and writes the flag into their findings; nothing is dropped. */
function flagOdd(
  fit: Fit,
  used: readonly Candidate[],
  window: readonly [number, number],
  settings: AnalysisSettings,
): Set<Candidate> {
  const { design } = fit;
  const y = used.map((c) => onScale(settings.endpoint, settings.endpoint.read(c, window)));
  const logs = used.map((c) => ({ ...c.power, values: c.power.values.map((p) => (p > 0 ? 100 * Math.log(p) : NaN)) }));
  const dips = settings.endpoint.scale === 'log' ? partialDips(design, logs, window) : [];
  const odd = [...dips, ...oddAsWhole(design, y, settings.constants.s0, settings.constants.d0, settings.remounted)];
  for (const { index, kind, score, atRpm } of odd) {
    used[index]!.findings.push(
      kind === 'partial-dip'
        ? finding(kind, 'warning', { percent: score, atRpm: atRpm! }, atRpm, atRpm)
        : finding(kind, 'warning', { standardErrors: score }, atRpm, atRpm),
    );
  }
  return new Set(odd.map(({ index }) => used[index]!));
}

interface CandidateInput {
  readonly job: Job;
  readonly selection: Selection;
  readonly settings: AnalysisSettings;
  readonly fit: Fit | null;
  readonly flagged: ReadonlySet<Candidate>;
  readonly bands: BandFits | null;
  readonly setups: readonly SetupCurve[];
  readonly candidate: string;
  readonly side: number;
}

function judgeCandidate(input: CandidateInput): CandidateVerdict {
  const { job, selection, settings, fit, flagged, candidate, side } = input;
  const { used, window } = selection;
  const result = fit && window ? gainOf(fit, side, used, window, settings) : null;
  const own = margins(job.question.meaningfulGainPercent, settings.endpoint.scale);
  const fewest = (group: readonly Candidate[]) =>
    Math.min(...[0, side].map((s) => group.filter((c) => c.side === s).length));
  const { better, quantity } = settings.endpoint;
  const decision = decide(fewest(used), result?.estimate ?? null, own, better);
  const { rows, state, findings: gateFindings } = gates(gateInput(input, result));
  const even = unevenRounds(
    selection.all.map((c) => roundPull(c, used.includes(c))),
    side,
    { timesKnown: selection.timesKnown, meantToChange: settings.heat === 'meant-to-change' },
  );
  const calm = used.filter((c) => !flagged.has(c));
  const relevantFlags = [...flagged].some((c) => c.side === 0 || c.side === side);
  const withoutFlagged = relevantFlags && window ? rejudge(calm, window, settings, side, own, fewest(calm)) : null;
  const plain = used.map((c) => ({ ...c, power: c.uncorrected }));
  const turbo = job.vehicle.aspiration === 'turbo' && selection.corrected && settings.endpoint.scale === 'log';
  const uncorrected = turbo && window ? rejudge(plain, window, settings, side, own, fewest(used)) : null;
  const bands =
    result && input.bands && window
      ? sideBands(input.bands, side, used, window, settings, job.question.meaningfulGainPercent)
      : null;
  const peaksOf = (setupId: string) => input.setups.find((s) => s.setupId === setupId)?.peaks ?? null;
  const peaks = { baseline: peaksOf(job.question.baselineSetup), candidate: peaksOf(candidate) };
  const conditions = [
    ...gateFindings,
    ...even,
    ...notesOn(input, result),
    ...(quantity === 'temperature' ? [] : peakFindings(peaks, bands?.bands ?? [], decision.verdict)),
  ];
  const lost = conditions.filter((f) => f.severity === 'blocking');
  const { verdict, reason } = settle(
    decision.verdict,
    lost.length === 0,
    fewest(used),
    withoutFlagged?.verdict ?? null,
    uncorrected?.verdict ?? null,
  );
  const curves = (s: number) => used.filter((c) => c.side === s).map((c) => settings.endpoint.curve(c.power));
  return {
    candidate,
    baseline: job.question.baselineSetup,
    measure: job.question.measure,
    verdict,
    reason,
    smallerThanMatters: verdict === decision.verdict && decision.smallerThanMatters,
    gain: result?.gain ?? null,
    bands: bands?.bands ?? [],
    ribbon: bands && input.bands ? sideRibbon(input.bands, side, bands.critical) : null,
    peaks,
    schools: quantity !== 'temperature' && window && fewest(used) > 0 ? schoolsOf(curves(0), curves(side), window) : [],
    pulls: { baseline: sidePulls(selection, 0), candidate: sidePulls(selection, side) },
    conditions: { comparable: lost.length === 0, findings: conditions, rows, state },
    morePullsNeeded:
      verdict === 'not-resolved' && result && fewest(used) >= 2 && settings.endpoint.scale === 'log'
        ? morePullsNeeded({
            design: result.fit.design,
            side,
            estimate: result.estimate.estimate,
            s: Math.sqrt(result.fit.noise.moderated),
            drift: result.fit.drift,
            meaningfulPercent: job.question.meaningfulGainPercent,
            remounted: settings.remounted,
            confidence: settings.confidence,
          })
        : null,
    withoutFlagged,
    uncorrected,
    returnCheckPercent: fit && fit.design.brackets.length > 0 ? truePercent(fit.drift) : null,
    method: methodUsed(job, selection, settings, used.length),
  };
}

function rejudge(
  group: readonly Candidate[],
  window: readonly [number, number],
  settings: AnalysisSettings,
  side: number,
  own: readonly [number, number],
  fewest: number,
) {
  const fit = fitMeasure(group, window, settings);
  const result = fit ? gainOf(fit, side, group, window, settings) : null;
  return {
    verdict: decide(fewest, result?.estimate ?? null, own, settings.endpoint.better).verdict,
    gain: result?.gain ?? null,
  };
}

/** Applies the order of the verdict and names the rule that decided. */
function settle(
  plain: Verdict,
  comparable: boolean,
  fewest: number,
  without: Verdict | null,
  uncorrected: Verdict | null,
): { verdict: Verdict; reason: VerdictReason } {
  if (!comparable) return { verdict: 'not-comparable', reason: 'conditions' };
  if (fewest < 2) return { verdict: 'not-resolved', reason: 'too-few-pulls' };
  if (without && without !== plain) return { verdict: 'not-resolved', reason: 'flagged-pull-decides' };
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

function gateInput({ job, selection, settings, candidate, side }: CandidateInput, result: SideEstimate | null) {
  const counted = selection.all.filter((c) => c.pull.status === 'counted' && (c.side === 0 || c.side === side));
  const pool = selection.used.filter((c) => c.side === 0 || c.side === side);
  const both = [0, side].every((s) => pool.some((c) => c.side === s));
  return {
    job,
    side,
    candidateId: candidate,
    pulls: (both ? pool : counted).map((c) => ({
      pull: c.pull,
      side: c.side!,
      airC: c.weather.airC,
      hasWeather: c.weather.factor !== null,
      factor: c.factor,
      startC: c.startC,
      hours: c.hours,
    })),
    meantToChange: settings.heat === 'meant-to-change',
    drift: result && result.fit.design.brackets.length > 0 ? result.fit.drift : null,
    windowShare: selection.windowShare,
    settle: { baseline: settlePerRound(selection, 0), candidate: settlePerRound(selection, side) },
    timesKnown: selection.timesKnown,
  };
}

/** Settle pulls per round of a side. */
function settlePerRound(selection: Selection, side: number): number {
  const own = selection.all.filter((c) => c.side === side);
  const rounds = new Set(own.filter((c) => c.pull.status === 'counted').map((c) => `${c.pull.setupId}#${c.pull.round}`))
    .size;
  return rounds === 0 ? 0 : own.filter((c) => c.pull.status === 'settle').length / rounds;
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
  };
}
