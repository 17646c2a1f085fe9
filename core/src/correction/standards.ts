import { dryAirPressureHpa, type Air } from '../air/air.ts';

/**
 * Weather correction of wheel power and torque: factor × measured value.
 * Each standard carries its published validity; outside it the factor is still given, with a flag.
 */
export const CORRECTION_IDS = ['sae-j1349', 'sae-j607', 'iso-1585-si', 'iso-1585-ci', 'din-70020', 'none'] as const;
export type CorrectionId = (typeof CORRECTION_IDS)[number];

export interface CorrectionFactor {
  readonly factor: number;
  /** What lies outside the standard's stated validity; empty inside it. */
  readonly outside: readonly OutsideValidity[];
}

/** A quantity that lies outside the range for which a standard was published. */
export interface OutsideValidity {
  readonly quantity: 'factor' | 'air' | 'dryPressure';
  readonly low: number;
  readonly high: number;
  readonly unit: '' | '°C' | 'hPa';
}

/** What only `iso-1585-ci` needs: induction, fuel per litre and cycle (mg), boost pressure ratio. */
export interface CompressionIgnition {
  readonly turbocharged: boolean;
  readonly fuelMgPerLitreCycle: number;
  readonly boostPressureRatio: number;
}

export const CORRECTION_NAMES: Record<CorrectionId, string> = {
  'sae-j1349': 'SAE J1349, 25 °C and 99 kPa dry',
  'sae-j607': 'Older 60 °F standard (J607, "STD")',
  'iso-1585-si': 'ISO 1585, spark ignition',
  'iso-1585-ci': 'ISO 1585, compression ignition',
  'din-70020': 'DIN 70020, 20 °C',
  none: 'Uncorrected',
};

/**
 * Whether this names a correction standard.
 * @example isCorrectionId('sae-j1349') // true
 */
export function isCorrectionId(id: string): id is CorrectionId {
  return (CORRECTION_IDS as readonly string[]).includes(id);
}

/**
 * The factor of a standard for the given air. Sources: SAE J1349 (85 % mechanical efficiency, hence the 0.18), SAE J607,
 * ISO 1585 (equal to ECE R85 and 80/1269/EEC for spark engines), DIN 70020; constants as in docs/method.md, correction.
 * @throws TypeError for `iso-1585-ci` without the engine's data
 * @example correctionFactor('din-70020', { pressureHpa: 1000, airC: 25, relativeHumidity: 0 }).factor // 1.02186
 */
export function correctionFactor(id: CorrectionId, air: Air, engine?: CompressionIgnition): CorrectionFactor {
  const dryHpa = dryAirPressureHpa(air);
  const kelvin273 = air.airC + 273;
  switch (id) {
    case 'none':
      return { factor: 1, outside: [] };
    case 'sae-j1349': {
      const factor = 1.18 * (990 / dryHpa) * Math.sqrt(kelvin273 / 298) - 0.18;
      const outside = outsideFactor(factor, 0.93, 1.07);
      if (air.airC < 15 || air.airC > 35) outside.push({ quantity: 'air', low: 15, high: 35, unit: '°C' });
      if (dryHpa < 900 || dryHpa > 1050) outside.push({ quantity: 'dryPressure', low: 900, high: 1050, unit: 'hPa' });
      return { factor, outside };
    }
    case 'sae-j607':
      return { factor: (1013.25 / dryHpa) * Math.sqrt((air.airC + 273.15) / 288.706), outside: [] };
    case 'iso-1585-si': {
      const factor = (990 / dryHpa) ** 1.2 * (kelvin273 / 298) ** 0.6;
      return { factor, outside: outsideFactor(factor, 0.93, 1.07) };
    }
    case 'iso-1585-ci': {
      if (!engine) throw new TypeError('ISO 1585 for compression ignition needs fuel per cycle and boost ratio');
      const factor = compressionIgnitionFactor(dryHpa, kelvin273, engine);
      return { factor, outside: outsideFactor(factor, 0.9, 1.1) };
    }
    case 'din-70020':
      return { factor: (1013.25 / air.pressureHpa) * Math.sqrt(kelvin273 / 293), outside: [] };
    default:
      return id satisfies never;
  }
}

function compressionIgnitionFactor(dryHpa: number, kelvin: number, engine: CompressionIgnition): number {
  const fa = engine.turbocharged
    ? (990 / dryHpa) ** 0.7 * (kelvin / 298) ** 1.5
    : (990 / dryHpa) * (kelvin / 298) ** 0.7;
  const qc = engine.fuelMgPerLitreCycle / engine.boostPressureRatio;
  const fm = qc < 40 ? 0.3 : qc > 65 ? 1.2 : 0.036 * qc - 1.14;
  return fa ** fm;
}

function outsideFactor(factor: number, low: number, high: number): OutsideValidity[] {
  return factor < low || factor > high ? [{ quantity: 'factor', low, high, unit: '' }] : [];
}

/** A sheet's own variant: reference temperature and pressure, dry or total pressure, mechanical efficiency 0–1. */
export interface CustomStandard {
  readonly referenceC: number;
  readonly referenceHpa: number;
  readonly pressure: 'dry' | 'total';
  readonly mechanicalEfficiency: number;
}

/**
 * Factor of a custom standard: the indicated power follows p/√T, friction does not follow the weather, so
 * f = (1/η)·(p0/p)·√(T/T0) − (1/η − 1), the form of SAE J1349 with its own reference.
 * @example customFactor({ referenceC: 25, referenceHpa: 990, pressure: 'total', mechanicalEfficiency: 0.85 }, { pressureHpa: 990, airC: 25, relativeHumidity: 0 }) // 1
 */
export function customFactor(standard: CustomStandard, air: Air): number {
  const pressure = standard.pressure === 'dry' ? dryAirPressureHpa(air) : air.pressureHpa;
  const indicated =
    (standard.referenceHpa / pressure) * Math.sqrt((air.airC + 273.15) / (standard.referenceC + 273.15));
  const inverse = 1 / standard.mechanicalEfficiency;
  return inverse * indicated - (inverse - 1);
}
