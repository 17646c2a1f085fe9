import type { Vehicle, WeatherReading } from '@prandel/core';
import { and, eq, isNull, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { bays, jobs, vehicles, weatherReadings } from '../database/schema.ts';

/** The bay under this roof that is called so. */
export async function bayOfLabel(tx: Transaction, shopId: string, label: string): Promise<string | null> {
  if (label === '') return null;
  const [bay] = await tx
    .select({ id: bays.id })
    .from(bays)
    .where(and(eq(bays.shopId, shopId), eq(bays.label, label), isNull(bays.deletedAt)));
  return bay?.id ?? null;
}

/** The one car that is called so, or a new one; a job without a car's name has none. */
export async function vehicleOf(tx: Transaction, shopId: string, vehicle: Vehicle): Promise<string | null> {
  if (vehicle.label === '') return null;
  const known = await tx
    .select({ id: vehicles.id })
    .from(vehicles)
    .where(and(eq(vehicles.shopId, shopId), eq(vehicles.label, vehicle.label)))
    .limit(2);
  if (known.length === 1) return known[0]!.id;
  const { label, drivenWheels, aspiration, transmission, massKg, engineToRollerRatio, heatSensitive = false } = vehicle;
  const [made] = await tx
    .insert(vehicles)
    .values({ shopId, label, drivenWheels, aspiration, transmission, massKg, engineToRollerRatio, heatSensitive })
    .returning({ id: vehicles.id });
  return made!.id;
}

/** The facts of a car as columns of its job. */
export function vehicleColumns({ label, heatSensitive, ...facts }: Vehicle) {
  const { drivenWheels, aspiration, transmission, massKg, engineToRollerRatio } = facts;
  return {
    vehicleLabel: label,
    ...{ drivenWheels, aspiration, transmission, massKg, engineToRollerRatio },
    heatSensitive: heatSensitive ?? null,
  };
}

/** The car of a job as its day had it. */
export function vehicleFrom(row: typeof jobs.$inferSelect): Vehicle {
  const { drivenWheels, aspiration, transmission, massKg, engineToRollerRatio, heatSensitive } = row;
  return {
    label: row.vehicleLabel,
    ...{ drivenWheels, aspiration, transmission, massKg, engineToRollerRatio },
    ...(heatSensitive === null ? {} : { heatSensitive }),
  };
}

/** Adds rows of the weather log behind those that are there. @param from place of the first */
export async function insertWeather(
  tx: Transaction,
  shopId: string,
  jobId: string,
  list: readonly WeatherReading[],
  from: number,
): Promise<void> {
  const rows = list.map(({ at, pressureHpa, airC, relativeHumidity }, k) => ({
    ...{ shopId, jobId, place: from + k, at, pressureHpa, airC, relativeHumidity },
  }));
  for (let at = 0; at < rows.length; at += 1000) await tx.insert(weatherReadings).values(rows.slice(at, at + 1000));
}

/** The wanted number, or the first with a count behind it that no job of the shop bears. */
export async function freeNumber(tx: Transaction, shopId: string, wanted: string): Promise<string> {
  const taken = new Set(
    (
      await tx
        .select({ number: jobs.number })
        .from(jobs)
        .where(and(eq(jobs.shopId, shopId), sql`starts_with(${jobs.number}, ${wanted})`))
    ).map((row) => row.number),
  );
  for (let n = 1; ; n += 1) {
    const number = n === 1 ? wanted : `${wanted} (${n})`;
    if (!taken.has(number)) return number;
  }
}
