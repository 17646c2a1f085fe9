import type { Job } from '../job/job.ts';
import { isOfRoad } from '../measures/declaredMeasure.ts';
import { isCurved } from '../measures/measureFacts.ts';
import { channelFindings, unreadFindings } from './channelNotes.ts';
import { conditionFinding, type ConditionFinding } from './conditionFindings.ts';
import { gates, type GateInput } from './conditions.ts';
import { unevenRounds, type RoundPull } from './evenRounds.ts';
import type { Measured } from './measured.ts';
import type { MeasuredDay } from './measuredDay.ts';
import { notesOn } from './notes.ts';
import type { CandidateVerdict } from './outcome.ts';
import { truePercent } from './percent.ts';
import type { Candidate, Selection } from './selection.ts';
import type { AnalysisSettings } from './settings.ts';

interface Pair extends Measured {
  readonly job: Job;
  readonly candidate: string;
  readonly side: number;
}

/** Whether baseline and one candidate can be compared on a measure: rows of measured conditions, states, and what is found. */
export function pairConditions(input: Pair): Omit<CandidateVerdict['conditions'], 'comparable'> {
  const { selection, settings, day, side } = input;
  const { rows, state, findings } = gates(gateInput(input));
  if (isOfRoad(settings.endpoint.measure.id))
    return {
      state,
      // Nothing was measured of the car before a pass.
      rows: rows.filter(({ key, baseline }) => key === 'air' && baseline !== null),
      findings: [...findings.filter(({ code }) => code !== 'no-times'), ...roadNotes(input), ...notesOn(input, day)],
    };
  const even = unevenRounds(
    selection.all.map((c) => roundPull(c, selection.used.includes(c))),
    side,
    { timesKnown: selection.timesKnown, meantToChange: settings.heat === 'meant-to-change' },
  );
  return {
    ...{ rows, state },
    findings: [...findings, ...even, ...notesOn(input, day), ...unreadFindings(input), ...channelFindings(input)],
  };
}

/** A pull with its place in its round. */
export function roundPull(c: Candidate, used: boolean): RoundPull {
  const { setupId, round, position, status } = c.pull;
  return { setupId, round, position, status, side: c.side, used, hours: c.hours, startC: c.startC };
}

/** At least so many passes per setup and direction. */
const LEAST_PASSES = 2;

/** What the passes of a pair leave open. */
function roadNotes({ selection, side }: Pair): ConditionFinding[] {
  const own = (c: Candidate) => c.side === 0 || c.side === side;
  const used = selection.used.filter(own);
  const apart = selection.all.filter((c) => own(c) && !used.includes(c));
  const directions = [...new Set(used.map((c) => c.pass!.direction))];
  const counts = [0, side].flatMap((s) =>
    directions.map((d) => used.filter((c) => c.side === s && c.pass!.direction === d).length),
  );
  return [
    ...(apart.length > 0
      ? [
          conditionFinding('direction-alone', 'warning', {
            ...{ passes: apart.map(({ name }) => name), directions: [...new Set(apart.map((c) => c.pass!.direction))] },
          }),
        ]
      : []),
    ...(directions.length === 1 ? [conditionFinding('one-direction', 'warning', { direction: directions[0]! })] : []),
    ...(used.length > 0 && counts.some((n) => n < LEAST_PASSES)
      ? [conditionFinding('few-passes', 'warning', { needed: LEAST_PASSES })]
      : []),
  ];
}

/** Later minus earlier round of the widest bracket, true per cent; of what is no power there is no per cent. */
function driftOf(day: MeasuredDay | null, { endpoint }: AnalysisSettings): number | null {
  return day === null || day.drift === null || !isCurved(endpoint) ? null : truePercent(endpoint.factor * day.drift);
}

function gateInput({ job, selection, settings, day, candidate, side }: Pair): GateInput {
  const counted = selection.all.filter((c) => c.pull.status === 'counted' && (c.side === 0 || c.side === side));
  const pool = selection.used.filter((c) => c.side === 0 || c.side === side);
  const both = [0, side].every((s) => pool.some((c) => c.side === s));
  return {
    // Seconds on the road are not corrected for the weather.
    job: isOfRoad(settings.endpoint.measure.id) ? { ...job, method: { ...job.method, correction: 'none' } } : job,
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
    meantToChange:
      job.question.partChangesIntakeTemperature || ['temperature', 'fade'].includes(settings.endpoint.quantity),
    drift: driftOf(day, settings),
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
