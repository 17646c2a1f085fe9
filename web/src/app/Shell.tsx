import { LogOut, Ruler, Search } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { NavLink, Navigate, Outlet, useLocation, useMatch } from 'react-router';
import { ask, queries, Refusal } from '../api/client.ts';
import { useSealedAt, useSession } from '../api/hooks.ts';
import { Mark } from '../parts/marks.tsx';
import { SealedJob } from '../parts/May.tsx';
import { FIND, Keys } from './Keys.tsx';
import { SealedBar } from './SealedBar.tsx';
import { ServerState } from './ServerState.tsx';

const UnitsChoice = lazy(() => import('./UnitsChoice.tsx').then((m) => ({ default: m.UnitsChoice })));

/** The frame of every page for somebody who is signed in. */
export function Shell() {
  const session = useSession();
  const { pathname } = useLocation();
  const inJob = useMatch('/jobs/:id/*');
  const jobId = inJob?.params.id && inJob.params.id !== 'new' ? inJob.params.id : null;
  const sealedAt = useSealedAt(jobId);
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
              <NavLink to="/shelf">Shelf</NavLink>
              <NavLink to="/trends">Trends</NavLink>
              <NavLink to="/records">Records</NavLink>
              <NavLink to="/translator">Translator</NavLink>
              {session.data.role === 'owner' && <NavLink to="/people">People</NavLink>}
            </>
          )}
          {jobId && (
            <>
              <NavLink to={`/jobs/${jobId}`} end>
                Setups and pulls
              </NavLink>
              <NavLink to={`/jobs/${jobId}/plan`}>Plan</NavLink>
              {session.data.role !== 'viewer' && !sealedAt && <NavLink to={`/jobs/${jobId}/import`}>Import</NavLink>}
              <NavLink to={`/jobs/${jobId}/compare`}>Compare</NavLink>
              <NavLink to={`/jobs/${jobId}/which`}>Which part</NavLink>
              <NavLink to={`/jobs/${jobId}/road`}>Road</NavLink>
              <NavLink to={`/jobs/${jobId}/report`}>Report</NavLink>
            </>
          )}
        </nav>
        <div className="grow" />
        <div className="flex items-center gap-3 py-1.5">
          <button className="btn sm" onClick={() => dispatchEvent(new Event(FIND))} title="Find anything (press /)">
            <Search size={13} aria-hidden />
            Find
          </button>
          <Units />
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
      {jobId && sealedAt && <SealedBar job={jobId} sealedAt={sealedAt} />}
      <main id="main">
        <SealedJob.Provider value={sealedAt !== null}>
          <Outlet />
        </SealedJob.Provider>
      </main>
      <Keys />
    </>
  );
}

/** The choice of units; what it is made of is loaded when somebody wants it. */
function Units() {
  const [wanted, setWanted] = useState(false);
  const button = (
    <button className="btn sm" aria-haspopup="dialog" aria-expanded={false} onClick={() => setWanted(true)}>
      <Ruler size={13} aria-hidden />
      Units
    </button>
  );
  return wanted ? (
    <Suspense fallback={button}>
      <UnitsChoice />
    </Suspense>
  ) : (
    button
  );
}
