import type { AbortLimit } from './dayPapers.ts';

export interface LimitCrossed {
  readonly limit: AbortLimit;
  readonly value: number;
  readonly level: 'warn' | 'stop';
}

/** The limits that the latest readings cross, stops first. A channel without a reading crosses nothing. */
export function limitsCrossed(
  limits: readonly AbortLimit[],
  latest: Readonly<Record<string, number | undefined>>,
): LimitCrossed[] {
  const crossed: LimitCrossed[] = [];
  for (const limit of limits) {
    const value = latest[limit.channel];
    if (value === undefined || !Number.isFinite(value)) continue;
    const beyond = (edge: number) => (limit.side === 'above' ? value >= edge : value <= edge);
    if (beyond(limit.stop)) crossed.push({ limit, value, level: 'stop' });
    else if (limit.warn !== null && beyond(limit.warn)) crossed.push({ limit, value, level: 'warn' });
  }
  return crossed.sort((a, b) => (a.level === b.level ? 0 : a.level === 'stop' ? -1 : 1));
}
