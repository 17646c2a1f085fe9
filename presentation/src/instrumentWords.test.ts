import { expect, test } from '@jest/globals';
import { USUAL_UNITS } from './figures.ts';
import { instrumentFaultWords, lastGoodWords, readingWords } from './instrumentWords.ts';

const fahrenheit = { ...USUAL_UNITS, temperature: '°F' } as const;

test('a device panel tells readings side by side, whole degrees as whole degrees, in the unit that a person reads', () => {
  expect(readingWords({ coolant_c: 91, oil_bar: 2.07, exhaust_c: 485.25 })).toBe(
    'Coolant 91 °C, oil pressure 2.1 bar, exhaust gas 485.3 °C',
  );
  expect(readingWords({ coolant_c: 90 }, fahrenheit)).toBe('Coolant 194 °F');
  expect(readingWords({})).toBe('');
  const weather = { kind: 'weather', lastGood: { airC: 22, pressureHpa: 1003.6, relativeHumidity: 0.506 } } as const;
  expect(lastGoodWords(weather)).toBe('22.0 °C, 1003.6 hPa, 51 %');
  expect(lastGoodWords(weather, fahrenheit)).toBe('71.6 °F, 1003.6 hPa, 51 %');
  expect(lastGoodWords({ kind: 'rollers', lastGood: { engine_rpm: 849.6 } })).toBe('850 rpm, roller – rad/s');
  expect(lastGoodWords({ kind: 'aux', lastGood: null })).toBeNull();
});

test('what is wrong with an instrument says where to look', () => {
  expect(instrumentFaultWords({ code: 'no-connection', host: '10.0.0.5', port: 502 })).toBe(
    'No connection to 10.0.0.5:502.',
  );
  expect(instrumentFaultWords({ code: 'not-believed', channel: 'coolant_c', value: 300 }, fahrenheit)).toBe(
    'Coolant 572 °F is not believed.',
  );
});
