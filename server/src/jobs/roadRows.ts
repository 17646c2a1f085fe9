import type { RoadCar, RoadPass } from '@prandel/core';
import { asc, eq } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { inTurn } from '../database/inTurn.ts';
import { roadCars, roadPasses } from '../database/schema.ts';

/** The road check of a job: its passes in order, and the car on the road; undefined where there is none. */
export async function readRoad(tx: Transaction, jobId: string): Promise<{ roadPasses?: RoadPass[]; road?: RoadCar }> {
  const [passes, [car]] = await inTurn(
    () => tx.select().from(roadPasses).where(eq(roadPasses.jobId, jobId)).orderBy(asc(roadPasses.place)),
    () => tx.select().from(roadCars).where(eq(roadCars.jobId, jobId)),
  );
  return {
    ...(passes.length > 0
      ? {
          roadPasses: passes.map(({ setupKey, at, direction, fromKmH, toKmH, seconds }) => ({
            ...{ setupId: setupKey, at, direction, fromKmH, toKmH, seconds },
          })),
        }
      : {}),
    ...(car ? { road: carOf(car) } : {}),
  };
}

function carOf({ massKg, overallRatio, tyreRadiusM, dragAreaM2, rolling }: typeof roadCars.$inferSelect): RoadCar {
  return { massKg, overallRatio, tyreRadiusM, dragAreaM2, rolling };
}

export async function writePasses(
  tx: Transaction,
  shopId: string,
  jobId: string,
  passes: readonly RoadPass[],
): Promise<void> {
  await tx.delete(roadPasses).where(eq(roadPasses.jobId, jobId));
  if (passes.length > 0)
    await tx
      .insert(roadPasses)
      .values(passes.map(({ setupId, ...pass }, place) => ({ shopId, jobId, place, setupKey: setupId, ...pass })));
}

export async function writeRoadCar(tx: Transaction, shopId: string, jobId: string, car: RoadCar): Promise<void> {
  await tx
    .insert(roadCars)
    .values({ shopId, jobId, ...car })
    .onConflictDoUpdate({ target: roadCars.jobId, set: car });
}
