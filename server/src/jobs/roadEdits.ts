import { BadRequestException } from '@nestjs/common';
import { speedsProblem, type Job, type RoadPass } from '@prandel/core';
import type { JobEdit } from './jobs.dto.ts';

/** The road check with what a body holds of it. @throws BadRequestException for a pass that cannot be, with its place */
export function roadWith(
  job: Job,
  { roadPasses, road }: Pick<JobEdit, 'roadPasses' | 'road'>,
): Pick<Job, 'roadPasses' | 'road'> {
  roadPasses?.forEach((pass, i) => {
    const wrong = speedsProblem(pass.fromKmH, pass.toKmH);
    if (wrong) throw new BadRequestException(`Pass ${i + 1}: ${wrong}.`);
    if (!job.setups.some((s) => s.id === pass.setupId))
      throw new BadRequestException(`Pass ${i + 1} names setup ${pass.setupId}, which this job does not have.`);
  });
  return {
    ...(roadPasses ? { roadPasses: roadPasses.map((pass) => ({ ...pass, at: pass.at ?? null })) } : {}),
    ...(road ? { road: { ...road, dragAreaM2: road.dragAreaM2 ?? null } } : {}),
  };
}

const words = (p: RoadPass) =>
  `${p.setupId} ${p.direction || 'no direction'} ${p.fromKmH}–${p.toKmH} km/h ${p.seconds} s`;

/** What changed of the road check, for the job's log. */
export function roadChanges(before: Job, after: Job): string[] {
  const count = (list: readonly string[], text: string) => list.filter((t) => t === text).length;
  const [old, now] = [before, after].map(({ roadPasses }) => (roadPasses ?? []).map(words)) as [string[], string[]];
  const beyond = (list: readonly string[], other: readonly string[]) =>
    list.filter((text, i) => count(list.slice(0, i + 1), text) > count(other, text));
  const [added, removed] = [beyond(now, old), beyond(old, now)];
  const car = after.road;
  return [
    ...(added.length > 0 ? [`Added to the passes on the road: ${added.join('; ')}.`] : []),
    ...(removed.length > 0 ? [`Took from the passes on the road: ${removed.join('; ')}.`] : []),
    ...(car && JSON.stringify(before.road) !== JSON.stringify(car)
      ? [
          `Car on the road: ${car.massKg} kg, ratio ${car.overallRatio}, tyre ${car.tyreRadiusM} m, drag area ${car.dragAreaM2 === null ? 'fitted' : `${car.dragAreaM2} m²`}, rolling ${car.rolling}.`,
        ]
      : []),
  ];
}
