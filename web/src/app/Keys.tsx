import { lazy, Suspense, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { useBays } from '../api/hooks.ts';
import { useKeys } from '../parts/useKeys.ts';
import { bayOfDevice } from './mood.ts';

/** A page asks for the search over everything. */
export const FIND = 'prandel-find';

const Finder = lazy(() => import('./Finder.tsx').then((m) => ({ default: m.Finder })));
const KeyList = lazy(() => import('./KeyList.tsx').then((m) => ({ default: m.KeyList })));

/** Keys that hold on every desk page, and the list of all of them. */
export function Keys() {
  const [open, setOpen] = useState(false);
  const [finding, setFinding] = useState(false);
  const go = useNavigate();
  const bays = useBays();
  const first = bays.data?.[0]?.id;
  useKeys(['?'], () => setOpen(true));
  useKeys(['b'], () => {
    if (first) void go(bayOfDevice() ?? `/bays/${first}`);
  });
  useKeys(['/'], (_, e) => {
    e.preventDefault();
    setFinding(true);
  });
  useEffect(() => {
    const find = () => setFinding(true);
    addEventListener(FIND, find);
    return () => removeEventListener(FIND, find);
  }, []);
  return (
    <Suspense>
      {open && <KeyList onClose={() => setOpen(false)} />}
      {finding && <Finder onClose={() => setFinding(false)} />}
    </Suspense>
  );
}
