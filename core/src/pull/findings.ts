import type { OutsideValidity } from '../correction/standards.ts';

/** How much a finding weighs: worth knowing, to be looked at, or enough to keep what it was found on out of the comparison. */
export type Severity = 'info' | 'warning' | 'blocking';

/** Nothing to say beyond the code. */
export type NoParameters = Readonly<Record<string, never>>;

/** What keeps a pull from having a power curve. */
export type WithoutPower = 'no-engine-speed' | 'no-time' | 'no-inertia' | 'nothing-recorded';

/** What each finding on a pull carries: engine speeds in rpm, shares in per cent, minutes. */
export interface PullFindingParameters {
  /** Samples left out because engine speed was missing or impossible. */
  readonly 'rpm-dropout': { readonly samples: number };
  /** The ratio between engine and roller steps, torque climbs at the end, or torque leaves its course before the end. */
  readonly shift: { readonly sign: 'ratio-steps' | 'torque-climbs' | 'torque-leaves' };
  /** The engine runs ahead of the roller by up to so many per cent. */
  readonly slip: { readonly percent: number };
  readonly spike: NoParameters;
  /** Torque jumps here in every pull of the setup. */
  readonly feature: NoParameters;
  readonly lift: NoParameters;
  /** Share of the declared window that the pull covers, and that window. */
  readonly 'cut-short': { readonly coveredPercent: number; readonly windowRpm: readonly [number, number] };
  readonly 'peak-not-reached': NoParameters;
  readonly 'no-power': { readonly why: WithoutPower | 'no-usable-curve' };
  readonly 'no-loss-data': NoParameters;
  readonly 'numbers-disagree': NoParameters;
  readonly implausible: NoParameters;
  /** How deep the dip is, and where. */
  readonly 'partial-dip': { readonly percent: number; readonly atRpm: number };
  /** The day reads as if the pull were not like the others: how likely, per cent, and whether a repeat would help. */
  readonly 'unlike-the-others': { readonly likelyPercent: number; readonly repeat: boolean };
  readonly 'no-weather': NoParameters;
  /** Quantities of the air that lie outside the standard's stated validity. */
  readonly 'outside-validity': { readonly quantities: readonly OutsideValidity[] };
  /** Boost fell by so many per cent and climbed again. */
  readonly hunting: { readonly percent: number };
  /** The throttle closed by so many per cent and opened again. */
  readonly 'throttle-closes': { readonly percent: number };
  /** Minutes before this pull, and before its peers. */
  readonly 'long-pause': { readonly minutes: number; readonly usualMinutes: number };
  readonly 'first-after-change': NoParameters;
  /** A stretch without samples, or a mean over the window that is no positive number. */
  readonly hole: { readonly where: 'stretch' | 'window-mean' };
  /** Engine speed moved in the half second before a roll-on. */
  readonly 'unsteady-before': NoParameters;
  /** A roll-on in which no throttle and no torque steps up. */
  readonly 'no-throttle-step': NoParameters;
  /** Name of the pull that has the same samples. */
  readonly 'repeated-samples': { readonly twin: string };
}

export type PullFindingCode = keyof PullFindingParameters;

/** What the core noticed about a pull: a code with its parameters, and the engine speeds it concerns. */
export type PullFinding = {
  readonly [Code in PullFindingCode]: {
    readonly code: Code;
    readonly severity: Severity;
    readonly parameters: PullFindingParameters[Code];
    readonly fromRpm: number | null;
    readonly toRpm: number | null;
  };
}[PullFindingCode];

/**
 * A finding on a pull.
 * @param fromRpm where it begins, rpm; null where it concerns the whole pull
 * @example finding('spike', 'warning', {}, 4000, 4100).code // 'spike'
 */
export function finding<Code extends PullFindingCode>(
  code: Code,
  severity: Severity,
  parameters: PullFindingParameters[Code],
  fromRpm: number | null = null,
  toRpm: number | null = null,
): PullFinding {
  return { code, severity, parameters, fromRpm, toRpm } as PullFinding;
}
