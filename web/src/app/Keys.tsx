import { lazy, Suspense, useState } from 'react';
import { useNavigate } from 'react-router';
import { useBays } from '../api/hooks.ts';
import { useKeys } from '../parts/useKeys.ts';
import { bayOfDevice } from './mood.ts';

const KeyList = lazy(() => import('./KeyList.tsx').then((m) => ({ default: m.KeyList })));

/** Keys that hold on every desk page, and the list of all of them. */
export function Keys() {
  const [open, setOpen] = useState(false);
  const go = useNavigate();
  const bays = useBays();
  const first = bays.data?.[0]?.id;
  useKeys(['?'], () => setOpen(true));
  useKeys(['b'], () => {
    if (first) void go(bayOfDevice() ?? `/bays/${first}`);
  });
  return open ? (
    <Suspense>
      <KeyList onClose={() => setOpen(false)} />
    </Suspense>
  ) : null;
}
