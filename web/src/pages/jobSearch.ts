import { useEffect, useRef } from 'react';
import { useSearchParams } from 'react-router';

const PARTS = ['q', 'verdict', 'bay'] as const;
type Search = Record<(typeof PARTS)[number], string>;
/** Typing goes on for a moment before the server is asked. */
const PAUSE_MS = 200;

/** What the list of jobs is narrowed to. It stands in the address: a link and the way back keep it. */
export function useJobSearch() {
  const [params, setParams] = useSearchParams();
  const timer = useRef(0);
  useEffect(() => () => clearTimeout(timer.current), []);
  const wanted = Object.fromEntries(PARTS.map((part) => [part, params.get(part) ?? ''])) as Search;
  const narrow = (change: Partial<Search>) => {
    clearTimeout(timer.current);
    const put = () =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [part, value] of Object.entries(change)) {
            if (value.trim()) next.set(part, value);
            else next.delete(part);
          }
          return next;
        },
        { replace: true },
      );
    if (change.q === undefined) put();
    else timer.current = window.setTimeout(put, PAUSE_MS);
  };
  const asked = new URLSearchParams(PARTS.flatMap((part) => (wanted[part] ? [[part, wanted[part]]] : [])));
  return { wanted, narrow, isNarrowed: asked.size > 0, address: asked.toString() };
}
