import { USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import { useInfiniteQuery, useMutation, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { ask, queries, type Schemas } from './client.ts';

export function useSession() {
  return useQuery({
    queryKey: ['session'],
    queryFn: () => ask('get', '/api/session'),
    retry: false,
    staleTime: 60_000,
  });
}

export function useUnits(): ShownUnits {
  const chosen = useSession().data?.units as Partial<ShownUnits> | undefined;
  // The same object as long as they are the same: pictures are drawn anew for other units.
  return useMemo(() => ({ ...USUAL_UNITS, ...chosen }), [chosen]);
}

export function useJob(id: string) {
  return useQuery({ queryKey: ['job', id], queryFn: () => ask('get', '/api/jobs/{id}', { params: { path: { id } } }) });
}

/** Since when the job of a page is sealed; null: it is open, or the page is of none. */
export function useSealedAt(id: string | null): string | null {
  const { data } = useQuery({
    queryKey: ['job', id],
    queryFn: () => ask('get', '/api/jobs/{id}', { params: { path: { id: id! } } }),
    enabled: id !== null,
  });
  return data?.sealedAt ?? null;
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

/** The bays of the shop; those with rollers to hear come before those that only remember. */
export function useBays() {
  return useQuery({
    queryKey: ['bays'],
    queryFn: () => ask('get', '/api/bays'),
    refetchInterval: 3000,
    select: (bays) => [...bays].sort((a, b) => Number(!a.instruments.rollers) - Number(!b.instruments.rollers)),
  });
}

/** Records of a kind by name, a page at a time; `q` keeps those that hold words beginning so. */
export function useRecords(kind: Schemas['RecordRow']['kind'], q: string) {
  return useInfiniteQuery({
    queryKey: ['records', kind, 'list', q],
    initialPageParam: '',
    placeholderData: (before, query) => (query?.queryKey[1] === kind ? before : undefined),
    getNextPageParam: (page: Schemas['RecordPage']) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      ask('get', '/api/records', {
        params: { query: { kind, ...(q ? { q } : {}), ...(pageParam ? { after: pageParam } : {}) } },
      }),
  });
}
