import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fits, guessRole, splitHeader, unitFromWord } from '../pullFile/columnRole.ts';
import { UnreadableError } from '../problem.ts';
import { decodeText } from './decode.ts';
import { guessDecimal, parseClock, parseNumber } from './number.ts';
import { readTable } from './table.ts';

describe('numbers as files write them', () => {
  test.each([
    ['12', '.', 12],
    ['-3.25', '.', -3.25],
    ['1,234.5', '.', 1234.5],
    ['1.234,5', ',', 1234.5],
    ['12 345,6', ',', 12345.6],
    ['7\u00A0200', '.', 7200],
    ["6'900", '.', 6900],
    ['\u22125', '.', -5],
    ['1e3', '.', 1000],
    ['.5', '.', 0.5],
    ['+7', ',', 7],
  ] as const)('%s with decimal %s is %d', (cell, decimal, value) => {
    expect(parseNumber(cell, decimal)).toBe(value);
  });

  test.each(['', ' ', '-', '--', 'NaN', 'n/a', 'null', '#N/A'])('"%s" is a missing cell', (cell) => {
    expect(parseNumber(cell, '.')).toBeNaN();
  });

  test.each(['abc', '12 kW', '1.2.3x', '0x10', '--5'])('"%s" is no number', (cell) => {
    expect(parseNumber(cell, '.')).toBeUndefined();
  });

  test('every finite number survives being written with either decimal (property)', () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), (drawn) => {
        const value = drawn + 0;
        expect(parseNumber(String(value), '.')).toBe(value);
        expect(parseNumber(String(value).replace('.', ','), ',')).toBe(value);
      }),
    );
  });

  test.each([
    [['12,5', '13,25'], ';', ','],
    [['12.5', '13.25'], ';', '.'],
    [['1.234,5', '1.300,0'], ';', ','],
    [['1,234.5'], ',', '.'],
    [['1,234', '5,678'], ';', '.'],
    [['1200', '1300'], ',', '.'],
  ] as const)('%j between "%s" has decimal %s', (cells, delimiter, decimal) => {
    expect(guessDecimal(cells, delimiter)).toBe(decimal);
  });

  test.each([
    ['01:02:03.5', 3723.5],
    ['02:03', 123],
    ['10:00:00,25', 36000.25],
    ['12.5', undefined],
    ['noon', undefined],
  ])('the clock %s is %p seconds', (cell, seconds) => {
    expect(parseClock(cell)).toBe(seconds);
  });
});

describe('text of unknown encoding', () => {
  const words = 'Größe;N·m\n1;2\n3;4';
  test.each([
    ['utf-8', Buffer.from(words, 'utf8')],
    ['utf-16le', Buffer.from('\uFEFF' + words, 'utf16le')],
    ['utf-16be', Buffer.from('\uFEFF' + words, 'utf16le').swap16()],
    ['windows-1252', Buffer.from('Größe;N·m\n1;2\n3;4', 'latin1')],
  ] as const)('%s', (encoding, bytes) => {
    const decoded = decodeText(Uint8Array.from(bytes));
    expect(decoded.encoding).toBe(encoding);
    expect(decoded.text.replace('\uFEFF', '')).toBe(words);
  });

  test('pictures and archives are told to be binary', () => {
    const png = Uint8Array.from([
      0x89,
      0x50,
      0x4e,
      0x47,
      13,
      10,
      26,
      10,
      ...Array.from({ length: 500 }, (_, i) => i % 11),
    ]);
    expect(() => decodeText(png)).toThrow('binary file');
    expect(() => decodeText(new Uint8Array(200))).toThrow(UnreadableError);
  });

  test('lines are counted through blank lines and quoted line breaks', () => {
    const table = readTable('a,b\n\n"x\ny",2\n3,4\n');
    expect(table.rows).toEqual([
      ['a', 'b'],
      ['x\ny', '2'],
      ['3', '4'],
    ]);
    expect(table.lines).toEqual([1, 3, 5]);
  });
});

describe('what a column is', () => {
  test.each([
    ['RPM', 'engineSpeed', 'rpm'],
    ['Engine Speed [1/min]', 'engineSpeed', 'rpm'],
    ['Motordrehzahl', 'engineSpeed', null],
    ['Drehzahl', 'engineSpeed', null],
    ['Power (kW)', 'wheelPower', 'kW'],
    ['Wheel power [hp]', 'wheelPower', 'hp'],
    ['Leistung (PS)', 'wheelPower', 'PS'],
    ['whp', 'wheelPower', 'hp'],
    ['Torque [lb-ft]', 'wheelTorque', 'lb·ft'],
    ['Drehmoment_Nm', 'wheelTorque', 'N·m'],
    ['Torque (kgf.m)', 'wheelTorque', 'kgf·m'],
    ['Time (s)', 'time', 's'],
    ['time_ms', 'time', 'ms'],
    ['Roller speed rad/s', 'rollerSpeed', 'rad/s'],
    ['roller_rad_s', 'rollerSpeed', 'rad/s'],
    ['Brake torque (Nm)', 'brakeTorque', 'N·m'],
    ['Throttle %', 'throttle', '%'],
    ['IAT_C', 'intakeAir', '°C'],
    ['Intake air temp (°F)', 'intakeAir', '°F'],
    ['ECT (deg C)', 'coolant', '°C'],
    ['Oil temp [°C]', 'oil', '°C'],
    ['Ambient temp (C)', 'bayAir', '°C'],
    ['Baro (mbar)', 'stationPressure', 'hPa'],
    ['Humidity (%)', 'humidity', '%'],
    ['Run No.', 'pullName', null],
    ['Lambda', 'lambda', null],
  ])('%s is %s in %s', (header, role, unit) => {
    const split = splitHeader(header);
    expect([guessRole(split.name, split.unit).role, split.unit]).toEqual([role, unit]);
  });

  test('a name and a unit that contradict each other are not believed', () => {
    expect(guessRole('Intake', 'kPa')).toEqual({ role: 'other', confidence: 0.4 });
    expect(fits('wheelPower', 'N·m')).toBe(false);
    expect(fits('time', 'hh:mm:ss')).toBe(true);
    expect(unitFromWord('furlong')).toBeNull();
  });
});
