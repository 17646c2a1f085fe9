import { schoolsOf } from '../compare/schools.ts';
import { setupCurves } from '../compare/setupCurves.ts';
import { CORRECTION_NAMES } from '../correction/standards.ts';
import { repeatedSetup, type Job } from '../job/job.ts';
import { preparePulls, type PreparedPull } from '../pull/curve.ts';
import { finding } from '../pull/findings.ts';
import { peakOf, windowMean } from '../pull/gridCurve.ts';
import { steady } from '../statistics/summary.ts';
import { familywiseCritical } from '../statistics/familywise.ts';
import { fitBands, sideBands, sideRibbon, type BandFits } from './bands.ts';
import { gates, type ConditionFinding } from './conditions.ts';
import { truePercent } from './constants.ts';
import { estimateContrast } from './contrast.ts';
import { decide, margins, weaker } from './decide.ts';
import { fitMeasure, gainOf, onScale, settingOf, type Setting, type SideEstimate } from './estimate.ts';
import type { Fit } from './fit.ts';
import { oddAsWhole, partialDips } from './oddPulls.ts';
import type { CandidateVerdict, Contrast, JudgedPull, Judgement, SetupCurve, SidePulls, Verdict } from './outcome.ts';
import { morePullsNeeded } from './planning.ts';
import { selectPulls, type Candidate, type Selection } from './selection.ts';

/** How much to work out: everything, or the verdicts without bands and ribbon (calibration runs). */
export type JudgementDepth = 'full' | 'verdict';

/** Judges a job: every pull with its findings, every candidate with its verdict. Pure; same input, same digits. */
export function judgeJob(job: Job, depth: JudgementDepth = 'full'): Judgement {
  return judgePrepared(job, preparePulls(job.pulls, job.bay, job.vehicle), depth);
}

/** The same for pulls whose usable windows were already found, so that a change of method is quick. */
export function judgePrepared(job: Job, prepared: readonly PreparedPull[], depth: JudgementDepth = 'full'): Judgement {
  const selection = selectPulls(job, prepared);
  const setting = settingOf(job, selection);
  const { used, window } = selection;
  const fit = window ? fitMeasure(used, window, setting) : null;
  const flagged = fit && window ? flagOdd(fit, used, window, setting) : new Set<Candidate>();
  const bands = fit && setting.endpoint.scale === 'log' && depth === 'full' ? fitBands(used, setting) : null;
  const setups = setupCurves(job, selection, setting);
  const verdicts = job.question.candidateSetups.map((candidate, i) =>
    judgeCandidate({ job, selection, setting, fit, flagged, bands, setups, candidate, side: i + 1 }),
  );
  return {
    declaredWindow: selection.declaredWindow,
    window,
    pulls: selection.all.map((c) => judgedPull(c, used.includes(c), window)),
    setups,
    verdicts,
    contrasts: fit ? contrastsOf(job, fit, setting) : [],
    simultaneous: fit ? simultaneousOf(job, fit, setting) : [],
  };
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
  setting: Setting,
): Set<Candidate> {
  const { design } = fit;
  const y = used.map((c) => onScale(setting.endpoint, setting.endpoint.read(c, window)));
  const logs = used.map((c) => ({ ...c.power, values: c.power.values.map((p) => (p > 0 ? 100 * Math.log(p) : NaN)) }));
  const dips = setting.endpoint.scale === 'log' ? partialDips(design, logs, window) : [];
  const odd = [...dips, ...oddAsWhole(design, y, setting.constants.s0, setting.constants.d0, setting.remounted)];
  for (const { index, kind, score, atRpm } of odd) {
    const text =
      kind === 'partial-dip'
        ? `Odd one out: a dip of ${score.toFixed(1)} % near ${atRpm} rpm that the other pulls of the setup do not have.`
        : `Odd one out: ${score > 0 ? 'above' : 'below'} what the other pulls predict by ${Math.abs(score).toFixed(1)} standard errors.`;
    used[index]!.findings.push(finding(kind, 'warn', text, atRpm, atRpm));
  }
  return new Set(odd.map(({ index }) => used[index]!));
}

interface CandidateInput {
  readonly job: Job;
  readonly selection: Selection;
  readonly setting: Setting;
  readonly fit: Fit | null;
  readonly flagged: ReadonlySet<Candidate>;
  readonly bands: BandFits | null;
  readonly setups: readonly SetupCurve[];
  readonly candidate: string;
  readonly side: number;
}

function judgeCandidate(input: CandidateInput): CandidateVerdict {
  const { job, selection, setting, fit, flagged, candidate, side } = input;
  const { used, window } = selection;
  const result = fit && window ? gainOf(fit, side, used, window, setting) : null;
  const own = margins(job.question.meaningfulGainPercent, setting.endpoint.scale);
  const fewest = (group: readonly Candidate[]) =>
    Math.min(...[0, side].map((s) => group.filter((c) => c.side === s).length));
  const decision = decide(fewest(used), result?.estimate ?? null, own);
  const { rows, state, findings: gateFindings } = gates(gateInput(input, result));
  const conditions = [...gateFindings, ...notesOn(input, result)];
  const calm = used.filter((c) => !flagged.has(c));
  const relevantFlags = [...flagged].some((c) => c.side === 0 || c.side === side);
  const withoutFlagged = relevantFlags && window ? rejudge(calm, window, setting, side, own, fewest(calm)) : null;
  const plain = used.map((c) => ({ ...c, power: c.uncorrected }));
  const turbo = job.vehicle.aspiration === 'turbo' && selection.corrected && setting.endpoint.scale === 'log';
  const uncorrected = turbo && window ? rejudge(plain, window, setting, side, own, fewest(used)) : null;
  const lost = conditions.filter((f) => f.severity === 'lost');
  const { verdict, reason } = settle(
    decision.verdict,
    lost,
    fewest(used),
    withoutFlagged?.verdict ?? null,
    uncorrected?.verdict ?? null,
  );
  const bands =
    result && input.bands && window
      ? sideBands(input.bands, side, used, window, setting, job.question.meaningfulGainPercent)
      : null;
  const peaksOf = (setupId: string) => input.setups.find((s) => s.setupId === setupId)?.peaks ?? null;
  const curves = (s: number) => used.filter((c) => c.side === s).map((c) => c.power);
  return {
    candidate,
    baseline: job.question.baselineSetup,
    measure: job.question.measure,
    verdict,
    reason,
    smallerThanMatters: verdict === decision.verdict && decision.smallerThanMatters,
    gain: result?.gain ?? null,
    bands: bands?.bands ?? [],
    ribbon: bands && input.bands ? sideRibbon(input.bands, side, bands.critical, setting) : null,
    peaks: { baseline: peaksOf(job.question.baselineSetup), candidate: peaksOf(candidate) },
    schools: window && fewest(used) > 0 ? schoolsOf(curves(0), curves(side), window) : [],
    pulls: { baseline: sidePulls(selection, 0), candidate: sidePulls(selection, side) },
    conditions: { comparable: lost.length === 0, findings: conditions, rows, state },
    morePullsNeeded:
      verdict === 'not-resolved' && result && fewest(used) >= 2 && setting.endpoint.scale === 'log'
        ? morePullsNeeded({
            design: result.fit.design,
            side,
            estimate: result.estimate.estimate,
            s: Math.sqrt(result.fit.noise.moderated),
            drift: result.fit.drift,
            meaningfulPercent: job.question.meaningfulGainPercent,
            remounted: setting.remounted,
          })
        : null,
    withoutFlagged,
    uncorrected,
    returnCheckPercent: fit && fit.design.brackets.length > 0 ? truePercent(fit.drift) : null,
    method: methodText(job, selection, setting, used.length),
  };
}

function rejudge(
  group: readonly Candidate[],
  window: readonly [number, number],
  setting: Setting,
  side: number,
  own: readonly [number, number],
  fewest: number,
) {
  const fit = fitMeasure(group, window, setting);
  const result = fit ? gainOf(fit, side, group, window, setting) : null;
  return { verdict: decide(fewest, result?.estimate ?? null, own).verdict, gain: result?.gain ?? null };
}

/** Applies the order of the verdict and says in words which rule decided. */
function settle(
  plain: Verdict,
  lost: readonly ConditionFinding[],
  fewest: number,
  without: Verdict | null,
  uncorrected: Verdict | null,
): { verdict: Verdict; reason: string } {
  if (lost.length > 0) return { verdict: 'not-comparable', reason: lost.map((f) => f.text).join(' ') };
  if (fewest < 2) return { verdict: 'not-resolved', reason: 'Fewer than two counted pulls on a side.' };
  if (without && without !== plain)
    return {
      verdict: 'not-resolved',
      reason: 'A flagged pull decides the verdict: repeat it while the setup is still on the car.',
    };
  if (uncorrected && uncorrected !== plain)
    return {
      verdict: weaker(plain, uncorrected),
      reason: 'Corrected and uncorrected power give different verdicts; the weaker one holds.',
    };
  switch (plain) {
    case 'verified-gain':
      return { verdict: plain, reason: 'The whole interval lies above zero.' };
    case 'verified-loss':
      return { verdict: plain, reason: 'The whole interval lies below zero.' };
    case 'no-meaningful-change':
      return { verdict: plain, reason: 'The 90 % interval lies inside the gain that would matter.' };
    default:
      return { verdict: plain, reason: 'The interval contains zero and reaches beyond the gain that would matter.' };
  }
}

function gateInput({ job, selection, setting, candidate, side }: CandidateInput, result: SideEstimate | null) {
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
    meantToChange: setting.heat === 'meant-to-change',
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

/** What a reader of the verdict should know, short of making the pair not comparable. */
function notesOn(
  { job, selection, setting, candidate, side }: CandidateInput,
  result: SideEstimate | null,
): ConditionFinding[] {
  const findings: ConditionFinding[] = [];
  const info = (code: string, text: string) => findings.push({ code, severity: 'info', text });
  const used = selection.used.filter((c) => c.side === 0 || c.side === side);
  if (!job.question.windowRpm && selection.declaredWindow)
    info(
      'no-window',
      `No window was declared: ${selection.declaredWindow.join('–')} rpm, what the pulls usually cover, was taken.`,
    );
  if (setting.heat === 'missing')
    info(
      'no-start-temperature',
      'Start temperatures are missing, so heat is not adjusted for and the interval is wider.',
    );
  if (setting.heat === 'meant-to-change' && job.question.partChangesIntakeTemperature)
    info('meant-to-cool', 'The part is meant to change the intake air: its cooling is part of the gain.');
  if (setting.heat === 'adjusted' && !selection.airKnown)
    info('absolute-start', 'The bay’s air was not recorded: start temperatures are taken as they stand.');
  if (selection.corrected && used.some((c) => c.weather.humidityAssumed))
    info('humidity', 'Humidity was not measured: 50 % was taken.');
  if (!job.bay.lossTorqueNm && used.some((c) => c.findings.some((f) => f.code === 'no-loss-data')))
    info('no-loss', 'The rollers’ own loss is not known and taken as zero.');
  if (result && result.fit.design.brackets.length === 0)
    info('no-return', 'No return check: what the day itself did cannot be told apart, so the interval is wide.');
  if (job.question.extension === 'undeclared')
    info(
      'undeclared-extension',
      'Pulls were added after the result was seen: false claims are more likely than stated.',
    );
  if (candidateCutShort(selection, side)) info('cut-short', 'Pulls that were cut short were left out.');
  if (used.some((c) => c.findings.some((f) => f.text.startsWith('Outside the correction'))))
    info('outside-validity', 'The air was outside the correction standard’s stated validity.');
  if (job.method.correction === 'iso-1585-ci' && !job.method.compressionIgnition)
    info(
      'no-engine-data',
      'ISO 1585 for compression ignition needs fuel per cycle and boost ratio: the numbers are not corrected.',
    );
  const chain = job.setups.filter((s) => repeatedSetup(job.setups, s.id) === candidate);
  if (chain.some((s) => s.closedCourseOnly))
    info('closed-course', 'Closed course only: this change can be unlawful on the road; check the local rules.');
  return findings;
}

function candidateCutShort(selection: Selection, side: number): boolean {
  return selection.all.some((c) => (c.side === 0 || c.side === side) && c.findings.some((f) => f.code === 'cut-short'));
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

/** Pairs of candidates against each other, and the interaction of two factors that were run alone and together. */
function contrastsOf(job: Job, fit: Fit, setting: Setting): Contrast[] {
  const names = fit.design.candidates.map((side) => job.question.candidateSetups[side - 1]!);
  const contrasts: Contrast[] = [];
  const add = (label: string, weights: number[]) => {
    const e = estimateContrast(fit, weights, setting.confidence);
    const out = setting.endpoint.scale === 'log' ? truePercent : (v: number) => v;
    contrasts.push({
      label,
      percent: out(e.estimate),
      lowPercent: out(e.low),
      highPercent: out(e.high),
      tie: steady(e.low) <= 0 && steady(e.high) >= 0,
    });
  };
  names.forEach((a, i) =>
    names.forEach((b, j) => {
      if (i < j)
        add(
          `${b} against ${a}`,
          names.map((_, k) => (k === j ? 1 : k === i ? -1 : 0)),
        );
    }),
  );
  const items = (id: string) => changeSet(job, id);
  names.forEach((both, t) =>
    names.forEach((a, i) =>
      names.forEach((b, j) => {
        if (i >= j || t === i || t === j) return;
        const union = [...items(a), ...items(b)];
        const disjoint = items(a).every((item) => !items(b).includes(item));
        if (!disjoint || items(a).length === 0 || items(b).length === 0) return;
        if (union.length === items(both).length && union.every((item) => items(both).includes(item))) {
          add(
            `${both} beyond ${a} and ${b} together`,
            names.map((_, k) => (k === t ? 1 : k === i || k === j ? -1 : 0)),
          );
        }
      }),
    ),
  );
  return contrasts;
}

function changeSet(job: Job, id: string): string[] {
  const items: string[] = [];
  for (let at: string | null = id, guard = 0; at && at !== job.question.baselineSetup && guard < 50; guard += 1) {
    const setup = job.setups.find((s) => s.id === at);
    if (!setup) break;
    items.push(
      ...setup.changes
        .split(/[;\n]/)
        .map((item) => item.trim().toLowerCase())
        .filter(Boolean),
    );
    at = setup.parentId;
  }
  return items;
}

function simultaneousOf(job: Job, fit: Fit, setting: Setting) {
  const n = fit.design.candidates.length;
  if (n < 3) return [];
  const estimates = fit.design.candidates.map((_, i) =>
    estimateContrast(
      fit,
      fit.design.candidates.map((__, k) => (k === i ? 1 : 0)),
    ),
  );
  let total = 0;
  for (let i = 1; i <= n; i += 1) {
    for (let j = i + 1; j <= n; j += 1)
      total += fit.covariance.get(i, j) / Math.sqrt(fit.covariance.get(i, i) * fit.covariance.get(j, j));
  }
  const c = familywiseCritical(
    n,
    total / ((n * (n - 1)) / 2),
    Math.min(...estimates.map((e) => e.df)),
    setting.confidence,
  );
  return estimates.map((e, i) => ({
    candidate: job.question.candidateSetups[fit.design.candidates[i]! - 1]!,
    lowPercent: truePercent(e.estimate - c * e.se),
    highPercent: truePercent(e.estimate + c * e.se),
  }));
}

function methodText(job: Job, selection: Selection, setting: Setting, n: number): string {
  const width = job.method.averagingWidthRpm;
  const correction = selection.corrected ? CORRECTION_NAMES[job.method.correction] : 'not weather-corrected';
  const heat = {
    adjusted: 'adjusted for start temperature above the bay’s air',
    'meant-to-change': 'start temperature left in, as the part is meant to change it',
    missing: 'start temperature not known',
  }[setting.heat];
  return `Modelled mean of ${n} counted pulls with allowances for heat, drift and rounds; ${heat}; ${correction}; averaging ${width === 0 ? 'none' : `${width} rpm`}; ${(setting.confidence * 100).toFixed(0)} % interval.`;
}
