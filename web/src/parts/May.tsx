import { createContext, useContext, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { Schemas } from '../api/client.ts';
import { useSession } from '../api/hooks.ts';

type Role = Schemas['Role'];
const RANK: Readonly<Record<Role, number>> = { viewer: 0, technician: 1, owner: 2 };

/** Whether the page is of a sealed job, of which nobody can change anything. */
export const SealedJob = createContext(false);

/** Whether who is signed in has this role or a higher one, whatever the job. */
export function useRole(role: Role): boolean {
  const { data } = useSession();
  return data !== undefined && RANK[data.role] >= RANK[role];
}

/**
 * Whether who is signed in may do here what this role may. The server asks again; this only keeps screens from offering what it
 * refuses.
 */
export function useMay(role: Role): boolean {
  const has = useRole(role);
  const sealed = useContext(SealedJob);
  return has && (role === 'viewer' || !sealed);
}

/** What only these may see, since it only changes something; for others nothing, or what is said to them. */
export function For({ role, else: others = null, children }: { role: Role; else?: ReactNode; children: ReactNode }) {
  return useMay(role) ? children : others;
}

/** What everybody may read and technicians may change: for others its buttons are gone and its fields are fixed. */
export function Changeable({ className = 'contents', children }: { className?: string; children: ReactNode }) {
  const may = useMay('technician');
  return (
    <fieldset role="presentation" disabled={!may} className={may ? className : `${className} look-only`}>
      {children}
    </fieldset>
  );
}

/** In place of a page that only changes something. */
export function LookOnly() {
  const { data } = useSession();
  const sealed = useContext(SealedJob);
  if (!data) return null;
  if (sealed)
    return (
      <section className="sheet mx-auto mt-4 grid max-w-[620px] gap-2 p-6">
        <h1>This job is sealed</h1>
        <p className="text-[15px]">Nothing can be brought into it. Reopen it with a reason first, on its own page.</p>
      </section>
    );
  return (
    <section className="sheet mx-auto mt-4 grid max-w-[620px] gap-2 p-6">
      <h1>Only to be looked at</h1>
      <p className="text-[15px]">
        Your role in {data.shop} is viewer: a technician or the owner opens jobs and brings files. Ask the owner if that
        should be you.
      </p>
      <p>
        <Link className="underline" to="/jobs">
          Back to the jobs
        </Link>
      </p>
    </section>
  );
}
