import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { convert, fromSi, quantityOf, toSi, torqueAtEngineSpeed, UNIT_NAMES, unitsOf } from './units.ts';

describe('units (NIST SP 811)', () => {
  test('P[kW] = T[N·m]·n/9549.2966 and P[hp] = T[lb·ft]·n/5252.1131', () => {
    const torque = torqueAtEngineSpeed(100_000, 5000);
    expect(torque).toBeCloseTo((100 * 9549.2966) / 5000, 6);
    const hp = fromSi(torqueAtEngineSpeed(1, 1) ** 0 * 100_000, 'hp');
    expect((fromSi(torque, 'lb·ft') * 5000) / 5252.1131).toBeCloseTo(hp, 5);
  });

  test.each([
    [1, 'hp', 'W', 745.69987158],
    [1, 'PS', 'W', 735.49875],
    [1, 'lb·ft', 'N·m', 1.3558179483],
    [1, 'inHg', 'Pa', 3386.389],
    [10, '°C', '°F', 50],
    [100, 'mph', 'km/h', 160.9344],
    [1, 'cfm', 'L/s', 0.4719474],
    [1, 'kgf·m', 'N·m', 9.80665],
  ] as const)('%d %s is %s %d', (value, from, to, expected) => {
    expect(convert(value, from, to)).toBeCloseTo(expected, 6);
  });

  test('every unit goes to SI and back, and refuses a unit of another quantity', () => {
    fc.assert(
      fc.property(fc.constantFrom(...UNIT_NAMES), fc.double({ min: -1e6, max: 1e6, noNaN: true }), (name, value) => {
        expect(fromSi(toSi(value, name), name)).toBeCloseTo(value, 6);
        expect(unitsOf(quantityOf(name))).toContain(name);
      }),
    );
    expect(() => convert(1, 'hp', '°C')).toThrow('hp is a unit of power, °C of temperature');
  });
});
