import { instrumentFaultWords, lastGoodWords } from '@prandel/presentation';
import { mediansOf, RETURN_CHECKS_NEEDED } from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { Plus } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { ask } from '../../api/client.ts';
import type { BayListed } from '../../api/client.ts';
import { useBays, useUnits } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { SignalNotice } from '../bayCharts/SignalNotice.tsx';
import { BayFiles } from './BayFiles.tsx';
import { BayForm, INSTRUMENTS } from './BayForm.tsx';
import { BenchCard } from './BenchCard.tsx';
import { CommissioningDay } from './CommissioningDay.tsx';
import { DeleteBay, DeletedBays } from './DeletedBays.tsx';
import { Quarantine } from './Quarantine.tsx';
import { Changeable, For } from '../../parts/May.tsx';

const STATES = {
  connected: ['connected', 'text-ok'],
  silent: ['silent', 'text-act'],
  implausible: ['implausible', 'text-wait'],
  absent: ['none', 'text-ink-3'],
} as const;

/** Bays with their device panels; in the demo also the bench of the simulated car. */
export function BaysPage() {
  const bays = useBays();
  const units = useUnits();
  const [open, setOpen] = useState<string | null>(null);
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex items-center gap-3">
        <h1 className="grow">Bays</h1>
        <For role="technician">
          <button className="btn pri" onClick={() => setOpen('new')}>
            <Plus size={15} aria-hidden />
            New bay
          </button>
        </For>
      </div>
      {bays.error && <Notice kind="bad">{bays.error.message}</Notice>}
      {open === 'new' && <BayForm bay={null} onDone={() => setOpen(null)} />}
      {bays.data?.length === 0 && open !== 'new' && (
        <p className="sheet p-8 text-center text-[15px]">
          No bay yet. Add one with the addresses of its instruments; pulls then arrive by themselves.
        </p>
      )}
      {bays.data?.map((bay) => (
        <section key={bay.id} className="sheet card grid gap-2" aria-label={bay.label}>
          <div className="flex flex-wrap items-center gap-3">
            <h2 className="grow">
              {bay.label}
              <span className="text-ink-2 font-[450]"> {describe(bay)}</span>
            </h2>
            <For role="technician">
              <button className="btn sm" onClick={() => setOpen(open === bay.id ? null : bay.id)}>
                {open === bay.id ? 'Close' : 'Edit'}
              </button>
            </For>
            <For role="owner">
              <DeleteBay id={bay.id} label={bay.label} />
            </For>
            <Link className="btn sm" to={`/bays/${bay.id}/charts`}>
              Against itself
            </Link>
            <Link className="btn pri sm" to={`/bays/${bay.id}`}>
              Run sheet
            </Link>
          </div>
          <SignalNotice bay={bay.id} />
          {bay.fault && (
            <Notice kind="bad">
              <b>Not recording.</b> {bay.fault}
            </Notice>
          )}
          {bay.ledElsewhere && (
            <Notice>
              Another server process on this database leads {bay.label} and does not answer; this one takes over by
              itself when that one is gone.
            </Notice>
          )}
          <div className="overflow-x-auto" tabIndex={0} role="region" aria-label={`Device panel of ${bay.label}`}>
            <table className="table">
              <thead>
                <tr>
                  <th>Instrument</th>
                  <th>State</th>
                  <th>Last good reading</th>
                  <th>Where</th>
                </tr>
              </thead>
              <tbody>
                {INSTRUMENTS.map(([kind, name, protocol]) => {
                  const status = bay.status.find((s) => s.kind === kind);
                  const [word, tone] = STATES[status?.state ?? 'absent'];
                  const address = bay.instruments[kind];
                  return (
                    <tr key={kind} data-instrument={kind} data-state={status?.state ?? 'absent'}>
                      <td>
                        <b>{name}</b> <span className="text-ink-3">{protocol}</span>
                      </td>
                      <td>
                        <b className={tone}>{kind === 'rollers' && !address ? 'by files' : word}</b>
                        {status?.fault && <div className="text-ink-2">{instrumentFaultWords(status.fault, units)}</div>}
                      </td>
                      <td>
                        {(status && lastGoodWords(status, units)) ?? '–'}
                        {status?.ageS !== null && status?.ageS !== undefined && status.ageS > 3 && (
                          <span className="text-ink-3"> {Math.round(status.ageS)} s ago</span>
                        )}
                      </td>
                      <td className="text-ink-2">{address ? `${address.host}:${address.port}` : '–'}</td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </div>
          {!bay.instruments.rollers && !bay.fault && !bay.ledElsewhere && <BayFiles bay={bay.id} job={bay.job} />}
          <Changeable>
            <Quarantine bay={bay.id} />
          </Changeable>
          <Learned bay={bay.id} label={bay.label} />
          {open === bay.id && <BayForm bay={bay} onDone={() => setOpen(null)} />}
        </section>
      ))}
      <For role="owner">
        <DeletedBays />
      </For>
      <For role="technician">
        <BenchCard bays={bays.data ?? []} />
      </For>
    </div>
  );
}

/** How the bay scatters, mounts and drifts, from its own days; what any bay does while they are few. */
function Learned({ bay, label }: { bay: string; label: string }) {
  const learned = useQuery({
    queryKey: ['bay-history', bay],
    queryFn: () => ask('get', '/api/bays/{id}/history', { params: { path: { id: bay } } }),
    staleTime: 60_000,
  });
  if (!learned.data) return null;
  const { prior } = learned.data;
  const { scatter, mount, drift } = mediansOf(prior);
  const figures = `pulls repeat within ${scatter.toFixed(2)} %, rounds within ${mount.toFixed(2)} %, the day drifts by ${drift.toFixed(2)} % an hour`;
  return (
    <>
      <p className="text-ink-2">
        {prior.learned.power
          ? `From ${prior.jobs} jobs: ${figures}.`
          : `Taken as usual until five jobs are in (so far ${prior.jobs}): ${figures}.`}{' '}
        {prior.returnChecks < RETURN_CHECKS_NEEDED &&
          `Drift of this bay not known: ${prior.returnChecks} of ${RETURN_CHECKS_NEEDED} return checks are in.`}
      </p>
      {prior.returnChecks < RETURN_CHECKS_NEEDED && (
        <For role="technician">
          <CommissioningDay label={label} />
        </For>
      )}
    </>
  );
}

function describe({ rollers }: BayListed): string {
  return [
    rollers.kind && `${rollers.kind} rollers`,
    rollers.rollerInertiaKgM2 && `${rollers.rollerInertiaKgM2} kg·m²`,
    rollers.lossTorqueNm ? 'coast-down known' : 'no coast-down',
    rollers.readoutScale !== 1 && `read-out × ${rollers.readoutScale}`,
    rollers.calibrationEpoch && `calibrated since ${rollers.calibrationEpoch}`,
  ]
    .filter(Boolean)
    .join(', ');
}
