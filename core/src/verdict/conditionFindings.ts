import type { NoParameters, Severity } from '../pull/findings.ts';
import type { ConditionRow } from './conditions.ts';
import type { StateRow } from './states.ts';

/** Engine speeds in rpm from, to. */
export type Stretch = readonly [number, number];

/** What each finding on a pair of setups carries: differences in °C or per cent, places in the round, minutes. */
export interface ConditionFindingParameters {
  /** Pulls that would count and do not read on the measure; names. */
  readonly 'not-read': { readonly pulls: readonly string[]; readonly of: number };
  /** Roll-ons that never met the target within their recording: their side has no time. Null where there is no target. */
  readonly 'target-not-reached': {
    readonly pulls: readonly string[];
    readonly recordedS: number;
    readonly targetNm: number | null;
  };
  /** Passes on the road in a direction in which the baseline was not driven: they compare with nothing. */
  readonly 'direction-alone': { readonly passes: readonly string[]; readonly directions: readonly string[] };
  /** All passes went one way. */
  readonly 'one-direction': { readonly direction: string };
  /** Fewer passes of a setup in a direction than are needed. */
  readonly 'few-passes': { readonly needed: number };
  /** A channel never changes in these pulls. */
  readonly 'channel-constant': { readonly channel: string; readonly pulls: readonly string[] };
  /** A channel reads what its unit cannot hold. */
  readonly 'channel-implausible': { readonly channel: string; readonly value: number };
  /** A channel steps in whole units, coarser than what would matter. */
  readonly 'channel-coarse': { readonly channel: string; readonly step: number };
  /** A measured condition differs by so much (°C, or per cent of the correction factor); beyond `blockingAt` nothing is compared. */
  readonly 'condition-differs': {
    readonly condition: ConditionRow['key'];
    readonly difference: number;
    readonly unit: '°C' | '%';
    readonly blockingAt: number | null;
  };
  /** The return check differs from the first round by so many per cent. */
  readonly 'drifted-too-far': { readonly percent: number };
  readonly 'state-differs': {
    readonly state: StateRow['key'];
    readonly baseline: string;
    readonly candidate: string;
  };
  readonly 'state-on-one-side': { readonly state: StateRow['key'] };
  readonly 'weather-one-side': NoParameters;
  readonly 'no-weather': NoParameters;
  readonly 'unknown-numbers': NoParameters;
  readonly 'unknown-one-side': NoParameters;
  readonly 'settle-one-side': NoParameters;
  readonly 'settle-counts': NoParameters;
  /** Share of the declared window that the pulls have in common. */
  readonly window: { readonly sharedPercent: number };
  readonly 'no-times': NoParameters;
  /** No place in the round has pulls of both setups. */
  readonly 'place-crossed': PlacesInRound;
  readonly 'places-differ': PlacesInRound;
  /** Rise of the intake air from pull to pull, °C. */
  readonly rise: { readonly baselineC: number; readonly candidateC: number };
  readonly night: NoParameters;
  readonly 'no-window': { readonly takenRpm: Stretch };
  readonly 'no-start-temperature': NoParameters;
  readonly 'meant-to-cool': NoParameters;
  readonly 'absolute-start': NoParameters;
  readonly humidity: NoParameters;
  readonly 'no-loss': NoParameters;
  readonly 'no-return': NoParameters;
  /** So many return checks and reference rounds are known of this bay, fewer than are needed. */
  readonly 'drift-not-known': { readonly known: number; readonly needed: number };
  /** The day's weight, per cent, on the bay not being itself. */
  readonly 'unlike-this-bay': { readonly percent: number };
  readonly 'undeclared-extension': NoParameters;
  readonly 'cut-short': NoParameters;
  readonly 'outside-validity': NoParameters;
  readonly 'no-engine-data': NoParameters;
  readonly 'closed-course': NoParameters;
  /** The peak reads so many per cent higher although power was lost over these stretches. */
  readonly 'peak-hides-loss': { readonly percent: number; readonly lostRpm: readonly Stretch[] };
  readonly 'gain-beside-peak': { readonly percent: number };
}

/** Places in the round, from 1, at which pulls were counted. */
export interface PlacesInRound {
  readonly baselinePlaces: readonly number[];
  readonly candidatePlaces: readonly number[];
}

export type ConditionFindingCode = keyof ConditionFindingParameters;

/** What was noticed about a pair of setups. A blocking one makes the pair not comparable. */
export type ConditionFinding = {
  readonly [Code in ConditionFindingCode]: {
    readonly code: Code;
    readonly severity: Severity;
    readonly parameters: ConditionFindingParameters[Code];
  };
}[ConditionFindingCode];

/**
 * A finding on a pair of setups.
 * @example conditionFinding('rise', 'warning', { baselineC: 1, candidateC: 3 }).code // 'rise'
 */
export function conditionFinding<Code extends ConditionFindingCode>(
  code: Code,
  severity: Severity,
  parameters: ConditionFindingParameters[Code],
): ConditionFinding {
  return { code, severity, parameters } as ConditionFinding;
}
