import type { Gearing, Job, ReferenceCurve, UseProfile } from '@prandel/core';
import { asc, eq } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { inTurn } from '../database/inTurn.ts';
import { jobGears, jobs, referenceCurves, shops, useShares, vehicleGears } from '../database/schema.ts';

/** Gears, use, reference curves and what costs are reckoned with, of a job; members that nobody filled in are absent. */
export async function readUse(
  tx: Transaction,
  row: Pick<typeof jobs.$inferSelect, 'id' | 'shopId' | 'currency' | 'hourlyRate'>,
): Promise<Pick<Job, 'money' | 'gearing' | 'use' | 'references'>> {
  const [[gears], shares, references, [shop]] = await inTurn(
    () => tx.select().from(jobGears).where(eq(jobGears.jobId, row.id)),
    () => tx.select().from(useShares).where(eq(useShares.jobId, row.id)).orderBy(asc(useShares.fromRpm)),
    () =>
      tx.select().from(referenceCurves).where(eq(referenceCurves.jobId, row.id)).orderBy(asc(referenceCurves.place)),
    () => tx.select().from(shops).where(eq(shops.shopId, row.shopId)),
  );
  const own = row.currency !== null || row.hourlyRate !== null;
  const { currency = null, hourlyRate = null } = (own ? row : shop) ?? {};
  return {
    ...(currency === null && hourlyRate === null ? {} : { money: { currency, hourlyRate } }),
    ...(gears ? { gearing: gearingOf(gears) } : {}),
    ...(shares.length > 0
      ? { use: { name: shares[0]!.name, shares: shares.map(({ fromRpm, share }) => ({ fromRpm, share })) } }
      : {}),
    ...(references.length > 0
      ? {
          references: references.map(({ name, at, bay, correction, first, values }): ReferenceCurve => ({
            ...{ name, at, bay, correction, first, values },
          })),
        }
      : {}),
  };
}

function gearingOf({
  ratios,
  finalDrive,
  circumferenceM,
  limiterRpm,
  shiftSeconds,
}: typeof jobGears.$inferSelect | typeof vehicleGears.$inferSelect): Gearing {
  return { ratios, finalDrive, circumferenceM, limiterRpm, shiftSeconds };
}

/** The gears of a car on record. */
export async function gearsOfVehicle(tx: Transaction, vehicleId: string): Promise<Gearing | undefined> {
  const [row] = await tx.select().from(vehicleGears).where(eq(vehicleGears.vehicleId, vehicleId));
  return row && gearingOf(row);
}

/** Keeps the gears with the job, and with the car on record: its next job begins with them. */
export async function writeGears(
  tx: Transaction,
  shopId: string,
  jobId: string,
  vehicleId: string | null,
  gearing: Gearing,
): Promise<void> {
  const gears = { ...gearing, ratios: [...gearing.ratios] };
  await tx
    .insert(jobGears)
    .values({ shopId, jobId, ...gears })
    .onConflictDoUpdate({ target: jobGears.jobId, set: gears });
  if (vehicleId !== null)
    await tx
      .insert(vehicleGears)
      .values({ shopId, vehicleId, ...gears })
      .onConflictDoUpdate({ target: vehicleGears.vehicleId, set: gears });
}

export async function writeUse(tx: Transaction, shopId: string, jobId: string, use: UseProfile): Promise<void> {
  await tx.delete(useShares).where(eq(useShares.jobId, jobId));
  await tx.insert(useShares).values(use.shares.map((s) => ({ shopId, jobId, name: use.name, ...s })));
}

export async function writeReferences(
  tx: Transaction,
  shopId: string,
  jobId: string,
  list: readonly ReferenceCurve[],
): Promise<void> {
  await tx.delete(referenceCurves).where(eq(referenceCurves.jobId, jobId));
  if (list.length > 0)
    await tx
      .insert(referenceCurves)
      .values(list.map((curve, place) => ({ shopId, jobId, place, ...curve, values: [...curve.values] })));
}
