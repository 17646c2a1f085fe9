import { useEffect } from 'react';
import { warmJudge } from '../../judging/judge.ts';

export const comparePage = () => import('./ComparePage.tsx');

/** Loads the page with the curves, and the worker that judges, while somebody reads the page before them. */
export function useCompareAhead(): void {
  useEffect(() => {
    const soon = setTimeout(() => {
      warmJudge();
      void comparePage();
    }, 300);
    return () => clearTimeout(soon);
  }, []);
}
