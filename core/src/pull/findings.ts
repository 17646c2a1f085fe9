/** What the core noticed about a pull, in words a technician can act on. */
export interface PullFinding {
  readonly code:
    | 'rpm-dropout'
    | 'shift'
    | 'slip'
    | 'spike'
    | 'feature'
    | 'lift'
    | 'cut-short'
    | 'peak-not-reached'
    | 'no-power'
    | 'no-loss-data'
    | 'numbers-disagree'
    | 'implausible'
    | 'partial-dip'
    | 'odd-whole'
    | 'no-weather'
    | 'outside-validity'
    | 'hunting'
    | 'throttle-closes'
    | 'long-pause'
    | 'first-after-change'
    | 'hole'
    | 'repeated-samples';
  readonly severity: 'info' | 'warning' | 'blocking';
  readonly fromRpm: number | null;
  readonly toRpm: number | null;
  readonly text: string;
}

export function finding(
  code: PullFinding['code'],
  severity: PullFinding['severity'],
  text: string,
  fromRpm: number | null = null,
  toRpm: number | null = null,
): PullFinding {
  return { code, severity, fromRpm, toRpm, text };
}
