import { useMutation, useQuery } from '@tanstack/react-query';
import { ask, queries } from '../../api/client.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Notice } from '../../parts/Field.tsx';

function refresh() {
  return Promise.all([
    queries.invalidateQueries({ queryKey: ['bays'] }),
    queries.invalidateQueries({ queryKey: ['deleted-bays'] }),
  ]);
}

/** Takes a bay out of use, asked for in place. */
export function DeleteBay({ id, label }: { id: string; label: string }) {
  const remove = useMutation({
    mutationFn: () => ask('delete', '/api/bays/{id}', { params: { path: { id } } }),
    onSettled: refresh,
  });
  return (
    <>
      <AskInPlace
        label={`Delete ${label}`}
        question={`Delete ${label}? Its days stay; it can be brought back for thirty days.`}
        yes="Delete it"
        busy={remove.isPending}
        onYes={() => remove.mutate()}
      >
        Delete
      </AskInPlace>
      {remove.error && <span className="text-act">{remove.error.message}</span>}
    </>
  );
}

/** Bays that were deleted within the last thirty days. */
export function DeletedBays() {
  const deleted = useQuery({
    queryKey: ['deleted-bays'],
    queryFn: () => ask('get', '/api/bays/deleted'),
  });
  const back = useMutation({
    mutationFn: (id: string) => ask('post', '/api/bays/{id}/restore', { params: { path: { id } } }),
    onSettled: refresh,
  });
  if (!deleted.data || deleted.data.length === 0) return null;
  return (
    <section className="sheet card" aria-label="Deleted bays">
      {back.error && <Notice kind="bad">{back.error.message}</Notice>}
      {deleted.data.map((bay) => (
        <div key={bay.id} className="flex items-center gap-3 py-1">
          <span className="grow">
            {bay.label}{' '}
            <span className="text-ink-3">deleted {new Date(bay.deletedAt).toLocaleDateString('en-GB')}</span>
          </span>
          <button className="btn sm" disabled={back.isPending} onClick={() => back.mutate(bay.id)}>
            Bring it back
          </button>
        </div>
      ))}
    </section>
  );
}
