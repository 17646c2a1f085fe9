import { mean } from '../statistics/summary.ts';
import { inEngine, type Endpoint } from './endpoint.ts';
import { answerOf, type Answer } from './engine/answer.ts';
import { aimAt, fit, heatAdjusted, type Aim, type Mixture } from './engine/fit.ts';
import { prepare, type Prepared } from './engine/prepare.ts';
import { bracketsOf, roundKeys, roundsOf, type Bracket, type Round } from './rounds.ts';
import type { Candidate } from './selection.ts';
import { engineOptions, type AnalysisSettings } from './settings.ts';

/** The used pulls of a job on the declared measure: prepared once, fitted once for all candidates. */
export interface MeasuredDay {
  readonly used: readonly Candidate[];
  readonly window: readonly [number, number];
  readonly prepared: Prepared;
  readonly rounds: readonly Round[];
  readonly brackets: readonly Bracket[];
  /** As the engine sees them (`inEngine`), in the order of `used`. */
  readonly values: readonly number[];
  /** Candidates that were pulled, as sides 1…; the three lists below go with it. */
  readonly sides: readonly number[];
  readonly aims: readonly Aim[];
  readonly mixtures: readonly Mixture[];
  readonly answers: readonly Answer[];
  /** What the day says of its noise, which does not depend on the contrast. */
  readonly noise: Mixture;
  /** D: later minus earlier round of the widest bracket, heat-adjusted, in the engine's scale; null without one. */
  readonly drift: number | null;
}

/** One number a side: candidate against baseline. */
export function contrastOf(side: number): number[] {
  return Array.from({ length: side + 1 }, (_, i) => (i === 0 ? -1 : i === side ? 1 : 0));
}

/** @returns null when the baseline has no usable pull, or a pull does not read on the measure */
export function measureDay(
  used: readonly Candidate[],
  window: readonly [number, number],
  settings: AnalysisSettings,
): MeasuredDay | null {
  if (!used.some((c) => c.side === 0)) return null;
  const values = readings(used, window, settings.endpoint);
  if (!values.every(Number.isFinite)) return null;
  const keys = roundKeys(used.map(({ pull, hours }) => ({ setupId: pull.setupId, round: pull.round, hours })));
  const names = [...new Set(keys)];
  const directions = [...new Set(used.map((c) => c.pass?.direction))];
  const rounds = roundsOf(used.map((c, i) => ({ side: c.side!, roundKey: keys[i]!, hours: c.hours })));
  const brackets = bracketsOf(rounds);
  const prepared = prepare(
    used.map((c, i) => ({
      ...{ setup: c.side!, round: names.indexOf(keys[i]!), hours: c.hours, startC: c.startC },
      ...(c.pass ? { block: directions.indexOf(c.pass.direction) } : {}),
    })),
    engineOptions(settings),
  );
  const sides = [...new Set(used.map((c) => c.side!))].filter((side) => side > 0).sort((a, b) => a - b);
  const aims = sides.map((side) => aimAt(prepared, contrastOf(side)));
  const asked = aims.length > 0 ? aims : [aimAt(prepared, [])];
  const fitted = fit(prepared, values, asked, settings.priors.prior);
  const mixtures = aims.length > 0 ? fitted : [];
  return {
    ...{ used, window, prepared, rounds, brackets, values, sides, aims, mixtures, noise: fitted[0]! },
    answers: mixtures.map((m) => answerOf(prepared, m, { confidence: settings.confidence })),
    drift: widestDrift(prepared, values, rounds, brackets),
  };
}

function readings(used: readonly Candidate[], window: readonly [number, number], endpoint: Endpoint): number[] {
  return used.map((c) => inEngine(endpoint, endpoint.read(c, window)));
}

/** The same pulls with other curves: how each candidate would read. Null where a pull does not read on the measure. */
export function answersWith(
  day: MeasuredDay,
  curves: readonly Candidate[],
  settings: AnalysisSettings,
): Answer[] | null {
  const values = readings(curves, day.window, settings.endpoint);
  if (!values.every(Number.isFinite)) return null;
  const mixtures = fit(day.prepared, values, day.aims, settings.priors.prior);
  return mixtures.map((m) => answerOf(day.prepared, m, { confidence: settings.confidence }));
}

function widestDrift(
  prepared: Prepared,
  values: readonly number[],
  rounds: readonly Round[],
  brackets: readonly Bracket[],
): number | null {
  const z = heatAdjusted(prepared, values);
  const level = (round: number) => mean(rounds[round]!.members.map((i) => z[i]!));
  return brackets
    .map(({ earlier, later }) => level(later) - level(earlier))
    .reduce<number | null>((widest, d) => (widest === null || Math.abs(d) > Math.abs(widest) ? d : widest), null);
}
