import { mediansOf, newJob, planDay, planRequestOf } from '@prandel/core';
import { plain } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { ask } from '../../api/client.ts';
import { For } from '../../parts/May.tsx';
import { CommissioningDay } from '../bays/CommissioningDay.tsx';

/** What knowing the bay is worth: how much narrower the next verdict became by its commissioning day, reference rounds and jobs. */
export function KnownBay({ bay, label }: { bay: string; label: string }) {
  const learned = useQuery({
    queryKey: ['bay-history', bay],
    queryFn: () => ask('get', '/api/bays/{id}/history', { params: { path: { id: bay } } }),
  });
  const prior = learned.data?.prior ?? null;
  const sees = useMemo(() => {
    const request = planRequestOf({ ...newJob('', ''), setups: [] });
    const of = (own: typeof prior) => planDay('return', { ...request, candidates: ['B'], prior: own }).seesFromPercent;
    return { usual: of(null), now: of(prior) };
  }, [prior]);
  if (!prior) return null;
  const { scatter, mount, drift } = mediansOf(prior);
  const gained = 100 * (1 - sees.now / sees.usual);
  return (
    <section className="sheet card grid gap-2" aria-label="What knowing the bay is worth">
      <h2>What knowing the bay is worth</h2>
      <p className="text-[15px]">
        A usual day (three pulls before, three after, a return check) sees from <b>±{plain(sees.now, 2)} %</b>
        {prior.learned.power ? (
          <>
            ; in a bay that nobody knows it would be ±{plain(sees.usual, 2)} %.{' '}
            <b>
              {Math.abs(gained) < 1
                ? 'The bay is about as any other.'
                : gained > 0
                  ? `The next verdict is ${Math.round(gained)} % narrower.`
                  : `The next verdict is ${Math.round(-gained)} % wider: this bay is less steady than most.`}
            </b>
          </>
        ) : (
          <>, as in any bay: {prior.jobs} of 5 jobs are in.</>
        )}
      </p>
      <p className="text-ink-2">
        Pulls repeat within {plain(scatter, 2)} %, rounds within {plain(mount, 2)} %, the day drifts by{' '}
        {plain(drift, 2)} % an hour; from {prior.jobs} {prior.jobs === 1 ? 'job' : 'jobs'} with {prior.returnChecks}{' '}
        returns since the last calibration.
      </p>
      <For role="technician">
        <CommissioningDay label={label} />
      </For>
    </section>
  );
}
