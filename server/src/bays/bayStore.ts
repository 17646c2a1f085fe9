import { ConflictException, NotFoundException } from '@nestjs/common';
import type { Bay } from '@prandel/core';
import { and, desc, eq, exists, gt, isNull } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { bayCalibrations, bayInstruments, bays, jobs } from '../database/schema.ts';
import { INSTRUMENT_KINDS, type BayInstruments } from '../database/shapes.ts';
import { daysAgo, UNDO_DAYS } from '../database/undo.ts';
import { bayOf, calibrationOf } from '../records/versions.ts';

/** A bay as it is stored, with the calibration in force and where its instruments are. */
export interface BayRow {
  readonly id: string;
  readonly shopId: string;
  readonly label: string;
  readonly version: number;
  readonly calibrationId: string;
  readonly rollers: Bay;
  readonly instruments: BayInstruments;
}

/** The facts that a body names; the others stay. */
export interface BayChange {
  readonly label?: string | undefined;
  readonly rollers?: Partial<Bay> | undefined;
  readonly instruments?: Partial<BayInstruments> | undefined;
}

/** Facts by which figures of one bay differ from figures of the same bay. */
const CALIBRATED = ['kind', 'rollerInertiaKgM2', 'readoutScale', 'lossTorqueNm'] as const;

/** Bays in use. */
export async function readBays(tx: Transaction, id?: string): Promise<BayRow[]> {
  const rows = await tx
    .select()
    .from(bays)
    .innerJoin(bayCalibrations, eq(bayCalibrations.id, bays.calibrationId))
    .where(and(isNull(bays.deletedAt), id === undefined ? undefined : eq(bays.id, id)));
  const addresses = await tx.select().from(bayInstruments);
  return rows.map(({ bays: bay, bay_calibrations: calibration }) => {
    const at = (kind: (typeof INSTRUMENT_KINDS)[number]) => {
      const own = addresses.find((a) => a.bayId === bay.id && a.kind === kind);
      return own ? { host: own.host, port: own.port } : null;
    };
    const { id: bayId, shopId, label, version, calibrationId, registers } = bay;
    return {
      ...{ id: bayId, shopId, label, version, calibrationId },
      rollers: bayOf(calibration, label),
      instruments: {
        ...{ rollers: at('rollers'), weather: at('weather'), bus: at('bus'), aux: at('aux') },
        registers,
      },
    };
  });
}

export async function insertBay(
  tx: Transaction,
  shopId: string,
  { label, rollers, instruments }: { label: string; rollers: Bay; instruments: BayInstruments },
): Promise<string> {
  // The calibration names its bay and the bay its calibration: the bay comes first, with a calibration of nobody.
  const blank = await calibrationOf(tx, shopId, null, { ...rollers, label });
  const [row] = await tx
    .insert(bays)
    .values({ shopId, label, calibrationId: blank, registers: instruments.registers })
    .returning({ id: bays.id });
  const id = row!.id;
  const calibrationId = await calibrationOf(tx, shopId, id, { ...rollers, label });
  await tx.update(bays).set({ calibrationId }).where(eq(bays.id, id));
  await writeInstruments(tx, shopId, id, instruments);
  return id;
}

async function writeInstruments(
  tx: Transaction,
  shopId: string,
  bayId: string,
  instruments: Partial<BayInstruments>,
): Promise<void> {
  for (const kind of INSTRUMENT_KINDS) {
    const address = instruments[kind];
    if (address === undefined) continue;
    await tx.delete(bayInstruments).where(and(eq(bayInstruments.bayId, bayId), eq(bayInstruments.kind, kind)));
    if (address)
      await tx.insert(bayInstruments).values({ shopId, bayId, kind, host: address.host, port: address.port });
  }
}

/**
 * Changes what is named. Rollers that weigh or lose something else begin another calibration epoch, unless none was used yet.
 * @throws ConflictException when somebody else changed the bay since `version` was read
 */
export async function changeBay(
  tx: Transaction,
  shopId: string,
  id: string,
  version: number | undefined,
  { label, rollers, instruments }: BayChange,
): Promise<void> {
  await tx.select({ id: bays.id }).from(bays).where(eq(bays.id, id)).for('update');
  const [before] = await readBays(tx, id);
  if (!before) throw new NotFoundException('This shop has no such bay.');
  if (version !== undefined && before.version !== version)
    throw new ConflictException('Somebody else changed this bay meanwhile. Load it again, then repeat your change.');
  const next = { ...before.rollers, ...rollers, label: label ?? before.label };
  const recalibrated = CALIBRATED.some((key) => JSON.stringify(next[key]) !== JSON.stringify(before.rollers[key]));
  if (recalibrated && next.calibrationEpoch === before.rollers.calibrationEpoch && (await used(tx, before)))
    next.calibrationEpoch = freshEpoch(before.rollers.calibrationEpoch);
  const calibrationId = await calibrationOf(tx, shopId, id, next);
  await tx
    .update(bays)
    .set({
      ...{ label: next.label, calibrationId, version: before.version + 1 },
      ...(instruments?.registers ? { registers: instruments.registers } : {}),
    })
    .where(eq(bays.id, id));
  await writeInstruments(tx, shopId, id, instruments ?? {});
}

/** Whether a job was run on the calibration in force. */
async function used(tx: Transaction, { calibrationId }: BayRow): Promise<boolean> {
  const [row] = await tx
    .select({ id: bayCalibrations.id })
    .from(bayCalibrations)
    .where(
      and(
        eq(bayCalibrations.id, calibrationId),
        exists(tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.calibrationId, calibrationId)).limit(1)),
      ),
    );
  return row !== undefined;
}

/** Named by its day; a second one of that day by a count. */
function freshEpoch(before: string | null): string {
  const day = new Date().toISOString().slice(0, 10);
  if (!before?.startsWith(day)) return day;
  const count = Number(/ \((\d+)\)$/.exec(before)?.[1] ?? 1);
  return `${day} (${count + 1})`;
}

export async function deletedBays(tx: Transaction): Promise<{ id: string; label: string; deletedAt: string }[]> {
  const rows = await tx
    .select({ id: bays.id, label: bays.label, deletedAt: bays.deletedAt })
    .from(bays)
    .where(gt(bays.deletedAt, daysAgo(UNDO_DAYS)))
    .orderBy(desc(bays.deletedAt));
  return rows.map((row) => ({ ...row, deletedAt: row.deletedAt!.toISOString() }));
}
