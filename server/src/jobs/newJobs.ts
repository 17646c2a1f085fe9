import { NotFoundException } from '@nestjs/common';
import type { Job } from '@prandel/core';
import { and, eq, isNull, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { bays, customers, jobs, vehicles } from '../database/schema.ts';
import { readBays } from '../bays/bayStore.ts';

/** Jobs of one shop take their numbers one after the other. */
export async function lockNumbers(tx: Transaction, shopId: string): Promise<void> {
  await tx.execute(sql`SELECT pg_advisory_xact_lock(hashtextextended(${`prandel job numbers ${shopId}`}, 0))`);
}

/** The number of the next job: its day and a count, "261126-3". */
export async function nextNumber(tx: Transaction, shopId: string, now = new Date()): Promise<string> {
  await lockNumbers(tx, shopId);
  const day = now.toISOString().slice(2, 10).replaceAll('-', '');
  const [row] = await tx
    .select({ last: sql<number | null>`max(substring(${jobs.number} from '^[0-9]{6}-([0-9]{1,6})$')::int)` })
    .from(jobs)
    .where(and(eq(jobs.shopId, shopId), sql`starts_with(${jobs.number}, ${`${day}-`})`));
  return `${day}-${(row?.last ?? 0) + 1}`;
}

/** A job that names a bay under this roof is run on its rollers as they are calibrated; what was typed of them comes before. */
export async function onOwnRollers(tx: Transaction, job: Job): Promise<Job> {
  if (job.bay.label === '') return job;
  const [bay] = await tx
    .select({ id: bays.id })
    .from(bays)
    .where(and(eq(bays.label, job.bay.label), isNull(bays.deletedAt)));
  const [row] = bay ? await readBays(tx, bay.id) : [];
  if (!row) return job;
  const typed = Object.fromEntries(
    Object.entries(job.bay).filter(
      ([key, value]) => value !== null && !['verdictConstants', 'prior', 'readoutScale'].includes(key),
    ),
  );
  return { ...job, bay: { ...row.rollers, ...typed } };
}

/** The records that a new job belongs to. @throws NotFoundException for a car that the shop does not have */
export async function linksOf(
  tx: Transaction,
  { vehicleId, customer }: { vehicleId: string | undefined; customer: string | null | undefined },
): Promise<{ vehicleId: string | null; customerId: string | null }> {
  const [car] = vehicleId
    ? await tx
        .select({ id: vehicles.id, customerId: vehicles.customerId })
        .from(vehicles)
        .where(eq(vehicles.id, vehicleId))
    : [];
  if (vehicleId && !car) throw new NotFoundException('This shop has no such car. Choose it again.');
  return { vehicleId: car?.id ?? null, customerId: (await customerNamed(tx, customer)) ?? car?.customerId ?? null };
}

/** The customer on record who is called so. */
export async function customerNamed(tx: Transaction, name: string | null | undefined): Promise<string | null> {
  if (!name?.trim()) return null;
  const [row] = await tx.select({ id: customers.id }).from(customers).where(eq(customers.name, name.trim())).limit(1);
  return row?.id ?? null;
}
