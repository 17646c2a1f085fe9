import { comparePlans, leaveOut, type Job, type PlannedDay, type PlanRequest } from '@prandel/core';
import { useEffect, useMemo, useState } from 'react';
import { askAside } from '../../judging/judge.ts';
import type { ComparedPlans } from '../../judging/judge.worker.ts';

export interface Plans extends ComparedPlans {
  /** A newer request is being worked out; what is shown is of the one before. */
  readonly busy: boolean;
  readonly plans: readonly PlannedDay[];
}

/** Up to so many candidates are worked out at once; more of them in the page's worker. */
const AT_ONCE = 2;

/**
 * The plans for a request.
 * @param matters per cent that would matter in the scale of mean power; null where nothing asked has a per cent
 * @returns null until the first are there
 */
export function usePlans(job: Job, request: PlanRequest, matters: number | null): Plans | null {
  const few = request.candidates.length <= AT_ONCE;
  const now = useMemo((): ComparedPlans | null => {
    if (!few) return null;
    const plans = comparePlans(request);
    const enough = matters === null || request.candidates.length < 2 || plans.some((p) => p.findsPercent <= matters);
    return { plans, left: enough ? [] : leaveOut(matters, request) };
  }, [few, request, matters]);
  const [later, setLater] = useState<{ readonly of: PlanRequest; readonly answer: ComparedPlans } | null>(null);
  useEffect(() => {
    if (few) return;
    let wanted = true;
    void askAside<'plans'>('', job, { kind: 'plans', request, matters }).then(
      (answer) => wanted && setLater({ of: request, answer }),
    );
    return () => {
      wanted = false;
    };
  }, [few, job, request, matters]);
  if (now) return { ...now, busy: false };
  return later && { ...later.answer, busy: later.of !== request };
}
