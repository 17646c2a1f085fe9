import {
  airDensityKgM3,
  airNow,
  armedLimits,
  baselineAt,
  baselinePeakW,
  baselineStanding,
  bayTrack,
  bayReview,
  correctionFactor,
  densityAltitudeM,
  gateRows,
  gateVerdict,
  limitsCrossed,
  extensionOf,
  fixedPauseMin,
  planSees,
  type PlanSees,
  pullsMissing,
  plannedRoundsLeft,
  pullsInOrder,
  repeatedSetup,
  roundProgress,
  setPointsOf,
  suspectsLeft,
  tolerance,
  type BayGateInput,
  type GateRow,
  type GateVerdict,
  type InstrumentStatus,
  type Job,
  type Judgement,
  type LiveReadings,
  type LiveSheet,
  type LiveValue,
  type ModelRange,
  type OddPull,
  type PullFinding,
  type SheetCurve,
  type SheetState,
} from '@prandel/core';
import type { BayRun } from '../database/shapes.ts';
import { COOLING_KEYS, type CoolingKey, type Recovery } from './recovery.ts';

/** What is known in a bay at one moment; everything the sheet shows is worked out from it. */
export interface BayMoment {
  readonly atMs: number;
  readonly job: Job | null;
  readonly jobRow: { readonly id: string; readonly version: number } | null;
  readonly judgement: Judgement | null;
  /** What cars of this model have shown in this bay. */
  readonly range: ModelRange | null;
  readonly run: BayRun | null;
  /** Pulls that were made without a job and wait for one. */
  readonly unclaimed: number;
  readonly values: Readonly<Record<string, LiveValue>>;
  readonly instruments: readonly InstrumentStatus[];
  readonly recovery: Recovery;
  /** Samples that wait in memory because nothing can be stored. */
  readonly waiting: number;
  /** Recordings that could not become pulls and wait for a person. */
  readonly quarantined: number;
  readonly recording: { readonly pullId: string; readonly samples: number } | null;
  readonly review: { readonly pullId: string; readonly leftS: number } | null;
}

const RUNNING_OUT_RAD_S = 5;

export interface GateNow {
  readonly rows: readonly GateRow[];
  readonly verdict: GateVerdict;
  readonly waitRangeS: readonly [number, number] | null;
}

/** The gate of the next pull; null without a job or outside a round. */
export function gateOf(moment: BayMoment, before: GateNow | null = null): GateNow | null {
  const { job, run, recovery, atMs } = moment;
  if (!job || !run) return null;
  const card = job.day?.modelCard;
  const sensors = card?.sensors ?? { intake: true, coolant: true, oil: true };
  const progress = roundProgress(job, run.setup, run.round, run.extraSettle);
  const baseline = baselineAt(job, run.setup, run.round, progress.nextPosition);
  const readings = moment.values as LiveReadings;
  const air = readings.airC?.value;
  const own = run.lastPullRound === `${run.setup}#${run.round}`;
  const ended = run.lastPullEndedAt ? (atMs - Date.parse(run.lastPullEndedAt)) / 1000 : null;
  const input: BayGateInput = {
    method: job.method,
    sensors,
    hears: {
      weather: hasA(moment, 'weather') || readings.airC !== undefined,
      car: hasA(moment, 'bus') || COOLING_KEYS.some((key) => readings[key] !== undefined),
    },
    readings,
    baseline,
    sinceLastPullS: own ? ended : null,
    fixedPauseMin: fixedPauseMin(job),
    sinceOtherSetupS: own ? null : ended,
    coolDownS:
      60 * tolerance(job.method, job.vehicle.aspiration === 'supercharged' ? 'coolDownChargedMin' : 'coolDownMin'),
    pairHoldS: secondOfPair(job, run) ? HOLD_S : null,
    forecasts: {},
    settling: progress.nextStatus === 'settle',
    position: progress.nextPosition,
    wasOpen: before?.verdict.state === 'ready',
    setPoints: setPointsOf(job, run.setup),
    rollersSilent: moment.instruments.some((i) => i.kind === 'rollers' && i.state === 'silent'),
  };
  const forecasts = Object.fromEntries(
    COOLING_KEYS.flatMap((key) => {
      const limit = limitOf(input, key);
      return limit === null || air === undefined ? [] : [[key, recovery.forecast(key, air, limit)]];
    }),
  ) as BayGateInput['forecasts'];
  const rows = gateRows({ ...input, forecasts });
  const verdict = gateVerdict(rows, input.rollersSilent);
  const slowest = Object.values(forecasts).find((f) => f.kind === 'forecast' && f.seconds === verdict.waitS);
  return {
    rows,
    verdict,
    waitRangeS: slowest?.kind === 'forecast' ? [slowest.lowSeconds, slowest.highSeconds] : null,
  };
}

function hasA({ instruments }: BayMoment, kind: InstrumentStatus['kind']): boolean {
  return instruments.some((i) => i.kind === kind);
}

/** The hold plan keeps the rounds of a pair 45 to 60 min apart. */
const HOLD_S = [45 * 60, 60 * 60] as const;

function secondOfPair(job: Job, { setup, round, lastPullRound }: BayRun): boolean {
  return job.day?.plan.shape === 'hold' && round % 2 === 0 && lastPullRound === `${setup}#${round - 1}`;
}

/** The temperature that a recovery must fall to. */
function limitOf({ method, baseline, readings }: BayGateInput, key: CoolingKey): number | null {
  if (!baseline) return null;
  const air = readings.airC?.value;
  const wanted =
    key === 'intakeC'
      ? baseline.intakeAboveAirC === null || air === undefined
        ? null
        : baseline.intakeAboveAirC + air
      : key === 'coolantC'
        ? baseline.coolantC
        : baseline.oilC;
  return wanted === null ? null : wanted + tolerance(method, key);
}

export function sheetOf(moment: BayMoment, gate: GateNow | null): LiveSheet {
  const { job, run, judgement, jobRow } = moment;
  const crossed = limitsCrossed(
    job ? armedLimits(job) : [],
    Object.fromEntries(Object.entries(moment.values).map(([k, v]) => [k, v.ageS < 5 ? v.value : undefined])),
  );
  const round = job && run ? roundOf(job, run, judgement, moment.review?.pullId ?? null) : null;
  const missing = job ? pullsMissing(job) : 0;
  const complete = job !== null && run !== null && missing === 0;
  const review = job && run && judgement ? bayReview(job, judgement, run.setup, run.round) : null;
  const findingsOf = (id: string | undefined): readonly PullFinding[] =>
    judgement?.pulls.find((p) => p.id === id)?.findings ?? [];
  const lastFitting = job?.day?.fittings.at(-1);
  // Between rounds nobody is about to pull: nothing is waited for, and nothing is wrong yet.
  const held = run?.phase === 'round' ? gate : null;
  return {
    state: stateOf(moment, gate),
    waitS: held?.verdict.waitS ?? null,
    waitRangeS: held?.waitRangeS ?? null,
    reasons: run?.stop ? [{ kind: 'limit-crossed', crossed: run.stop.crossed }] : (held?.verdict.reasons ?? []),
    rows: gate?.rows ?? [],
    readings: moment.values,
    instruments: moment.instruments,
    atMs: moment.atMs,
    job:
      job && jobRow
        ? {
            ...jobRow,
            number: job.id,
            title: job.title,
            vehicle: job.vehicle.label,
            card: job.day?.modelCard ?? null,
            // What the bay has shown is none of a screen's business while pulls are made.
            rig: { bay: { ...job.bay, prior: null }, vehicle: job.vehicle },
            setups: job.setups.map(({ id, label, returnsTo }) => ({ id, label, returnsTo })),
          }
        : null,
    round,
    recording: moment.recording,
    review: moment.review ? { ...moment.review, findings: findingsOf(moment.review.pullId) } : null,
    waiting: moment.waiting,
    unclaimed: moment.unclaimed,
    quarantined: moment.quarantined,
    repeatabilityPercent: review?.repeatabilityPercent ?? null,
    halfWidths: moment.review ? [] : (review?.halfWidths ?? []),
    planSees: job && !review?.halfWidths.length && !moment.review ? planFloorOf(job) : [],
    settled: review?.settled ?? 'too-few',
    curves: job && run && judgement && !moment.review ? curvesOf(job, run, judgement) : [],
    override: run?.override ? { reason: run.override.reason } : null,
    crossed,
    fitting:
      run?.phase === 'fitting' && lastFitting ? { setup: lastFitting.setup, startedAt: lastFitting.startedAt } : null,
    verdicts: judgement && complete && !moment.review ? verdictsOf(judgement) : [],
    extension: job && judgement && complete && !moment.review ? extensionOf(job, judgement) : null,
    window: judgement?.window ?? null,
    planComplete: complete,
    pullsMissing: missing,
    baseline: job && run && judgement ? baselineOf(moment, job, run, judgement) : null,
    nextSetup: job ? (plannedRoundsLeft(job)[0]?.setup ?? null) : null,
    track: job && run ? bayTrack(job, run, moment.atMs) : null,
    air: airOf(moment),
  };
}

/** Plans whose floor was worked out, by what it hangs on: a sheet is made many times a second. */
const floors = new Map<string, PlanSees[]>();

function planFloorOf(job: Job): PlanSees[] {
  const { question, setups, bay, day, method } = job;
  const key = JSON.stringify([
    question.plan,
    question.measures,
    question.candidateSetups,
    setups,
    bay.prior,
    bay.verdictConstants,
    day?.plan,
    method,
  ]);
  const known = floors.get(key);
  if (known !== undefined) return known;
  const floor = planSees(job);
  if (floors.size >= 20) floors.clear();
  floors.set(key, floor);
  return floor;
}

function stateOf({ run, recording, review, values }: BayMoment, gate: GateNow | null): SheetState {
  if (!run) return 'no-job';
  if (run.stop) return 'stop';
  if (recording) return 'pulling';
  if (review) return 'review';
  if (run.phase === 'fitting' || run.phase === 'between') return run.phase;
  // No pull starts on rollers that still run out from the last one.
  if (gate?.verdict.state === 'ready' && (values.roller_rad_s?.value ?? 0) > RUNNING_OUT_RAD_S) return 'cooling';
  return gate?.verdict.state ?? 'between';
}

/** What a pull only shows beside its peers, where one pull more would help. */
function oddOf(findings: readonly PullFinding[]): OddPull | null {
  const unlike = findings.find((f) => f.code === 'unlike-the-others');
  if (unlike?.parameters.repeat) return { likelyPercent: unlike.parameters.likelyPercent };
  return findings.some((f) => f.code === 'partial-dip') ? { likelyPercent: null } : null;
}

function roundOf(job: Job, run: BayRun, judgement: Judgement | null, inReview: string | null): LiveSheet['round'] {
  const progress = roundProgress(job, run.setup, run.round, run.extraSettle);
  return {
    setup: run.setup,
    label: job.setups.find((s) => s.id === run.setup)?.label ?? run.setup,
    number: run.round,
    pulls: progress.pulls.map((p) => ({
      id: p.id,
      position: p.position,
      status: p.status,
      reason: p.reason,
      marks: p.marks ?? [],
      peakW: p.id === inReview ? null : (judgement?.pulls.find((j) => j.id === p.id)?.peak?.value ?? null),
      odd: p.status === 'counted' ? oddOf(judgement?.pulls.find((j) => j.id === p.id)?.findings ?? []) : null,
    })),
    next: { position: progress.nextPosition, status: progress.nextStatus },
    counted: progress.counted,
    countedSoFar: progress.countedSoFar,
    settle: progress.settle,
    complete: progress.complete,
  };
}

/** The last pull and the baseline's mean; the mean of this round beside them from two counted pulls on. */
function curvesOf(job: Job, run: BayRun, judgement: Judgement): SheetCurve[] {
  const curve = (label: string, setup: string, power: { first: number; values: Float64Array }): SheetCurve[] => {
    if (power.values.length < 2) return [];
    const powerW = Array.from(power.values, (v) => (Number.isFinite(v) ? Math.round(v) : null));
    return [{ label, setup, firstRpm: power.first * 25, powerW }];
  };
  const base = judgement.setups.find((s) => s.setupId === job.question.baselineSetup);
  const last = judgement.pulls.find((p) => p.id === run.lastPullId);
  const side = repeatedSetup(job.setups, run.setup);
  const own = side === job.question.baselineSetup ? null : judgement.setups.find((s) => s.setupId === run.setup);
  return [
    ...(base && base.pulls > 0 ? curve('mean', base.setupId, base.power) : []),
    ...(own && own.pulls > 1 ? curve('mean', own.setupId, own.power) : []),
    ...(last ? curve('last pull', last.setupId, last.power) : []),
  ];
}

/** What a screen needs to put the verdict into words, in whatever units its person reads. */
function verdictsOf(judgement: Judgement): LiveSheet['verdicts'] {
  return judgement.verdicts.map(
    ({
      candidate,
      baseline,
      measure,
      meaningful,
      verdict,
      reason,
      gain,
      smallerThanMatters,
      morePullsNeeded,
      ...v
    }) => ({
      ...{ candidate, baseline, measure, meaningful, verdict, reason, gain, smallerThanMatters, morePullsNeeded },
      suspected: v.suspected,
      blocking: v.conditions.findings.filter((f) => f.severity === 'blocking'),
    }),
  );
}

/** The baseline beside its model, once its round is in; before, a figure of it would be looked at early. */
function baselineOf({ range }: BayMoment, job: Job, run: BayRun, judgement: Judgement): LiveSheet['baseline'] {
  const { baselineSetup } = job.question;
  const inRound = run.phase === 'round' && run.setup === baselineSetup && run.round === 1;
  if (inRound || !roundProgress(job, baselineSetup, 1).complete) return null;
  const standing = baselineStanding(baselinePeakW(job, judgement), range);
  const search = job.day?.searches?.findLast((s) => s.complaint === 'reads-low');
  const looks = search?.looks ?? [];
  const left = standing.stands === 'low' ? suspectsLeft(job.vehicle, { complaint: 'reads-low', looks }) : [];
  return { ...standing, suspect: left[0] ?? null };
}

function airOf({ job, values }: BayMoment): LiveSheet['air'] {
  const air = airNow(values);
  if (!air) return null;
  const correction = job?.method.correction ?? 'sae-j1349';
  const factor = correctionFactor(correction === 'iso-1585-ci' ? 'sae-j1349' : correction, air).factor;
  const density = airDensityKgM3(air);
  const first = job ? pullsInOrder(job.pulls).find((p) => p.pressureHpa !== null && p.airC !== null) : undefined;
  const before = first
    ? airDensityKgM3({
        pressureHpa: first.pressureHpa!,
        airC: first.airC!,
        relativeHumidity: first.relativeHumidity ?? 0.5,
      })
    : null;
  return {
    densityAltitudeM: densityAltitudeM(density),
    factor,
    driftPercent: before === null ? null : 100 * (density / before - 1),
  };
}
