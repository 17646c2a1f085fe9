import { useQuery } from '@tanstack/react-query';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';

/** The searches of a job, and what changes them. */
export function useSearches(job: string) {
  const path = { path: { id: job } };
  const list = useQuery({
    queryKey: ['searches', job],
    queryFn: () => ask('get', '/api/jobs/{id}/searches', { params: path }),
    refetchInterval: 5000,
  });
  const again = () => queries.invalidateQueries({ queryKey: ['searches', job] });
  const open = useJobChange<Schemas['NewSearch']>(job, (body) =>
    ask('post', '/api/jobs/{id}/searches', { params: path, body }).finally(again),
  );
  const look = useJobChange<Schemas['NewLook']>(job, (body) =>
    ask('post', '/api/jobs/{id}/searches/looks', { params: path, body }).finally(again),
  );
  const close = useJobChange<void>(job, () =>
    ask('post', '/api/jobs/{id}/searches/close', { params: path }).finally(again),
  );
  return { searches: list.data ?? [], open, look, close, wrong: open.error ?? look.error ?? close.error };
}
