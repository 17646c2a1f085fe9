import type { Bay, InstrumentStatus } from '@prandel/core';
import { USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import { useInfiniteQuery, useMutation, useQuery } from '@tanstack/react-query';
import { ask, queries, type Schemas, type StoredJob } from './client.ts';

export function useSession() {
  return useQuery({
    queryKey: ['session'],
    queryFn: () => ask<Schemas['SignedIn']>('GET', '/session'),
    retry: false,
    staleTime: 60_000,
  });
}

export function useUnits(): ShownUnits {
  const { data } = useSession();
  return { ...USUAL_UNITS, ...(data?.units as Partial<ShownUnits> | undefined) };
}

export function useJob(id: string) {
  return useQuery({ queryKey: ['job', id], queryFn: () => ask<StoredJob>('GET', `/jobs/${id}`) });
}

/** Changes something of a job and reads it again, also when somebody else was quicker. */
export function useJobChange<T>(id: string, change: (value: T) => Promise<unknown>) {
  return useMutation({
    mutationFn: change,
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ['job', id] }),
        queries.invalidateQueries({ queryKey: ['jobs'] }),
        queries.invalidateQueries({ queryKey: ['log', id] }),
      ]),
  });
}

/** A bay as the list of bays tells it. */
export interface BayListed {
  readonly id: string;
  readonly label: string;
  readonly version: number;
  readonly rollers: Bay;
  readonly instruments: Readonly<Record<InstrumentStatus['kind'], { host: string; port: number } | null>> & {
    readonly registers: Schemas['RegisterMapDto'];
  };
  readonly status: readonly InstrumentStatus[];
  readonly job: string | null;
  /** Why it records nothing, in words; null: it records. */
  readonly fault: string | null;
  /** Another server process on the same database leads it. */
  readonly ledElsewhere: boolean;
}

/** The shop's bays with their device panels, read again every few seconds. */
export function useBays() {
  return useQuery({ queryKey: ['bays'], queryFn: () => ask<BayListed[]>('GET', '/bays'), refetchInterval: 3000 });
}

/** Records of a kind by name, a page at a time; `q` keeps those that hold words beginning so. */
export function useRecords(kind: Schemas['RecordRow']['kind'], q: string) {
  return useInfiniteQuery({
    queryKey: ['records', kind, 'list', q],
    initialPageParam: '',
    placeholderData: (before, query) => (query?.queryKey[1] === kind ? before : undefined),
    getNextPageParam: (page: Schemas['RecordPage']) => page.next ?? undefined,
    queryFn: ({ pageParam }) => {
      const asked = new URLSearchParams({ kind, ...(q ? { q } : {}), ...(pageParam ? { after: pageParam } : {}) });
      return ask<Schemas['RecordPage']>('GET', `/records?${asked.toString()}`);
    },
  });
}
