/**
 * What this process does: `bays` keeps the bays, `pages` answers everything else and hands requests about bays on, `all` does both
 * in one. The launcher starts one of each of the first two, so that no upload, report or list can stall a bay.
 */
export type ProcessKind = 'all' | 'bays' | 'pages';

export function processKind(): ProcessKind {
  const kind = process.env.PRANDEL_PROCESS ?? 'all';
  if (kind === 'all' || kind === 'bays' || kind === 'pages') return kind;
  throw new Error(`PRANDEL_PROCESS is "${kind}"; it is one of all, bays, pages.`);
}
