import type { Job } from '@prandel/core';
import { plain } from '@prandel/presentation';
import { Expected } from '../../parts/Expected.tsx';

/** What the shelf expects of the parts that are to be tried, and whether this plan would see it. */
export function ShelfNotes({ job, seesPercent }: { job: Job; seesPercent: number | null }) {
  const parts = job.setups
    .filter((s) => job.question.candidateSetups.includes(s.id))
    .flatMap((s) => s.changes.flatMap((c) => (c.kind === 'part-fitted' && c.part !== null ? [c.part] : [])));
  return [...new Set(parts)].map((part) => (
    <Expected
      key={part}
      part={part}
      beside={({ estimate }) =>
        seesPercent === null || estimate === null
          ? ''
          : Math.abs(estimate) >= seesPercent
            ? `This plan sees from about ±${plain(seesPercent, 1)} %: an average car would be resolved.`
            : `This plan sees from about ±${plain(seesPercent, 1)} %: on an average car it would stay open. Plan more rounds.`
      }
    />
  ));
}
