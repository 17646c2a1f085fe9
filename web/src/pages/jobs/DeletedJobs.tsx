import { useMutation, useQuery } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { ask, queries } from '../../api/client.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Notice } from '../../parts/Field.tsx';

function refresh() {
  return Promise.all([
    queries.invalidateQueries({ queryKey: ['jobs'] }),
    queries.invalidateQueries({ queryKey: ['deleted-jobs'] }),
  ]);
}

/** Deletes a job, asked for in place; it can be brought back for thirty days. */
export function DeleteJob({ id }: { id: string }) {
  const remove = useMutation({
    mutationFn: () => ask('delete', '/api/jobs/{id}', { params: { path: { id } } }),
    onSettled: refresh,
  });
  return (
    // Above the link that covers the row.
    <div className="relative z-10 flex max-w-[300px] items-center justify-end">
      <AskInPlace
        label="Delete the job"
        question="Delete it? It can be brought back for thirty days."
        yes="Delete it"
        busy={remove.isPending}
        onYes={() => remove.mutate()}
      >
        <Trash2 size={14} aria-hidden />
      </AskInPlace>
      {remove.error && <span className="text-act ml-2">{remove.error.message}</span>}
    </div>
  );
}

/** Jobs that were deleted within the last thirty days, to be brought back. */
export function DeletedJobs() {
  const deleted = useQuery({
    queryKey: ['deleted-jobs'],
    queryFn: () => ask('get', '/api/jobs/deleted'),
  });
  const back = useMutation({
    mutationFn: (id: string) => ask('post', '/api/jobs/{id}/restore', { params: { path: { id } } }),
    onSettled: refresh,
  });
  if (!deleted.data || deleted.data.length === 0) return null;
  return (
    <details className="sheet card">
      <summary className="cursor-pointer font-[620]">
        {deleted.data.length === 1 ? 'One deleted job' : `${deleted.data.length} deleted jobs`}, kept for thirty days
      </summary>
      {back.error && <Notice kind="bad">{back.error.message}</Notice>}
      <ul className="divide-rule mt-2 divide-y">
        {deleted.data.map((job) => (
          <li key={job.id} className="flex flex-wrap items-center gap-3 py-2">
            <span className="min-w-0 grow">
              {job.title}{' '}
              <span className="text-ink-2">
                · {job.vehicle} · {job.number}
              </span>
              <span className="text-ink-3"> · deleted {new Date(job.deletedAt).toLocaleDateString('en-GB')}</span>
            </span>
            <button className="btn sm" disabled={back.isPending} onClick={() => back.mutate(job.id)}>
              Bring it back
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}
