import { useEffect, useRef } from 'react';
import { useSearchParams } from 'react-router';
import { VERDICTS, type Verdict } from '@prandel/core';
import type { Schemas } from '../../api/client.ts';
import type { paths } from '../../api/generated/schema.ts';

const PARTS = ['q', 'verdict', 'bay', 'from', 'until'] as const;
type Search = Record<(typeof PARTS)[number], string>;
/** Typing goes on for a moment before the server is asked. */
const PAUSE_MS = 200;

/** Columns a list of jobs can be ordered by, and whether the largest usually comes first. */
export const USUALLY_FALLING: Readonly<Record<Schemas['JobSort'], boolean>> = {
  ...{ updated: true, opened: true },
  ...{ title: false, vehicle: false, verdict: false, number: true },
};

export interface JobOrder {
  readonly sort: Schemas['JobSort'];
  readonly direction: 'rising' | 'falling';
}

/** What the server is asked. */
type JobQuery = NonNullable<paths['/api/jobs']['get']['parameters']['query']>;

const isVerdict = (text: string): text is Verdict => (VERDICTS as readonly string[]).includes(text);

const DAY_MS = 86_400_000;
/** The instant at which a day of this place begins, `later` days on; null for what is no day. */
function beginOf(day: string, later = 0): string | null {
  const at = new Date(`${day}T00:00:00`);
  return Number.isNaN(at.getTime()) ? null : new Date(at.getTime() + later * DAY_MS).toISOString();
}

/** The order that an address asks for; without a direction the column's usual one. */
export function orderOf(sort: string, direction: string | null): JobOrder {
  if (!(sort in USUALLY_FALLING)) return { sort: 'updated', direction: 'falling' };
  const own = sort as JobOrder['sort'];
  const falling = direction === 'rising' || direction === 'falling' ? direction === 'falling' : USUALLY_FALLING[own];
  return { sort: own, direction: falling ? 'falling' : 'rising' };
}

/** What the list of jobs is narrowed to and ordered by. It stands in the address: a link and the way back keep it. */
export function useJobSearch() {
  const [params, setParams] = useSearchParams();
  const timer = useRef(0);
  useEffect(() => () => clearTimeout(timer.current), []);
  const wanted = Object.fromEntries(PARTS.map((part) => [part, params.get(part) ?? ''])) as Search;
  const put = (change: Readonly<Record<string, string>>) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        for (const [part, value] of Object.entries(change)) {
          if (value.trim()) next.set(part, value);
          else next.delete(part);
        }
        return next;
      },
      { replace: true },
    );
  const narrow = (change: Partial<Search>) => {
    clearTimeout(timer.current);
    if (change.q === undefined) put(change);
    else timer.current = window.setTimeout(put, PAUSE_MS, change);
  };
  const order = orderOf(params.get('sort') ?? '', params.get('direction'));
  const { q, verdict, bay } = wanted;
  const [since, before] = [wanted.from && beginOf(wanted.from), wanted.until && beginOf(wanted.until, 1)];
  const narrowed: JobQuery = {
    ...(q ? { q } : {}),
    ...(isVerdict(verdict) ? { verdict } : {}),
    ...(bay ? { bay } : {}),
    ...(since ? { from: since } : {}),
    ...(before ? { before } : {}),
  };
  const isUsual = order.sort === 'updated' && order.direction === 'falling';
  return {
    ...{ wanted, narrow, order },
    orderBy: (next: JobOrder) => put({ ...next }),
    isNarrowed: Object.keys(narrowed).length > 0,
    search: { ...narrowed, ...(isUsual ? {} : order) } satisfies JobQuery,
  };
}
