import { pullsMissing, type Job } from '@prandel/core';
import { Notice } from './Field.tsx';

/** A look before the planned pulls are in, or after pulls that nobody declared: the interval then promises too much. */
export function EarlyLook({ job }: { job: Job }) {
  if (job.question.plan.length === 0 || !job.pulls.some((p) => p.status === 'counted')) return null;
  const missing = pullsMissing(job);
  if (missing === 0) return null;
  return (
    <Notice>
      An early look: {missing} of the planned counted pulls {missing === 1 ? 'is' : 'are'} not in yet. Who looks after
      every pull and stops when it pleases claims a gain that is not there far more often than stated.
    </Notice>
  );
}
