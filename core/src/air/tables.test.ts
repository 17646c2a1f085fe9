import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { correctionFactor, CORRECTION_IDS } from '../correction/standards.ts';
import { convert, type UnitName } from '../units/units.ts';
import { airDensityKgM3, densityAltitudeM, dryAirPressureHpa, standardAtmosphere, stationPressureHpa } from './air.ts';
import { saturationVapourPressurePa } from './vapourPressure.ts';

// ICAO Doc 7488 / ISO 2533, geopotential height in m, pressure in hPa, temperature in K, density in kg/m³.
// Rows other than 1000 and 2000 m: value from memory.
const STANDARD_ATMOSPHERE: readonly (readonly [number, number, number, number])[] = [
  [-500, 1074.78, 291.4, 1.28489],
  [0, 1013.25, 288.15, 1.225],
  [500, 954.608, 284.9, 1.16727],
  [1000, 898.746, 281.65, 1.11164],
  [1500, 845.56, 278.4, 1.05807],
  [2000, 794.952, 275.15, 1.00649],
  [2500, 746.825, 271.9, 0.956859],
  [3000, 701.085, 268.65, 0.909122],
];

test.each(STANDARD_ATMOSPHERE)('standard atmosphere at %d m', (height, pressureHpa, kelvin, density) => {
  const row = standardAtmosphere(height);
  expect(Math.abs(row.pressureHpa - pressureHpa)).toBeLessThan(0.02);
  expect(row.temperatureK).toBeCloseTo(kelvin, 6);
  expect(Math.abs(row.densityKgM3 - density)).toBeLessThan(2e-5);
  expect(Math.abs(densityAltitudeM(density) - height)).toBeLessThan(1);
});

// Saturation pressure over water in Pa: ASHRAE Handbook of Fundamentals, properties of water at saturation.
// Rows other than 0, 20, 25 and 30 °C: value from memory.
const SATURATION: readonly (readonly [number, number])[] = [
  [0, 611.2],
  [5, 872.6],
  [10, 1228],
  [15, 1705.7],
  [20, 2338.8],
  [25, 3169],
  [30, 4246],
  [35, 5628],
  [40, 7383],
  [45, 9593],
];

test.each(SATURATION)('saturation over water at %d °C is %d Pa within 0.15 %%', (airC, pascal) => {
  expect(Math.abs(saturationVapourPressurePa(airC) / pascal - 1)).toBeLessThan(0.0015);
});

// NIST SP 811, appendix B.8 and B.9; values from memory except the factors of power and torque.
const UNITS: readonly (readonly [number, UnitName, number, UnitName])[] = [
  [1, 'hp', 0.74569987158, 'kW'],
  [1, 'PS', 0.73549875, 'kW'],
  [1, 'hp', 1.013869665, 'PS'],
  [1, 'lb·ft', 1.3558179483, 'N·m'],
  [1, 'kgf·m', 9.80665, 'N·m'],
  [1, 'kgf·m', 7.23301385, 'lb·ft'],
  [29.92, 'inHg', 1013.2076, 'hPa'],
  [760, 'mmHg', 1013.25, 'hPa'],
  [14.69595, 'psi', 1013.25, 'hPa'],
  [1, 'bar', 100, 'kPa'],
  [1, 'bar', 750.0617, 'mmHg'],
  [60, '°F', 15.5556, '°C'],
  [77, '°F', 25, '°C'],
  [-40, '°F', -40, '°C'],
  [298.15, 'K', 25, '°C'],
  [100, 'ft', 30.48, 'm'],
  [60, 'mph', 96.56064, 'km/h'],
  [1, 'm/s', 3.6, 'km/h'],
  [1, 'lb', 0.45359237, 'kg'],
  [1000, 'cfm', 471.94745, 'L/s'],
  [60, 'roller rpm', 6.283185307, 'rad/s'],
  [6.5, '1000 rpm', 6500, 'rpm'],
  [250, 'ms', 0.25, 's'],
  [47, '%', 0.47, 'fraction'],
];

test.each(UNITS)('%d %s is %d %s', (value, from, expected, to) => {
  expect(Math.abs(convert(value, from, to) - expected)).toBeLessThan(2e-5 * Math.max(1, Math.abs(expected)));
  expect(convert(expected, to, from)).toBeCloseTo(value, 2);
});

describe('what the formulas must do whatever the weather (property)', () => {
  const weather = fc.record({
    pressureHpa: fc.double({ min: 850, max: 1050, noNaN: true }),
    airC: fc.double({ min: 0, max: 40, noNaN: true }),
    relativeHumidity: fc.double({ min: 0, max: 1, noNaN: true }),
  });
  const spark = CORRECTION_IDS.filter((id) => id !== 'none' && id !== 'iso-1585-ci');

  test('thinner air asks for a larger factor: less pressure, more heat', () => {
    fc.assert(
      fc.property(weather, fc.constantFrom(...spark), (air, id) => {
        const factor = correctionFactor(id, air).factor;
        expect(correctionFactor(id, { ...air, pressureHpa: air.pressureHpa - 10 }).factor).toBeGreaterThan(factor);
        expect(correctionFactor(id, { ...air, airC: air.airC + 2 }).factor).toBeGreaterThan(factor);
      }),
    );
  });

  test('vapour displaces dry air: damp air is lighter and corrects upwards, except by total pressure', () => {
    fc.assert(
      fc.property(weather, (air) => {
        fc.pre(air.relativeHumidity < 0.9);
        const damper = { ...air, relativeHumidity: air.relativeHumidity + 0.1 };
        expect(dryAirPressureHpa(damper)).toBeLessThan(dryAirPressureHpa(air));
        expect(airDensityKgM3(damper)).toBeLessThan(airDensityKgM3(air));
        expect(correctionFactor('sae-j1349', damper).factor).toBeGreaterThan(correctionFactor('sae-j1349', air).factor);
        expect(correctionFactor('din-70020', damper).factor).toBe(correctionFactor('din-70020', air).factor);
      }),
    );
  });

  test('the older 60 °F standard reads 1 to 5 % above the 77 °F standard (common practice, no source)', () => {
    for (let pressureHpa = 900; pressureHpa <= 1030; pressureHpa += 10) {
      for (let airC = 5; airC <= 35; airC += 5) {
        for (const relativeHumidity of [0, 0.4, 0.8]) {
          const air = { pressureHpa, airC, relativeHumidity };
          const spread = correctionFactor('sae-j607', air).factor / correctionFactor('sae-j1349', air).factor - 1;
          expect(spread).toBeGreaterThan(0.009);
          expect(spread).toBeLessThan(0.057);
        }
      }
    }
  });

  test('an altimeter setting and the elevation give the station pressure and back', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 960, max: 1050, noNaN: true }),
        fc.double({ min: 0, max: 2500, noNaN: true }),
        (qnh, elevation) => {
          const station = stationPressureHpa(qnh, elevation);
          expect(station).toBeLessThanOrEqual(qnh + 1e-9);
          expect(stationPressureHpa(station, -elevation)).toBeCloseTo(qnh, 6);
        },
      ),
    );
  });
});
