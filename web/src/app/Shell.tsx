import { USUAL_UNITS } from '@prandel/presentation';
import { useMutation } from '@tanstack/react-query';
import { LogOut, Ruler } from 'lucide-react';
import { Popover } from 'radix-ui';
import { NavLink, Navigate, Outlet, useLocation, useMatch } from 'react-router';
import { ask, queries, Refusal } from '../api/client.ts';
import { useSession, useUnits } from '../api/hooks.ts';
import { Choice } from '../parts/Choice.tsx';
import { Mark } from '../parts/marks.tsx';
import { Keys } from './Keys.tsx';
import { ServerState } from './ServerState.tsx';

const UNIT_CHOICES = {
  power: ['kW', 'hp', 'PS'],
  torque: ['N·m', 'lb·ft', 'kgf·m'],
  temperature: ['°C', '°F'],
  pressure: ['hPa', 'kPa', 'inHg', 'mmHg', 'psi', 'bar'],
} as const;

/** The frame of every page for somebody who is signed in. */
export function Shell() {
  const session = useSession();
  const { pathname } = useLocation();
  const inJob = useMatch('/jobs/:id/*');
  const jobId = inJob?.params.id && inJob.params.id !== 'new' ? inJob.params.id : null;
  if (session.isPending) return <div className="progress" role="progressbar" aria-label="Loading" />;
  if (session.error) {
    if (session.error instanceof Refusal && session.error.status === 401)
      return <Navigate to="/sign-in" replace state={{ back: pathname }} />;
    return (
      <p className="p-8" role="alert">
        {session.error.message}
      </p>
    );
  }
  const out = async () => {
    await ask('delete', '/api/session');
    queries.clear();
    location.assign('/sign-in');
  };
  return (
    <>
      <a href="#main" className="sr-only focus:not-sr-only">
        Skip to content
      </a>
      <header className="bar print:hidden">
        <NavLink to="/" className="brand">
          <Mark />
          Prandel
        </NavLink>
        <nav className="nav" aria-label="Main">
          <NavLink to="/" end>
            Today
          </NavLink>
          <NavLink to="/jobs" end>
            Jobs
          </NavLink>
          {!jobId && (
            <>
              <NavLink to="/bays">Bays</NavLink>
              <NavLink to="/records">Records</NavLink>
              {session.data.role === 'owner' && <NavLink to="/people">People</NavLink>}
            </>
          )}
          {jobId && (
            <>
              <NavLink to={`/jobs/${jobId}`} end>
                Setups and pulls
              </NavLink>
              <NavLink to={`/jobs/${jobId}/plan`}>Plan</NavLink>
              {session.data.role !== 'viewer' && <NavLink to={`/jobs/${jobId}/import`}>Import</NavLink>}
              <NavLink to={`/jobs/${jobId}/compare`}>Compare</NavLink>
              <NavLink to={`/jobs/${jobId}/report`}>Report</NavLink>
            </>
          )}
        </nav>
        <div className="grow" />
        <div className="flex items-center gap-3 py-1.5">
          <UnitsChoice />
          <NavLink to="/account" className="text-ink-2 text-[12px] underline-offset-2 hover:underline">
            {session.data.shop} · {session.data.name}
          </NavLink>
          <button className="btn sm" onClick={() => void out()}>
            <LogOut size={13} aria-hidden />
            Sign out
          </button>
        </div>
      </header>
      <ServerState />
      <main id="main">
        <Outlet />
      </main>
      <Keys />
    </>
  );
}

function UnitsChoice() {
  const units = useUnits();
  const change = useMutation({
    mutationFn: (next: Record<string, string>) => ask('patch', '/api/session/units', { body: { units: next } }),
    onMutate: (next) => queries.setQueryData(['session'], (old: object | undefined) => old && { ...old, units: next }),
    onError: () => queries.invalidateQueries({ queryKey: ['session'] }),
  });
  return (
    <Popover.Root>
      <Popover.Trigger className="btn sm">
        <Ruler size={13} aria-hidden />
        Units
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="pop grid gap-2.5" sideOffset={6} align="end" aria-label="Units">
          {(Object.keys(UNIT_CHOICES) as (keyof typeof UNIT_CHOICES)[]).map((quantity) => (
            <div key={quantity} className="flex items-center justify-between gap-6">
              <span className="capitalize">{quantity}</span>
              <Choice
                label={`Unit of ${quantity}`}
                value={units[quantity] as string}
                options={UNIT_CHOICES[quantity].map((u) => [u as string, u as string] as const)}
                onChange={(u) => change.mutate({ ...USUAL_UNITS, ...units, [quantity]: u })}
              />
            </div>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
