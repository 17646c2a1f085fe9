import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fieldsOf } from './fields.ts';
import { standardIn, statedIn } from './stated.ts';

const rows = (text: string, delimiter = ';') => text.split('\n').map((line) => line.split(delimiter));
const stated = (text: string, delimiter?: string) => statedIn(fieldsOf(rows(text, delimiter)));

describe('fields of the lines of a file', () => {
  test.each([
    ['Air temperature: 24.5 °C', [{ key: 'Air temperature', value: '24.5 °C' }]],
    ['Pressure;1002 hPa', [{ key: 'Pressure', value: '1002 hPa' }]],
    ['# Humidity = 45 %', [{ key: 'Humidity', value: '45 %' }]],
    ['Temperature;24,5;°C', [{ key: 'Temperature', value: '24,5 °C' }]],
    ['Date: 2026-11-26 14:32:10', [{ key: 'Date', value: '2026-11-26 14:32:10' }]],
    [
      'Air: 24 °C;Pressure: 1002 hPa',
      [
        { key: 'Air', value: '24 °C' },
        { key: 'Pressure', value: '1002 hPa' },
      ],
    ],
    ['rpm;kW;Nm;°C', []],
    ['14:32:10', []],
    ['2000;50.1', []],
    ['', []],
    ['a line of nobody', []],
  ])('%j', (line, fields) => {
    expect(fieldsOf(rows(line))).toEqual(fields);
  });

  test('any text gives fields of bounded size and never an error', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.string({ unit: 'binary', maxLength: 60 }), { maxLength: 6 }), { maxLength: 30 }),
        (cells) => {
          const fields = fieldsOf(cells);
          for (const { key, value } of fields) expect(key.length + value.length).toBeLessThan(200);
          statedIn(fields);
        },
      ),
    );
  });
});

describe('what lines say of weather', () => {
  test.each<[string, number | null]>([
    ['Air temperature: 24.5 °C', 24.5],
    ['Lufttemperatur;24,5', 24.5],
    ['Ambient temp [F]: 77', 25],
    ['Temperature: 77 F', 25],
    ['Temp: 77', 25],
    ['Cell temp: 298.15 K', 25],
    ['Intake temperature: 31', null],
    ['Oil temp: 90', null],
    ['Air temperature: cold', null],
    ['Air temperature: 240 °C', null],
  ])('air: %s', (line, value) => {
    const read = stated(line).airC;
    if (value === null) expect(read).toBeNull();
    else expect(read!.value).toBeCloseTo(value, 6);
  });

  // NIST SP 811: 1 inHg at 0 °C 3386.389 Pa, 1 mmHg 133.3224 Pa.
  test.each<[string, number | null]>([
    ['Air pressure: 1002.4 hPa', 1002.4],
    ['Luftdruck: 1002,4 mbar', 1002.4],
    ['Baro: 29.92', 1013.2076],
    ['Barometer: 29.92 inHg', 1013.2076],
    ['Pressure: 99.1 kPa', 991],
    ['Pressure: 0.991 bar', 991],
    ['Ambient pressure: 99100 Pa', 991],
    ['Pressure: 99.1', 991],
    ['Oil pressure: 4 bar', null],
    ['Tyre pressure: 220 kPa', null],
    ['Pressure: 14 bar', null],
  ])('pressure: %s', (line, value) => {
    const read = stated(line).pressureHpa;
    if (value === null) expect(read).toBeNull();
    else expect(read!.value).toBeCloseTo(value, 2);
  });

  test('a setting reduced to sea level becomes the station’s with a height; 1976 standard atmosphere, 500 m: 954.6 hPa', () => {
    const read = stated('Altimeter setting: 1013.25 hPa\nAltitude: 500 m').pressureHpa!;
    expect(read.value).toBeCloseTo(954.6, 0);
    expect(stated('QNH: 29.92 inHg\nElevation: 1640 ft').pressureHpa!.value).toBeCloseTo(954.6, 0);
    expect(stated('QNH: 1013').pressureHpa).toBeNull();
  });

  test.each<[string, number | null]>([
    ['Humidity: 45 %', 0.45],
    ['rel. Feuchte;45', 0.45],
    ['RH: 0.45', 0.45],
    ['Humidity: 145', null],
  ])('humidity: %s', (line, value) => {
    expect(stated(line).relativeHumidity?.value ?? null).toBe(value);
  });
});

describe('what lines say of the numbers', () => {
  test.each([
    ['SAE J1349', 'sae-j1349'],
    ['SAE', 'sae-j1349'],
    ['sae j607', 'sae-j607'],
    ['STD', 'sae-j607'],
    ['DIN 70020', 'din-70020'],
    ['DIN', 'din-70020'],
    ['ISO 1585', 'iso-1585-si'],
    ['80/1269/EEC', 'iso-1585-si'],
    ['EWG', 'iso-1585-si'],
    ['whatever', null],
  ])('standard %s', (text, id) => {
    expect(standardIn(text)).toBe(id);
  });

  test.each([
    ['Correction: SAE J1349\nCorrection factor: 1.021', { kind: 'corrected', standard: 'sae-j1349', factor: 1.021 }],
    ['Korrekturfaktor;1,021', { kind: 'corrected', standard: null, factor: 1.021 }],
    ['Correction: DIN 70020', { kind: 'corrected', standard: 'din-70020', factor: null }],
    ['Correction: STD x1.037', { kind: 'corrected', standard: null, factor: 1.037 }],
    ['Correction: +2.1 %', { kind: 'corrected', standard: null, factor: 1.021 }],
    ['SAE correction factor: 0.987', { kind: 'corrected', standard: 'sae-j1349', factor: 0.987 }],
    ['Correction: none', { kind: 'uncorrected', standard: null, factor: null }],
    ['Korrektur: aus', { kind: 'uncorrected', standard: null, factor: null }],
    ['Correction factor: 1.000', { kind: 'uncorrected', standard: null, factor: null }],
  ])('%j', (text, state) => {
    expect(stated(text).state).toMatchObject(state);
  });

  test('a factor of something else is none of the weather', () => {
    expect(stated('Tyre factor: 1.02').state).toBeNull();
    expect(stated('Correction factor: 3.2').state).toBeNull();
    expect(stated('no word of it').state).toBeNull();
  });

  test('gear, car, round, smoothing and the ratio of a speed axis', () => {
    const said = stated('Gear: 4\nVehicle: Tarn Vireo 1.8\nRound: 2\nSmoothing: 50 rpm\nRatio: 36,5 rpm/(km/h)');
    expect([
      said.gear?.value,
      said.vehicle?.value,
      said.round?.value,
      said.averagingRpm?.value,
      said.rpmPerKmH?.value,
    ]).toEqual(['4', 'Tarn Vireo 1.8', '2', 50, 36.5]);
    expect(stated('Smoothing: 5').averagingRpm).toBeNull();
    expect(stated('Ratio: 5.2').rpmPerKmH).toBeNull();
  });
});
