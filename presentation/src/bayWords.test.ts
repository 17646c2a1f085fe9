import { expect, test } from '@jest/globals';
import { limitsCrossed, type GateFinding } from '@prandel/core';
import { crossedWords, gateFindingWords, gateName, reasonWords, USUAL_UNITS } from './index.ts';

const FAHRENHEIT = { ...USUAL_UNITS, temperature: '°F' } as const;

test.each([
  ['coolant_c', 108.26, 'Coolant is 108.3 °C, the limit is 1 °C.', 'Coolant is 226.9 °F, the limit is 33.8 °F.'],
  ['oil_bar', 1.04, 'Oil pressure is 1.0 bar, the limit is 1 bar.', null],
  ['knock_retard_deg', 3.2, 'Knock retard is 3.2°, the limit is 1°.', null],
  ['bank_2_lambda', 1.874, 'Bank 2 is 1.87, the limit is 1.', null],
])('STOP says what crossed in words and units: %s', (channel, value, said, fahrenheit) => {
  const crossed = { limit: { channel, warn: null, stop: 1, side: 'above' }, value, level: 'stop' } as const;
  expect(crossedWords(crossed)).toBe(said);
  expect(crossedWords(crossed, FAHRENHEIT)).toBe(fahrenheit ?? said);
});

test('a warning names its own edge', () => {
  const limit = { channel: 'charge_c', warn: 75, stop: 85, side: 'above' as const };
  const said = (value: number) => limitsCrossed([limit], { charge_c: value }).map((c) => crossedWords(c));
  expect(said(85)).toEqual(['Air after the intercooler is 85.0 °C, the limit is 85 °C.']);
  expect(said(76.25)).toEqual(['Air after the intercooler is 76.3 °C, the limit is 75 °C.']);
});

test('a temperature that misses its window is a difference, in the person’s unit; what to do stands behind it', () => {
  const warm = (recovery: 'forecast' | 'reading' | 'not-on-its-own'): GateFinding => ({
    ...{ code: 'too-warm', byC: 2, recovery },
  });
  expect(gateFindingWords(warm('forecast'), 'Coolant')).toBe('2.0 °C too warm');
  expect(gateFindingWords(warm('not-on-its-own'), 'Coolant', FAHRENHEIT)).toBe(
    '3.6 °F too warm, not on its own: look at the fan',
  );
  const reason = { kind: 'condition', key: 'coolantC', label: 'Coolant' } as const;
  expect(reasonWords({ ...reason, finding: { code: 'too-cold', byC: 4 } })).toBe(
    'Coolant: 4.0 °C too cold: warm it up first',
  );
  expect(reasonWords({ ...reason, finding: { code: 'no-signal', ageS: 41.2 } })).toBe('Coolant: No signal for 41 s');
  expect(['coolantC', 'fan', 'rollers', 'boostGate', 'constructor'].map(gateName)).toEqual([
    ...['Coolant', 'Fan', 'Rollers without a signal', 'boostGate', 'constructor'],
  ]);
  // A sentence that names its condition itself does not stand behind its name.
  expect(
    reasonWords({ kind: 'condition', key: 'fan', label: 'Fan', finding: { code: 'set-point-differs', to: '3' } }),
  ).toBe('Set fan to 3, or declare it');
});
