import { fixedPauseMin, type DayPlan, type Job } from '@prandel/core';
import { heatWords, pauseWords, plain } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { ask } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';

/** That a fade is pulled back to back, and what a pause between pulls does to a car whose heat coefficient is known. */
export function HeatNotes({
  job,
  vehicleId,
  plan,
  matters,
}: {
  job: Job;
  vehicleId: string | null;
  plan: DayPlan;
  /** Size of power that would matter, per cent. */
  matters: number;
}) {
  const units = useUnits();
  const heat = useQuery({
    queryKey: ['vehicle-heat', vehicleId],
    queryFn: () => ask('get', '/api/records/vehicle/{id}/heat', { params: { path: { id: vehicleId! } } }),
    enabled: vehicleId !== null,
  });
  const fade = fixedPauseMin(job) !== null;
  const known = heat.data?.heat ?? null;
  const boosted = job.vehicle.aspiration === 'turbo' || job.vehicle.aspiration === 'supercharged';
  return (
    <>
      {fade && (
        <Notice kind="plain">
          Fade protocol: pulls follow each other every {plain(plan.minutesPerPull, 1)} min, both setups alike, and only
          the first pull of a round waits for its temperatures. What heats up in between is what is asked about.
        </Notice>
      )}
      {known && (
        <p className="text-ink-2 text-[12.5px]" data-testid="pause">
          {heatWords(known, units)}{' '}
          {!fade && matters > 0 && (
            <b className="text-ink">{pauseWords(known, plan.minutesPerPull, boosted, matters)}</b>
          )}
        </p>
      )}
    </>
  );
}
