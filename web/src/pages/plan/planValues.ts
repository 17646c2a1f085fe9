import { correctionFactor, planRequestOf, standardAtmosphere } from '@prandel/core';
import type { StoredJob } from '../../api/client.ts';

/** The correction factor that a bay air would give at the bay's height in the standard atmosphere and half humidity. */
export function factorAt({ bay, method }: StoredJob['job'], airC: number): number {
  if (method.correction === 'none') return 1;
  const { pressureHpa } = standardAtmosphere(bay.elevationM ?? 0);
  const id = method.correction === 'iso-1585-ci' ? 'sae-j1349' : method.correction;
  return correctionFactor(id, { airC, pressureHpa, relativeHumidity: 0.5 }).factor;
}

/** Counted pulls of a round: as planned, else as the method has it. */
export function countedOf(job: StoredJob['job']): number {
  return job.question.plan[0]?.counted ?? planRequestOf(job).counted;
}

/** A setup that the plan adds, as the server takes it. */
export function addedSetup(s: StoredJob['job']['setups'][number]) {
  const { id, label, parentId, returnsTo, changes, declares, closedCourseOnly } = s;
  return {
    ...{ id, label, parentId, returnsTo, closedCourseOnly },
    ...{ changes: [...changes], declares: [...declares], state: { ...s.state } as Record<string, string> },
  };
}

/** A moment as a field for date and time takes it. */
export function local(date: Date): string {
  const two = (n: number) => String(n).padStart(2, '0');
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}T${two(date.getHours())}:${two(date.getMinutes())}`;
}
