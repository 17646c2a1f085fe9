import { useMutation } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { Notice } from '../../parts/Field.tsx';

/** Rounds of one setup; before the fourth the straps come off and on again. */
const ROUNDS = 6;
const UNSTRAPPED = 4;

/** The shop's own car, no part, six rounds over a day: what teaches a bay's mounts and drift best. */
export function CommissioningDay({ label }: { label: string }) {
  const go = useNavigate();
  const plan = useMutation({
    mutationFn: () => ask('post', '/api/jobs', { body: requestOf(label) }),
    onSuccess: ({ id }) => {
      void queries.invalidateQueries({ queryKey: ['jobs'] });
      void go(`/jobs/${id}`);
    },
  });
  return (
    <div className="flex flex-wrap items-center gap-3">
      <button className="btn sm" disabled={plan.isPending} onClick={() => plan.mutate()}>
        Plan a commissioning day
      </button>
      <span className="text-ink-2">
        The shop’s own car, no part: six rounds of three over a day, straps off between two of them. It teaches the bay
        its mounts and drift.
      </span>
      {plan.error && <Notice kind="bad">{plan.error.message}</Notice>}
    </div>
  );
}

function requestOf(bay: string): Schemas['NewJob'] {
  const ids = Array.from({ length: ROUNDS }, (_, k) => (k === 0 ? 'A' : `A${k + 1}`));
  return {
    title: `Commissioning day of ${bay}`,
    vehicle: { label: 'The shop’s own car' },
    bay: { label: bay },
    question: {
      text: 'How does this bay scatter, mount and drift?',
      baselineSetup: 'A',
      candidateSetups: [],
      measures: [{ id: 'windowMeanPower', meaningful: 1 }],
      windowRpm: null,
      partChangesIntakeTemperature: false,
      plan: ids.map((setup) => ({ setup, settle: 2, counted: 3 })),
    },
    setups: ids.map((id, k) => ({
      id,
      label: k === 0 ? 'as it is' : k + 1 === UNSTRAPPED ? 'straps off and on again' : `round ${k + 1}`,
      changes: [],
      ...(k === 0 ? {} : { parentId: 'A', returnsTo: 'A' }),
      ...(k + 1 === UNSTRAPPED ? { remounted: true } : {}),
      state: {},
    })),
    day: {},
    timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  };
}
