import { describe, expect, test } from '@jest/globals';
import psychrolib from 'psychrolib';
import { correctionFactor, customFactor, type CorrectionId } from '../correction/standards.ts';
import { spreadOf, translations } from '../correction/translator.ts';
import {
  airDensityKgM3,
  densityAltitudeM,
  dryAirPressureHpa,
  pressureFitsElevation,
  standardAtmosphere,
  stationPressureHpa,
} from './air.ts';
import {
  saturationVapourPressurePa,
  vapourPressureFromDewPointPa,
  vapourPressureFromWetBulbPa,
  vapourPressurePa,
} from './vapourPressure.ts';

psychrolib.SetUnitSystem(psychrolib.SI);

describe('vapour pressure', () => {
  // ASHRAE Handbook of Fundamentals, thermodynamic properties of water at saturation.
  test.each([
    [0, 611.2],
    [20, 2338.8],
    [25, 3169],
    [30, 4246],
  ])('at %d °C is %d Pa within 0.1 %% (ASHRAE table)', (airC, pascal) => {
    expect(Math.abs(saturationVapourPressurePa(airC) / pascal - 1)).toBeLessThan(0.001);
  });

  test('agrees with the reference package psychrolib above the ice point', () => {
    for (let t = 1; t <= 45; t += 1) {
      expect(saturationVapourPressurePa(t) / psychrolib.GetSatVapPres(t)).toBeCloseTo(1, 9);
      const wetBulb = psychrolib.GetTWetBulbFromRelHum(t, 0.4, 100_000);
      if (wetBulb > 1) {
        const ours = vapourPressureFromWetBulbPa(t, wetBulb, 1000);
        expect(Math.abs(ours / vapourPressurePa(t, 0.4) - 1)).toBeLessThan(0.01);
      }
      expect(vapourPressureFromDewPointPa(psychrolib.GetTDewPointFromRelHum(t + 8, 0.8))).toBeCloseTo(
        psychrolib.GetVapPresFromRelHum(t + 8, 0.8),
        -1,
      );
    }
  });

  test('humidity above 1 is told to look like per cent', () => {
    expect(() => vapourPressurePa(20, 45)).toThrow('looks like per cent');
  });
});

describe('standard atmosphere (ICAO Doc 7488 / ISO 2533)', () => {
  test.each([
    [1000, 898.746, 281.65, 1.11164],
    [2000, 794.952, 275.15, 1.00649],
  ])('%d m', (height, pressure, kelvin, density) => {
    const row = standardAtmosphere(height);
    expect(row.pressureHpa).toBeCloseTo(pressure, 2);
    expect(row.temperatureK).toBeCloseTo(kelvin, 6);
    expect(row.densityKgM3).toBeCloseTo(density, 5);
    expect(Math.abs(densityAltitudeM(density) - height)).toBeLessThan(1);
    expect(stationPressureHpa(1013.25, height)).toBeCloseTo(pressure, 2);
  });

  test('a sea-level reading at 800 m is recognised', () => {
    expect(pressureFitsElevation(1013, 800)).toBe(false);
    expect(pressureFitsElevation(921, 800)).toBe(true);
  });
});

describe('correction factors (docs/method.md, ±0.0002)', () => {
  test.each([
    [990, 25, 0, 990, 1, 1.04009, 1, 1.03218, 1.15674, 593, false],
    [1013.25, 25, 0.5, 997.4, 0.99124, 1.03237, 0.9911, 1.0085, 1.17691, 415, false],
    [1000, 20, 0.4, 990.64, 0.9893, 1.03066, 0.98913, 1.01325, 1.18415, 352, false],
    [950, 32, 0.6, 921.45, 1.10259, 1.13051, 1.10522, 1.0882, 1.07222, 1366, true],
    [840, 28, 0.3, 828.65, 1.23684, 1.24884, 1.24545, 1.22261, 0.96674, 2399, true],
    [1020, 5, 0.8, 1013.02, 0.93382, 0.98177, 0.93308, 0.96762, 1.27418, -412, true],
  ])(
    'p %d hPa, %d °C, RH %d',
    (pressureHpa, airC, relativeHumidity, dry, j1349, j607, iso, din, density, altitude, flag) => {
      const air = { pressureHpa, airC, relativeHumidity };
      expect(dryAirPressureHpa(air)).toBeCloseTo(dry, 1);
      for (const [id, expected] of [
        ['sae-j1349', j1349],
        ['sae-j607', j607],
        ['iso-1585-si', iso],
        ['din-70020', din],
      ] as const) {
        expect(Math.abs(correctionFactor(id, air).factor - expected)).toBeLessThan(0.0002);
      }
      expect(correctionFactor('sae-j1349', air).outside.length > 0).toBe(flag);
      expect(Math.abs(airDensityKgM3(air) - density)).toBeLessThan(0.00002);
      expect(Math.abs(densityAltitudeM(airDensityKgM3(air)) - altitude)).toBeLessThan(1);
    },
  );

  test('compression ignition: fm is 0.3 below 40, 1.2 above 65, linear between', () => {
    const air = { pressureHpa: 950, airC: 35, relativeHumidity: 0.2 };
    const at = (qc: number, turbocharged: boolean) =>
      Math.log(
        correctionFactor('iso-1585-ci', air, { turbocharged, fuelMgPerLitreCycle: qc, boostPressureRatio: 1 }).factor,
      );
    expect(at(30, false) / at(80, false)).toBeCloseTo(0.25, 9);
    expect(at(50, true) / at(80, true)).toBeCloseTo((0.036 * 50 - 1.14) / 1.2, 9);
    expect(() => correctionFactor('iso-1585-ci', air)).toThrow('fuel per cycle');
  });

  test('a custom standard with J1349 references gives J1349, and a sheet translates back to itself', () => {
    const air = { pressureHpa: 981, airC: 27, relativeHumidity: 0.5 };
    const custom = customFactor(
      { referenceC: 25, referenceHpa: 990, pressure: 'dry', mechanicalEfficiency: 1 / 1.18 },
      air,
    );
    expect(custom).toBeCloseTo(correctionFactor('sae-j1349', air).factor, 5);
    const sheet = { printed: null, air, own: [{ kind: 'factor', factor: 1.03 }] } as const;
    const under = (value: number, from: CorrectionId) => translations(value, { ...sheet, from });
    const other = under(150, 'sae-j1349').find((r) => r.standard === 'sae-j607')!.value!;
    expect(other).toBeGreaterThan(155);
    expect(under(other, 'sae-j607').find((r) => r.standard === 'sae-j1349')!.value).toBeCloseTo(150, 9);
    // A printed factor is believed: 103 by it is 100 uncorrected, whatever the standard gives.
    const printed = translations(103, { ...sheet, from: 'sae-j1349', printed: 1.03 });
    expect(printed.find((r) => r.standard === 'none')!.value).toBeCloseTo(100, 9);
    expect(printed.at(-1)!.value).toBeCloseTo(103, 9);
    expect(printed.find((r) => r.standard === 'iso-1585-ci')!.value).toBeNull();
    expect(spreadOf([{ value: 100 }, { value: null }, { value: 104 }])).toEqual({
      low: 100,
      high: 104,
      percent: expect.closeTo(4, 9),
    });
  });
});
