import type { LiveSheet } from '@prandel/core';
import { useQueries } from '@tanstack/react-query';
import { ask } from '../api/client.ts';
import type { BayListed } from '../api/client.ts';

/** A bay and what its run sheet says now; null while it has not answered, or where another process leads it. */
export interface BaySheet {
  readonly bay: BayListed;
  readonly sheet: LiveSheet | null;
}

/** The run sheets of all bays, asked every second: a desk looks on, it does not lead. */
export function useSheets(bays: readonly BayListed[]): BaySheet[] {
  const led = bays.filter((b) => !b.ledElsewhere);
  const answers = useQueries({
    queries: led.map((b) => ({
      queryKey: ['sheet', b.id],
      queryFn: () => ask('get', '/api/bays/{id}/sheet', { params: { path: { id: b.id } } }),
      refetchInterval: 1000,
      staleTime: 0,
    })),
  });
  return bays.map((bay) => ({ bay, sheet: answers[led.indexOf(bay)]?.data ?? null }));
}
