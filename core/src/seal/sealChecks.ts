/** What one check of a package or a report is about. */
export type CheckCode =
  | 'no-seal'
  | 'signature'
  | 'resources'
  | 'resource-changed'
  | 'resource-missing'
  | 'resource-added'
  | 'no-log'
  | 'log-chain'
  | 'log-head'
  | 'pulls'
  | 'pull-samples'
  | 'pull-facts'
  | 'pull-missing'
  | 'pull-unlogged'
  | 'verdicts'
  | 'verdict-differs'
  | 'verdicts-elsewhere'
  | 'report'
  | 'report-elsewhere';

/** One check: it holds, it does not, or it says something that neither proves nor breaks anything. */
export interface SealCheck {
  readonly code: CheckCode;
  readonly state: 'holds' | 'fails' | 'noted';
  readonly parameters: Readonly<Record<string, string | number>>;
}

export const holds = (code: CheckCode, parameters: SealCheck['parameters'] = {}): SealCheck => ({
  ...{ code, parameters },
  state: 'holds',
});

export const fails = (code: CheckCode, parameters: SealCheck['parameters'] = {}): SealCheck => ({
  ...{ code, parameters },
  state: 'fails',
});

export const noted = (code: CheckCode, parameters: SealCheck['parameters'] = {}): SealCheck => ({
  ...{ code, parameters },
  state: 'noted',
});
