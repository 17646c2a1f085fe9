import type { Job } from '@prandel/core';
import type { JobEdit } from './jobs.dto.ts';

/** Gears, use and reference curves that a body holds; whether they can be, `jobProblem` says. */
export function useWith({
  gearing,
  use,
  references,
}: Pick<JobEdit, 'gearing' | 'use' | 'references'>): Pick<Job, 'gearing' | 'use' | 'references'> {
  return {
    ...(gearing ? { gearing: { ...gearing } } : {}),
    ...(use ? { use: { name: use.name, shares: use.shares.map((s) => ({ ...s })) } } : {}),
    ...(references
      ? { references: references.map((r) => ({ ...r, at: r.at ?? null, correction: r.correction ?? null })) }
      : {}),
  };
}

const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b);

/** What changed of them, for the job's log. */
export function useChanges(before: Job, after: Job): string[] {
  const { gearing, use } = after;
  return [
    ...(gearing && differs(before.gearing, gearing)
      ? [
          `Gears: ${gearing.ratios.join(', ')}, final drive ${gearing.finalDrive}, tyre ${gearing.circumferenceM} m around, limiter ${gearing.limiterRpm} rpm, shift ${gearing.shiftSeconds} s.`,
        ]
      : []),
    ...(use && differs(before.use, use) ? [`Use of the car: ${use.name}.`] : []),
    ...(differs(before.references, after.references)
      ? [`Curves laid under the comparison: ${(after.references ?? []).map((r) => r.name).join('; ') || 'none'}.`]
      : []),
  ];
}
