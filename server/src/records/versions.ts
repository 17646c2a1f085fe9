import { createHash } from 'node:crypto';
import { UNKNOWN_CARD, type Bay, type CorrectionId, type Method, type ModelCard } from '@prandel/core';
import { and, eq } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { bayCalibrations, methodVersions, modelCardVersions } from '../database/schema.ts';

// Cards, methods and calibrations are immutable rows: a job points at the one it was run by. The same content is one row.

function digestOf(facts: readonly unknown[]): string {
  return createHash('sha256').update(JSON.stringify(facts)).digest('hex');
}

const sorted = (table: object | undefined) => table && Object.entries(table).sort(([a], [b]) => (a < b ? -1 : 1));

/** @returns the id of the row that says what this card says */
export async function cardVersionOf(tx: Transaction, shopId: string, card: ModelCard): Promise<string> {
  const { label, gear, sensors, safeRpm, settlePulls, notes, baselinesSeenW, chargeAir } = card;
  const { intake, coolant, oil } = sensors;
  const digest = digestOf([
    ...[label, gear, intake, coolant, oil, safeRpm, settlePulls, notes, baselinesSeenW ?? null],
    chargeAir && [chargeAir.sensor, chargeAir.warnC, chargeAir.stopC],
  ]);
  const [made] = await tx
    .insert(modelCardVersions)
    .values({
      ...{ shopId, label, gear, settlePulls, notes, digest },
      ...{ readsIntake: intake, readsCoolant: coolant, readsOil: oil },
      safeFromRpm: safeRpm?.[0] ?? null,
      safeToRpm: safeRpm?.[1] ?? null,
      baselinesSeenW: baselinesSeenW ? [...baselinesSeenW] : null,
      chargeSensor: chargeAir?.sensor ?? null,
      chargeWarnC: chargeAir?.warnC ?? null,
      chargeStopC: chargeAir?.stopC ?? null,
    })
    .onConflictDoNothing()
    .returning({ id: modelCardVersions.id });
  if (made) return made.id;
  const [known] = await tx
    .select({ id: modelCardVersions.id })
    .from(modelCardVersions)
    .where(and(eq(modelCardVersions.shopId, shopId), eq(modelCardVersions.digest, digest)));
  return known!.id;
}

export function cardOf(row: typeof modelCardVersions.$inferSelect): ModelCard {
  const { label, gear, settlePulls, notes, safeFromRpm, safeToRpm, baselinesSeenW, chargeSensor } = row;
  return {
    ...UNKNOWN_CARD,
    ...{ label, gear, settlePulls, notes },
    sensors: { intake: row.readsIntake, coolant: row.readsCoolant, oil: row.readsOil },
    safeRpm: safeFromRpm === null || safeToRpm === null ? null : [safeFromRpm, safeToRpm],
    ...(baselinesSeenW ? { baselinesSeenW } : {}),
    ...(chargeSensor ? { chargeAir: { sensor: chargeSensor, warnC: row.chargeWarnC, stopC: row.chargeStopC } } : {}),
  };
}

/** @returns the id of the row that says what this method says */
export async function methodVersionOf(tx: Transaction, shopId: string, method: Method): Promise<string> {
  const { correction, averagingWidthRpm, settlePulls, gates, name, schools, compressionIgnition: ci } = method;
  const digest = digestOf([
    ...[correction, averagingWidthRpm, settlePulls, sorted(gates), name ?? null, sorted(schools) ?? null],
    ci && [ci.turbocharged, ci.fuelMgPerLitreCycle, ci.boostPressureRatio],
  ]);
  const [made] = await tx
    .insert(methodVersions)
    .values({
      ...{ shopId, correction, averagingWidthRpm, settlePulls, digest },
      tolerances: { ...gates },
      name: name ?? null,
      schools: schools ? { ...schools } : null,
      ciTurbocharged: ci?.turbocharged ?? null,
      ciFuelMgPerLitreCycle: ci?.fuelMgPerLitreCycle ?? null,
      ciBoostPressureRatio: ci?.boostPressureRatio ?? null,
    })
    .onConflictDoNothing()
    .returning({ id: methodVersions.id });
  if (made) return made.id;
  const [known] = await tx
    .select({ id: methodVersions.id })
    .from(methodVersions)
    .where(and(eq(methodVersions.shopId, shopId), eq(methodVersions.digest, digest)));
  return known!.id;
}

export function methodOf(row: typeof methodVersions.$inferSelect): Method {
  const { averagingWidthRpm, settlePulls, tolerances, name, schools } = row;
  const { ciTurbocharged, ciFuelMgPerLitreCycle, ciBoostPressureRatio } = row;
  return {
    correction: row.correction as CorrectionId,
    ...{ averagingWidthRpm, settlePulls, gates: tolerances },
    ...(name === null ? {} : { name }),
    ...(schools ? { schools } : {}),
    ...(ciFuelMgPerLitreCycle === null
      ? {}
      : {
          compressionIgnition: {
            turbocharged: ciTurbocharged ?? false,
            fuelMgPerLitreCycle: ciFuelMgPerLitreCycle,
            boostPressureRatio: ciBoostPressureRatio ?? 1,
          },
        }),
  };
}

/**
 * @param bayId the bay under this roof; null for another shop's rollers
 * @returns the id of the calibration with these facts
 */
export async function calibrationOf(tx: Transaction, shopId: string, bayId: string | null, bay: Bay): Promise<string> {
  const { label, kind, rollerInertiaKgM2, readoutScale, calibrationEpoch, elevationM, lossTorqueNm } = bay;
  const digest = digestOf([
    bayId,
    ...[label, kind, rollerInertiaKgM2, readoutScale, calibrationEpoch, elevationM, lossTorqueNm],
  ]);
  const [made] = await tx
    .insert(bayCalibrations)
    .values({
      ...{ shopId, bayId, kind, rollerInertiaKgM2, readoutScale, elevationM, digest },
      bayLabel: label,
      since: calibrationEpoch,
      lossC0Nm: lossTorqueNm?.[0] ?? null,
      lossC1NmS: lossTorqueNm?.[1] ?? null,
      lossC2NmS2: lossTorqueNm?.[2] ?? null,
    })
    .onConflictDoNothing()
    .returning({ id: bayCalibrations.id });
  if (made) return made.id;
  const [known] = await tx
    .select({ id: bayCalibrations.id })
    .from(bayCalibrations)
    .where(and(eq(bayCalibrations.shopId, shopId), eq(bayCalibrations.digest, digest)));
  return known!.id;
}

/** @param label what the bay is called now; null for another shop's rollers */
export function bayOf(row: typeof bayCalibrations.$inferSelect, label: string | null): Bay {
  const { kind, rollerInertiaKgM2, readoutScale, since, elevationM, lossC0Nm, lossC1NmS, lossC2NmS2 } = row;
  return {
    label: label ?? row.bayLabel,
    ...{ kind, rollerInertiaKgM2, readoutScale, elevationM },
    calibrationEpoch: since,
    lossTorqueNm:
      lossC0Nm === null || lossC1NmS === null || lossC2NmS2 === null ? null : [lossC0Nm, lossC1NmS, lossC2NmS2],
    verdictConstants: {},
    prior: null,
  };
}
