import { useMutation } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';

/** Opens the monthly round of the reference car. */
export function ReferenceRound({ label, car }: { label: string; car: string | null }) {
  const go = useNavigate();
  const open = useMutation({
    mutationFn: (vehicle: string) => ask('post', '/api/jobs', { body: requestOf(label, vehicle) }),
    onSuccess: ({ id }) => {
      void queries.invalidateQueries({ queryKey: ['jobs'] });
      void go(`/jobs/${id}`);
    },
  });
  if (car === null) return null;
  return (
    <For role="technician">
      {open.error && <Notice kind="bad">{open.error.message}</Notice>}
      <button className="btn pri" disabled={open.isPending} onClick={() => open.mutate(car)}>
        Open this month’s reference round
      </button>
    </For>
  );
}

function requestOf(bay: string, car: string): Schemas['NewJob'] {
  return {
    title: `Reference round of ${bay}`,
    vehicle: { label: car },
    bay: { label: bay },
    question: {
      text: 'Does the bay still read what it read?',
      ...{ baselineSetup: 'A', candidateSetups: [], windowRpm: null, partChangesIntakeTemperature: false },
      measures: [{ id: 'windowMeanPower', meaningful: 1 }],
      plan: [{ setup: 'A', settle: 1, counted: 3 }],
    },
    setups: [{ id: 'A', label: 'as always', changes: [], state: {} }],
    day: {},
    timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  };
}
